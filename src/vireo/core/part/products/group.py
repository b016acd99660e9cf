"""A set: faces, edges or bodies by a rule."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from vireo.core.digest import digest
from vireo.core.part.datum import Rule
from vireo.core.part.products.kind import Keeper, Product, register

if TYPE_CHECKING:
    from vireo.core.part.report import StepReport
    from vireo.core.part.state import State


@register
class Sets(Product["Rule | None", Rule]):
    word = "group"
    reads = ("set",)

    def empty(self) -> Rule | None:
        return None

    def record(self, made: Rule | None, keeper: Keeper) -> Any:
        return made.model_dump(mode="json") if made else None

    def put(self, raw: Any, step: str, state: State, report: StepReport, keeper: Keeper) -> None:
        if raw:
            report.products[self.word] = state.of(self)[step] = Rule.model_validate(raw)

    def key(self, state: State, read: str, id: str) -> str | None:
        found = state.of(self).get(id)
        return digest(found.model_dump(mode="json")) if found else None

    def view(self, report: StepReport) -> dict[str, Any]:
        found = report.products.get(self.word)
        return {"gathers": found.kind if found else None}


SETS = Sets()
