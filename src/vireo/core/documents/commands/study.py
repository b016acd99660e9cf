"""Commands on strength studies: supports, loads, mesh."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from vireo.core.documents.base import Document
from vireo.core.documents.commands.base import Command, command, edited, place, update, without
from vireo.core.documents.kinds.study import Load, Study, Support
from vireo.core.naming import Pick
from vireo.core.trouble import NotAllowed


class _StudyCommand(Command):
    on: ClassVar[tuple[str, ...]] = ("study",)


@command
class AddSupport(_StudyCommand):
    do: Literal["add_support"] = "add_support"
    faces: tuple[Pick, ...] = ()
    edges: tuple[Pick, ...] = ()
    hold: Literal["all", "across", "chosen"] = "all"
    ways: tuple[bool, bool, bool] = (True, True, True)
    name: str | None = None

    def apply(self, document: Study) -> Document:
        number = document.last_id + 1
        name = self.name or f"Support {len(document.supports) + 1}"
        new = Support(id=f"u{number}", name=name, faces=self.faces, edges=self.edges,
                      hold=self.hold, ways=self.ways)  # fmt: skip
        return update(document, supports=(*document.supports, new), last_id=number)


@command
class AddLoad(_StudyCommand):
    do: Literal["add_load"] = "add_load"
    kind: Literal["force", "pressure", "gravity"]
    faces: tuple[Pick, ...] = ()
    size: str
    direction: tuple[float, float, float] = (0.0, 0.0, -1.0)
    name: str | None = None

    def apply(self, document: Study) -> Document:
        number = document.last_id + 1
        if self.kind != "gravity" and not self.faces:
            raise NotAllowed(f"a {self.kind} needs the faces it acts on")
        name = self.name or f"{self.kind.capitalize()} {len(document.loads) + 1}"
        new = Load(id=f"f{number}", kind=self.kind, name=name, faces=self.faces, size=self.size,
                   direction=self.direction)  # fmt: skip
        return update(document, loads=(*document.loads, new), last_id=number)


def _group(document: Study, id: str) -> str:
    return "supports" if any(s.id == id for s in document.supports) else "loads"


@command
class EditCondition(_StudyCommand):
    """Change fields of a support or a load."""

    do: Literal["edit_condition"] = "edit_condition"
    id: str
    fields: dict[str, Any]

    def apply(self, document: Study) -> Document:
        if set(self.fields) & {"id", "kind"}:
            raise NotAllowed("the kind of a load stays; make another one")
        group = _group(document, self.id)
        return edited(document, group, self.id, "support or load", self.fields)


@command
class RemoveCondition(_StudyCommand):
    do: Literal["remove_condition"] = "remove_condition"
    id: str

    def apply(self, document: Study) -> Document:
        group = _group(document, self.id)
        items: tuple[Any, ...] = getattr(document, group)
        return update(document, **{group: without(items, place(items, self.id, "support or load"))})


@command
class SetMesh(_StudyCommand):
    """Element size as a formula; null lets the mesher choose."""

    do: Literal["set_mesh"] = "set_mesh"
    size: str | None

    def apply(self, document: Study) -> Document:
        return update(document, mesh_size=self.size)
