"""The colour or the material of a body of a part; empty lets it follow the part."""

from __future__ import annotations

from vireo.core.documents.base import Cell
from vireo.core.documents.driver import CellKind, Driven, Driver, Of, put, register
from vireo.core.documents.kinds.part import Look, Part

_WHAT: dict[str, CellKind] = {"colour": "colour", "material": "material"}


@register
class LookDriver(Driver[Part]):
    kind = "look"
    of = ("body", "what")
    on = ("part",)

    def driven(self, document: Part, of: Of) -> Driven | None:
        cell = _WHAT.get(of["what"])
        if cell is None:
            return None
        return Driven(
            f"{document.body_name(of['body'])} · {of['what']}", cell, f"body:{of['body']}"
        )

    def read(self, document: Part, of: Of) -> Cell:
        return getattr(document.look(of["body"]), of["what"]) or ""

    def write(self, document: Part, of: Of, cell: str) -> Part:
        look = put(document.look(of["body"]), **{of["what"]: cell or None})
        looks = tuple(look if x.body == look.body else x for x in document.looks)
        looks = looks if any(x.body == look.body for x in looks) else (*looks, look)
        plain = Look(body=of["body"])
        made: Part = put(document, looks=tuple(x for x in looks if x != plain))
        return made
