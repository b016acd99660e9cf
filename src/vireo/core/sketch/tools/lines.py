"""Lines and points."""

from __future__ import annotations

import math
from collections.abc import Sequence

from vireo.core.sketch.tools.base import (
    Given,
    Pen,
    Size,
    Spot,
    Tool,
    ToolTrouble,
    away,
    level_line,
    minus,
    plus,
    register,
    unit,
)


@register
class LineTool(Tool):
    name, label, icon, group, key = "line", "Line", "line", "Line", "l"
    line = "Chained lines; they close on a point"
    spots = ("start", "end")
    sizes = (Size("length", "Length"), Size("angle", "Angle", "angle"))
    chain = True

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        start, end = spots
        at, fixed = self._end(spots, given)
        if away(start.at, at) < 1e-9:
            raise ToolTrouble("a line needs a length")
        a = pen.point(start)
        b = pen.point(end if fixed else Spot(at=at, level=end.level))
        line = pen.line(a, b)
        if not given.text("angle"):
            level_line(pen, line, spots)
        if end.snap and end.snap.kind == "tangent" and fixed:
            pen.constrain("tangent", line, end.snap.id)
        pen.dimension("distance", [line], given.text("length"))
        pen.dimension("angle", ["x_axis", line], given.text("angle"))
        return None if fixed and end.snap and end.snap.kind == "point" else b

    def _end(self, spots: Sequence[Spot], given: Given) -> tuple[tuple[float, float], bool]:
        """Where it ends once typed sizes are respected, and whether the snap still counts."""
        start, end = spots
        way = minus(end.at, start.at)
        length, angle = given.value("length"), given.value("angle")
        if length is None and angle is None:
            return end.at, True
        if angle is not None:
            # A typed angle is measured from X, to the side the pointer is on.
            angle = math.copysign(angle, way[1]) if way[1] else angle
            way = (math.cos(angle) * math.hypot(*way), math.sin(angle) * math.hypot(*way))
        reach = math.hypot(*way) if length is None else length
        return plus(start.at, unit(way), reach), False

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        if len(spots) < 2:
            return {}
        way = minus(spots[1].at, spots[0].at)
        return {"length": math.hypot(*way), "angle": abs(math.atan2(way[1], way[0]))}


@register
class PointTool(Tool):
    name, label, icon, group, key = "point", "Point", "point", "Point", "p"
    line = "Loose points, for holes"
    spots = ("place",)

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        pen.point(spots[0])
        return None
