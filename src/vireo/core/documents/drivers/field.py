"""A field of a step: a number, a choice, picks; a size of a sketch."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from typing import Any

from pydantic import TypeAdapter

from vireo.core.declared.fields import told_of
from vireo.core.declared.step import KINDS, checked_fields
from vireo.core.documents.base import Amount, Cell
from vireo.core.documents.driver import CellKind, Driven, Driver, Of, put, register, swapped
from vireo.core.documents.kinds.part import Part, Step
from vireo.core.naming import Pick
from vireo.core.quantity import FormulaError, evaluate, evaluate_parameters

_PICKS = TypeAdapter(tuple[Pick, ...])
#: How fields of a type are shown in cells; others cannot be driven.
_CELLS: dict[str, CellKind] = {
    "quantity": "number", "toggle": "flag", "choice": "choice", "name": "text", "picks": "picks",
}  # fmt: skip


def _inner(data: Any, path: Sequence[str]) -> Any:
    """What lies at a path inside stored fields; items of lists go by their id. None where nothing
    does."""
    for word in path:
        if isinstance(data, list):
            data = next((x for x in data if isinstance(x, dict) and x.get("id") == word), None)
        elif isinstance(data, dict):
            data = data.get(word)
        else:
            return None
    return data


def _with(data: Any, path: Sequence[str], value: Any) -> Any:
    """Stored fields with something else at a path."""
    if not path:
        return value
    word, *rest = path
    if isinstance(data, list):
        return [_with(x, rest, value) if x.get("id") == word else x for x in data]
    return {**data, word: _with(data[word], rest, value)}


def _dimension(part: Part, formula: str) -> str | None:
    values = {n: e.value for n, e in evaluate_parameters(part.parameters).items() if e.value}
    with suppress(FormulaError):
        return evaluate(formula, values).dimension.name
    return None


@register
class FieldDriver(Driver[Part]):
    kind = "field"
    of = ("step", "field")
    on = ("part",)

    def driven(self, document: Part, of: Of) -> Driven | None:
        step = document.step(of["step"])
        if step is None or step.kind not in KINDS:
            return None
        name, *rest = of["field"].split(".")
        meta = told_of(KINDS[step.kind].Fields).get(name)
        if meta is None:
            return None
        where = f"step:{step.id}"
        if not rest:
            cell = _CELLS.get(meta.get("type", ""))
            if cell is None:
                return None
            called = f"{step.name} · {meta['label']}"
            return Driven(called, cell, where, meta.get("dimension"), meta.get("words") or {})
        value = _inner(step.fields, of["field"].split("."))
        if rest[-1] != "formula" or not isinstance(value, str):
            return None
        holder = _inner(step.fields, of["field"].split(".")[:-1])
        word = str(holder.get("type") or meta.get("label") or name).replace("_", " ")
        id = f" {holder['id']}" if "id" in holder else ""
        return Driven(f"{step.name} · {word}{id}", "number", where, _dimension(document, value))

    def read(self, document: Part, of: Of) -> Cell:
        step = self._step(document, of)
        value = _inner(step.fields, of["field"].split("."))
        if isinstance(value, list):
            return _PICKS.validate_python(value)
        driven = self.driven(document, of)
        if driven is not None and driven.cell == "number":
            return Amount(formula=str(value))
        found: Cell = value
        return found

    def write(self, document: Part, of: Of, cell: Any) -> Part:
        step = self._step(document, of)
        value = cell.formula if isinstance(cell, Amount) else cell
        if isinstance(value, tuple):
            value = [p.model_dump(mode="json") for p in value]
        fields = checked_fields(step.kind, _with(step.fields, of["field"].split("."), value))
        changed = put(step, fields=fields)
        made: Part = put(document, steps=swapped(document.steps, step, changed))
        return made

    def _step(self, document: Part, of: Of) -> Step:
        step = document.step(of["step"])
        assert step is not None
        return step
