"""Threads that are only drawn."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from vireo.core.part.datum import Mark
from vireo.core.part.products.kind import Keeper, Product, register

if TYPE_CHECKING:
    from vireo.core.part.report import StepReport
    from vireo.core.part.state import State


@register
class Marks(Product["list[Mark]", "tuple[Mark, ...]"]):
    word = "marks"

    def empty(self) -> list[Mark]:
        return []

    def record(self, made: list[Mark], keeper: Keeper) -> Any:
        return [m.to_json() for m in made]

    def put(self, raw: Any, step: str, state: State, report: StepReport, keeper: Keeper) -> None:
        if raw:
            state.of(self)[step] = tuple(Mark.from_json(m) for m in raw)


MARKS = Marks()
