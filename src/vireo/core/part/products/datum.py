"""A place to refer to: plane, axis, point, frame, port."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from vireo.core.digest import digest
from vireo.core.part.datum import Datum
from vireo.core.part.products.kind import Keeper, Product, register

if TYPE_CHECKING:
    from vireo.core.part.report import StepReport
    from vireo.core.part.state import State


@register
class Datums(Product["Datum | None", Datum]):
    word = "datum"
    reads = ("datum",)

    def empty(self) -> Datum | None:
        return None

    def record(self, made: Datum | None, keeper: Keeper) -> Any:
        return made.to_json() if made else None

    def put(self, raw: Any, step: str, state: State, report: StepReport, keeper: Keeper) -> None:
        if raw:
            report.products[self.word] = state.of(self)[step] = Datum.from_json(raw)

    def key(self, state: State, read: str, id: str) -> str | None:
        found = state.of(self).get(id)
        return digest(found.to_json()) if found else None

    def view(self, report: StepReport) -> dict[str, Any]:
        found = report.products.get(self.word)
        return {"datum": found.to_json() if found else None}


DATUMS = Datums()
