"""Bodies that are sheets, by id: the tree of panels and bends they are made from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from vireo.core.digest import digest
from vireo.core.part.products.kind import Keeper, Product, register
from vireo.core.sheet.body import SheetBody

if TYPE_CHECKING:
    from vireo.core.part.report import StepReport
    from vireo.core.part.state import State


@dataclass(frozen=True)
class KeptSheet:
    """A sheet as it stands between steps, and which solid it is of: what changes that by other means leaves no
    sheet."""

    told: Any
    solid: str

    @property
    def key(self) -> str:
        return digest(self.told)

    def load(self) -> SheetBody:
        return SheetBody.of(self.told)


@register
class Sheets(Product["dict[str, SheetBody]", KeptSheet]):
    """By body, not by step."""

    word = "sheets"
    reads = ("sheet",)

    def empty(self) -> dict[str, SheetBody]:
        return {}

    def record(self, made: dict[str, SheetBody], keeper: Keeper) -> Any:
        return {id: sheet.to_json() for id, sheet in made.items()}

    def put(self, raw: Any, step: str, state: State, report: StepReport, keeper: Keeper) -> None:
        for id, told in raw.items():
            state.of(self)[id] = KeptSheet(told, state.bodies[id].key)

    def current(self, state: State, id: str) -> KeptSheet | None:
        """The sheet a body is now; None where it is none, or no longer."""
        kept = state.of(self).get(id)
        held = state.bodies.get(id)
        return kept if kept is not None and held is not None and kept.solid == held.key else None

    def all_current(self, state: State) -> set[str]:
        """Ids of all bodies that are sheets now."""
        return {id for id in state.of(self) if self.current(state, id) is not None}

    def key(self, state: State, read: str, id: str) -> str | None:
        kept = self.current(state, id)
        return kept.key if kept else None


SHEETS = Sheets()
