"""Which member of its document a component is."""

from __future__ import annotations

from vireo.core.documents.base import Cell, Choice
from vireo.core.documents.driver import Driven, Driver, Of, put, register, swapped
from vireo.core.documents.kinds.assembly import Assembly


@register
class MemberDriver(Driver[Assembly]):
    kind = "member"
    of = ("component",)
    on = ("assembly",)

    def driven(self, document: Assembly, of: Of) -> Driven | None:
        component = document.component(of["component"])
        if component is None:
            return None
        return Driven(f"{component.name} · variant", "member", f"component:{component.id}")

    def read(self, document: Assembly, of: Of) -> Cell:
        component = document.component(of["component"])
        return (component.choice if component else None) or Choice()

    def write(self, document: Assembly, of: Of, cell: Choice) -> Assembly:
        component = document.component(of["component"])
        changed = put(component, choice=cell)
        made: Assembly = put(document, components=swapped(document.components, component, changed))
        return made
