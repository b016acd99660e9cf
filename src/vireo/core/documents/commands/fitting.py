"""Commands on overlaps that are meant."""

from __future__ import annotations

from typing import ClassVar, Literal

from vireo.core.documents.base import Document
from vireo.core.documents.commands.assembly import AssemblyCommand
from vireo.core.documents.commands.base import RemoveItem, command, edited, place, update
from vireo.core.documents.kinds.assembly import Assembly, Meant
from vireo.core.naming.grammar import original_of
from vireo.core.quantity import Formula
from vireo.core.trouble import BadInput


@command
class MarkMeant(AssemblyCommand):
    """Say that two components (by paths of ids, ``c2`` or ``c2/c4``) overlap on purpose, why, and how
    deep they may. Of the same two again: in its place."""

    do: Literal["mark_meant"] = "mark_meant"
    a: str
    b: str
    reason: str = ""
    depth: Formula = "0.05 mm"

    def apply(self, document: Assembly) -> Document:
        if self.a == self.b:
            raise BadInput("an overlap is between two components")
        for path in (self.a, self.b):
            place(document.components, original_of(path.split("/")[0]), "component")
        known = next((m for m in document.meant if {m.a, m.b} == {self.a, self.b}), None)
        fresh = known is None
        made = Meant(
            id=known.id if known else f"f{document.last_id + 1}", a=self.a, b=self.b,
            reason=self.reason.strip(), depth=self.depth,
        )  # fmt: skip
        rest = tuple(m for m in document.meant if m is not known)
        return update(document, meant=(*rest, made), last_id=document.last_id + fresh)

    def label(self) -> str:
        return "mark as meant"


@command
class EditMeant(AssemblyCommand):
    do: Literal["edit_meant"] = "edit_meant"
    id: str
    reason: str | None = None
    depth: Formula | None = None

    def apply(self, document: Assembly) -> Document:
        return edited(document, "meant", self.id, "overlap that is meant", self.given("id"))

    def label(self) -> str:
        return "edit what is meant"


@command
class RemoveMeant(RemoveItem):
    """An overlap is no longer meant: it is told as one again."""

    on: ClassVar[tuple[str, ...]] = ("assembly",)
    group, what = "meant", "overlap that is meant"
    do: Literal["remove_meant"] = "remove_meant"
