"""A sketch as it was solved: frame, curves, points."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from vireo.core.kernel.outlines import wholes
from vireo.core.kernel.profile import Region, arrange
from vireo.core.part.products.kind import Keeper, Product, register
from vireo.core.part.sketchdata import SketchData

if TYPE_CHECKING:
    from vireo.core.part.report import StepReport
    from vireo.core.part.state import State


@register
class Sketches(Product["SketchData | None", SketchData]):
    word = "sketch"
    reads = ("sketch",)

    def empty(self) -> SketchData | None:
        return None

    def record(self, made: SketchData | None, keeper: Keeper) -> Any:
        return made.to_json() if made else None

    def put(self, raw: Any, step: str, state: State, report: StepReport, keeper: Keeper) -> None:
        if raw:
            _, title = state.titles.get(step, ("", step))
            found = SketchData.from_json({**raw, "name": title})
            state.of(self)[step] = found
            report.products[self.word] = found

    def key(self, state: State, read: str, id: str) -> str | None:
        found = state.of(self).get(id)
        return found.key if found else None

    def view(self, report: StepReport) -> dict[str, Any]:
        found = report.products.get(self.word)
        return {"sketch": sketch_view(found) if found else None}


SKETCHES = Sketches()


def region_view(r: Region) -> dict[str, Any]:
    """A region as the screen gets it (mm, mm2)."""
    return {
        "id": r.id, "area": r.area, "at": r.at, "outer": r.outer, "holes": r.holes,
        "depth": r.depth, "curves": list(r.curves),
    }  # fmt: skip


def region_views(curves: Any) -> list[dict[str, Any]]:
    return [region_view(r) for r in arrange(curves).regions]


def sketch_view(data: SketchData) -> dict[str, Any]:
    """A sketch as the screen draws it: curves as polylines in its plane, regions, points."""
    return {
        "frame": {
            "origin": data.frame.origin, "x": data.frame.x, "y": data.frame.y, "z": data.frame.z,
        },
        "curves": [{"id": id, "points": curve.points()} for id, curve in data.curves],
        "points": {id: list(at) for id, at in data.points.items()},
        "regions": region_views(data.curves),
        "wholes": [{**region_view(w.area), "covers": list(w.covers)} for w in wholes(data.curves)],
        "freedom": data.freedom,
    }  # fmt: skip
