"""Commands on the bodies of a part: names, materials, colours, masses of their own."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from vireo.core.documents.base import Colour, Document
from vireo.core.documents.commands.base import Command, command, update
from vireo.core.documents.kinds.part import Look, Paint, Part
from vireo.core.naming import Pick
from vireo.core.trouble import BadInput


@command
class SetBody(Command):
    """Changes what is kept of a body: the fields given; null lets it follow the part again."""

    do: Literal["set_body"] = "set_body"
    on: ClassVar[tuple[str, ...]] = ("part",)
    body: str
    name: str | None = None
    material: str | None = None
    colour: str | None = None
    opacity: float | None = None
    mass: float | None = None
    tool: bool | None = None

    def apply(self, document: Part) -> Document:
        given = {k: getattr(self, k) for k in self.model_fields_set - {"do", "body"}}
        if given.get("opacity", 1.0) is None:
            given["opacity"] = 1.0
        if isinstance(given.get("name"), str):
            given["name"] = given["name"].strip() or None
        look = update(document.look(self.body), **given)
        rest = tuple(x for x in document.looks if x.body != self.body)
        plain = look == Look(body=self.body)
        return update(document, looks=rest if plain else (*rest, look))

    def label(self) -> str:
        return "change body"


@command
class PaintFaces(Command):
    """Colours faces or sets of them; null takes their colour off."""

    do: Literal["paint_faces"] = "paint_faces"
    on: ClassVar[tuple[str, ...]] = ("part",)
    picks: tuple[Pick, ...] = Field(min_length=1, max_length=2000)
    colour: Colour | None = None

    def apply(self, document: Part) -> Document:
        wrong = next((p.kind for p in self.picks if p.kind not in ("face", "set")), None)
        if wrong:
            raise BadInput(f"faces are painted; a picked one is a {wrong}")
        meant = {(p.body, p.name) for p in self.picks}
        rest = tuple(x for x in document.paints if (x.pick.body, x.pick.name) not in meant)
        new = tuple(Paint(pick=p, colour=self.colour) for p in self.picks) if self.colour else ()
        return update(document, paints=(*rest, *new))

    def label(self) -> str:
        return "paint faces"
