"""Whether a component is there at all."""

from __future__ import annotations

from vireo.core.documents.base import Cell
from vireo.core.documents.driver import Driven, Driver, Of, put, register, swapped
from vireo.core.documents.kinds.assembly import Assembly


@register
class AbsentDriver(Driver[Assembly]):
    kind = "absent"
    of = ("component",)
    on = ("assembly",)

    def driven(self, document: Assembly, of: Of) -> Driven | None:
        component = document.component(of["component"])
        if component is None:
            return None
        return Driven(f"{component.name} · left out", "flag", f"component:{component.id}")

    def read(self, document: Assembly, of: Of) -> Cell:
        component = document.component(of["component"])
        return bool(component and component.absent)

    def write(self, document: Assembly, of: Of, cell: bool) -> Assembly:
        component = document.component(of["component"])
        changed = put(component, absent=cell)
        made: Assembly = put(document, components=swapped(document.components, component, changed))
        return made
