"""A product of steps: what was counted, with the step that counts."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.part.context import Context
from vireo.core.part.products.kind import Keeper, Product
from vireo.core.part.products.kind import register as product
from vireo.core.part.products.outcome import Outcome
from vireo.core.quantity import Formula

if TYPE_CHECKING:
    from vireo.core.part.report import StepReport
    from vireo.core.part.state import State


@product
class Tally(Product["dict[str, float]", "dict[str, float]"]):
    word = "tally"
    reads = ("tally",)

    def empty(self) -> dict[str, float]:
        return {}

    def record(self, made: dict[str, float], keeper: Keeper) -> Any:
        return made

    def put(self, raw: Any, step: str, state: State, report: StepReport, keeper: Keeper) -> None:
        if raw:
            report.products[self.word] = state.of(self)[step] = raw

    def view(self, report: StepReport) -> dict[str, Any]:
        found = report.products.get(self.word)
        return {"tally": found} if found else {}


class CountFields(f.StepFields):
    each: Formula = f.length("Each", "2 mm", above=0)


@register
class Count(StepKind[CountFields]):
    kind, label, group, icon = "count", "Count", "Refer", "set"
    line = "Counts what is there"
    Fields = CountFields
    deciding = ("each",)

    def build(self, fields: CountFields, ctx: Context) -> Outcome:
        return Outcome(tally={"each": ctx.value("each")})
