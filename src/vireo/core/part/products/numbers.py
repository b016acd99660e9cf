"""Numbers read off the model, by the names later formulas use."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from vireo.core.part.products.kind import Keeper, Product, register
from vireo.core.quantity import DIMENSIONS, Quantity

if TYPE_CHECKING:
    from vireo.core.part.report import StepReport
    from vireo.core.part.state import State


@register
class Numbers(Product["dict[str, Quantity]", "dict[str, Quantity]"]):
    word = "numbers"

    def empty(self) -> dict[str, Quantity]:
        return {}

    def record(self, made: dict[str, Quantity], keeper: Keeper) -> Any:
        return {n: [q.value, q.dimension.name] for n, q in made.items()}

    def put(self, raw: Any, step: str, state: State, report: StepReport, keeper: Keeper) -> None:
        if raw:
            found = {n: Quantity(v, DIMENSIONS[word]) for n, (v, word) in raw.items()}
            report.products[self.word] = state.of(self)[step] = found


NUMBERS = Numbers()
