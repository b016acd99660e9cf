"""Notes on what a step did, for the person."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from vireo.core.part.products.kind import Keeper, Product, register
from vireo.core.trouble import Report

if TYPE_CHECKING:
    from vireo.core.part.report import StepReport
    from vireo.core.part.state import State


@register
class Notes(Product["list[Report]", "list[Report]"]):
    word = "notes"

    def empty(self) -> list[Report]:
        return []

    def record(self, made: list[Report], keeper: Keeper) -> Any:
        return [n.model_dump() for n in made]

    def put(self, raw: Any, step: str, state: State, report: StepReport, keeper: Keeper) -> None:
        report.notes = [Report.model_validate(n) for n in raw]

    def copy(self, state: State) -> None:
        """They stay with their step."""


NOTES = Notes()
