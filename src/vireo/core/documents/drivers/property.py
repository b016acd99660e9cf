"""A property of the document: a part number, a description."""

from __future__ import annotations

from vireo.core.documents.base import Cell, Document, Property
from vireo.core.documents.driver import Driven, Driver, Of, put, register, swapped


def _called(document: Document, of: Of) -> Property | None:
    return next((p for p in document.properties if p.name == of["name"]), None)


@register
class PropertyDriver(Driver[Document]):
    kind = "property"
    of = ("name",)
    reaches = False

    def driven(self, document: Document, of: Of) -> Driven | None:
        if _called(document, of) is None:
            return None
        return Driven(of["name"], "text", f"property:{of['name']}")

    def read(self, document: Document, of: Of) -> Cell:
        found = _called(document, of)
        return found.value if found else ""

    def write(self, document: Document, of: Of, cell: str) -> Document:
        found = _called(document, of)
        changed = put(found, value=cell)
        made: Document = put(document, properties=swapped(document.properties, found, changed))
        return made
