"""How bodies look where something else than their material says so."""

from __future__ import annotations

from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from vireo.core.part.datum import Dressed
from vireo.core.part.products.kind import Keeper, Product, register

if TYPE_CHECKING:
    from vireo.core.part.report import StepReport
    from vireo.core.part.state import State


@register
class Dresses(Product["dict[str, Dressed]", Dressed]):
    """By body, not by step."""

    word = "dress"

    def empty(self) -> dict[str, Dressed]:
        return {}

    def record(self, made: dict[str, Dressed], keeper: Keeper) -> Any:
        return {id: asdict(d) for id, d in made.items()}

    def put(self, raw: Any, step: str, state: State, report: StepReport, keeper: Keeper) -> None:
        state.of(self).update({id: Dressed(**d) for id, d in raw.items()})


DRESSES = Dresses()
