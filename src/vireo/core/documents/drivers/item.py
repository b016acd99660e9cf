"""A number of an item of the document other than a step: how many copies, an offset or a value of a
joint, a load."""

from __future__ import annotations

from contextlib import suppress
from typing import Any

from vireo.core.documents.base import Amount, Cell, Document
from vireo.core.documents.driver import Driven, Driver, Of, put, register, swapped
from vireo.core.documents.kind import kind_of
from vireo.core.quantity import FormulaError, evaluate, evaluate_parameters, formulas_in


def _item(document: Document, of: Of) -> tuple[str, Any] | None:
    for group in kind_of(document).groups:
        if group.name == of["group"] and group.name != "steps":
            for item in getattr(document, group.name):
                if item.id == of["id"]:
                    return group.word, item
    return None


def _text(item: Any, path: str) -> str | None:
    data = item.model_dump(mode="json")
    for word in path.split("."):
        data = data.get(word) if isinstance(data, dict) else None
    return data if isinstance(data, str) and data in formulas_in(item) else None


@register
class ItemDriver(Driver[Document]):
    kind = "item"
    of = ("group", "id", "field")
    reaches = False

    def driven(self, document: Document, of: Of) -> Driven | None:
        found = _item(document, of)
        text = _text(found[1], of["field"]) if found else None
        if found is None or text is None:
            return None
        word, item = found
        values = {
            n: e.value for n, e in evaluate_parameters(document.parameters).items() if e.value
        }
        dimension = None
        with suppress(FormulaError):
            dimension = evaluate(text, values).dimension.name
        called = f"{getattr(item, 'name', item.id)} · {of['field'].split('.')[-1]}"
        return Driven(called, "number", f"{word}:{item.id}", dimension)

    def read(self, document: Document, of: Of) -> Cell:
        found = _item(document, of)
        return Amount(formula=(_text(found[1], of["field"]) if found else None) or "")

    def write(self, document: Document, of: Of, cell: Amount) -> Document:
        found = _item(document, of)
        assert found is not None
        data = found[1].model_dump(mode="json")
        inner, (*path, last) = data, of["field"].split(".")
        for word in path:
            inner = inner[word]
        inner[last] = cell.formula
        changed = type(found[1]).model_validate(data)
        items = swapped(getattr(document, of["group"]), found[1], changed)
        made: Document = put(document, **{of["group"]: items})
        return made
