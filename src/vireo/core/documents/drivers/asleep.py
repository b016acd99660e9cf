"""Whether a step, a joint or copies are asleep."""

from __future__ import annotations

from typing import Any

from vireo.core.documents.base import Cell, Document
from vireo.core.documents.driver import Driven, Driver, Of, put, register, swapped
from vireo.core.documents.kind import kind_of


def _item(document: Document, of: Of) -> tuple[str, Any] | None:
    for group in kind_of(document).groups:
        if group.name == of["group"]:
            for item in getattr(document, group.name):
                if item.id == of["id"] and hasattr(item, "asleep"):
                    return group.word, item
    return None


@register
class AsleepDriver(Driver[Document]):
    kind = "asleep"
    of = ("group", "id")
    reaches = False

    def driven(self, document: Document, of: Of) -> Driven | None:
        found = _item(document, of)
        if found is None:
            return None
        word, item = found
        return Driven(f"{item.name} · asleep", "flag", f"{word}:{item.id}")

    def read(self, document: Document, of: Of) -> Cell:
        found = _item(document, of)
        return bool(found and found[1].asleep)

    def write(self, document: Document, of: Of, cell: bool) -> Document:
        found = _item(document, of)
        assert found is not None
        items = swapped(getattr(document, of["group"]), found[1], put(found[1], asleep=cell))
        made: Document = put(document, **{of["group"]: items})
        return made
