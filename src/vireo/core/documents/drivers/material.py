"""The material of a part."""

from __future__ import annotations

from vireo.core.documents.base import Cell
from vireo.core.documents.driver import Driven, Driver, Of, put, register
from vireo.core.documents.kinds.part import Part


@register
class MaterialDriver(Driver[Part]):
    kind = "material"
    of = ()
    on = ("part",)

    def driven(self, document: Part, of: Of) -> Driven | None:
        return Driven("Material", "material", "field:material")

    def read(self, document: Part, of: Of) -> Cell:
        return document.material

    def write(self, document: Part, of: Of, cell: str) -> Part:
        made: Part = put(document, material=cell)
        return made
