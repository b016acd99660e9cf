"""What drivers of a component of an assembly share: one field of it."""

from __future__ import annotations

from typing import Any, ClassVar

from vireo.core.documents.driver import CellKind, Driven, Driver, Of, put, swapped
from vireo.core.documents.kinds.assembly import Assembly


class ComponentDriver(Driver[Assembly]):
    """Subclass, say which field, in words what it is, and how its cells are."""

    of = ("component",)
    on = ("assembly",)
    field: ClassVar[str]
    words: ClassVar[str]
    cell: ClassVar[CellKind]

    def driven(self, document: Assembly, of: Of) -> Driven | None:
        found = document.component(of["component"])
        if found is None:
            return None
        return Driven(f"{found.name} · {self.words}", self.cell, f"component:{found.id}")

    def read(self, document: Assembly, of: Of) -> Any:
        return getattr(document.component(of["component"]), self.field)

    def write(self, document: Assembly, of: Of, cell: Any) -> Assembly:
        found = document.component(of["component"])
        changed = put(found, **{self.field: cell})
        made: Assembly = put(document, components=swapped(document.components, found, changed))
        return made
