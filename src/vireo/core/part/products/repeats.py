"""Where a step put copies of what other steps made, for what is to follow them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from vireo.core.naming.repeats import Repeats
from vireo.core.part.products.kind import Keeper, Product, register

if TYPE_CHECKING:
    from vireo.core.part.report import StepReport
    from vireo.core.part.state import State


@register
class RepeatsMade(Product["Repeats | None", Repeats]):
    word = "repeats"

    def empty(self) -> Repeats | None:
        return None

    def record(self, made: Repeats | None, keeper: Keeper) -> Any:
        return made and [list(made.steps), list(made.bodies), made.moves]

    def put(self, raw: Any, step: str, state: State, report: StepReport, keeper: Keeper) -> None:
        if raw:
            steps, bodies, moves = raw
            report.products[self.word] = Repeats(
                tuple(steps),
                tuple(bodies),
                {k: tuple(tuple(row) for row in m) for k, m in moves.items()},
            )


REPEATS = RepeatsMade()
