"""Ellipses and arcs of them."""

from __future__ import annotations

import math
from collections.abc import Sequence

from vireo.core.curves import Ellipse2
from vireo.core.sketch.seats import Pair
from vireo.core.sketch.tools.base import (
    Given,
    Pen,
    Size,
    Spot,
    Tool,
    ToolTrouble,
    away,
    cross,
    minus,
    plus,
    register,
    unit,
)


def _axes(spots: Sequence[Spot], given: Given) -> tuple[Pair, float]:
    """The first half axis as a vector and the length of the other."""
    c, m = spots[0].at, spots[1].at
    way = unit(minus(m, c))
    wide, high = given.value("width"), given.value("height")
    half = wide / 2 if wide else away(c, m)
    other = abs(cross(way, minus(spots[2].at, c))) if len(spots) > 2 else half / 2
    minor = high / 2 if high else other
    if half < 1e-9 or minor < 1e-9:
        raise ToolTrouble("an ellipse needs two half axes")
    return (way[0] * half, way[1] * half), minor


class _Ellipse(Tool):
    group = "Circle"
    sizes = (Size("width", "Width"), Size("height", "Height", after=2))

    def _base(self, pen: Pen, spots: Sequence[Spot], given: Given) -> tuple[str, str, Ellipse2]:
        axis, minor = _axes(spots, given)
        c = spots[0].at
        centre = pen.point(Spot(at=c, snap=spots[0].snap))
        snap = None if given.text("width") else spots[1].snap
        major = pen.point(Spot(at=plus(c, axis), snap=snap))
        if spots[1].level and not given.text("width") and not snap:
            pen.constrain(spots[1].level, centre, major)
        return centre, major, Ellipse2(c, axis, minor)

    def _sizes(self, pen: Pen, id: str, given: Given) -> None:
        pen.dimension("width", [id], given.text("width"))
        pen.dimension("height", [id], given.text("height"))

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        if len(spots) < 2:
            return {}
        axis, minor = _axes(spots, given)
        return {"width": 2 * math.hypot(*axis), "height": 2 * minor}


@register
class EllipseTool(_Ellipse):
    name, label, icon, key = "ellipse", "Ellipse", "ellipse", "e"
    line = "Centre, end of one half axis, then how high"
    spots = ("centre", "end of a half axis", "height")

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        centre, major, e = self._base(pen, spots, given)
        id = pen.add("ellipse", centre=centre, major=major, minor=e.minor)
        if spots[2].snap and not given.text("height"):
            pen.constrain("on_curve", pen.point(spots[2]), id)
        self._sizes(pen, id, given)
        return None


@register
class EllipticArcTool(_Ellipse):
    name, label, icon, group, key = "elliptic_arc", "Arc of an ellipse", "elliptic_arc", "Arc", "E"
    line = "An ellipse, then where its arc starts and ends"
    spots = ("centre", "end of a half axis", "height", "start", "end")

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        centre, major, e = self._base(pen, spots[:3], given)
        ends = [pen.place(e.at(e.parameter(s.at))) for s in spots[3:5]]
        if away(pen.at(ends[0]), pen.at(ends[1])) < 1e-9:
            raise ToolTrouble("the arc ends in another point than it starts in")
        id = pen.add(
            "elliptic_arc", centre=centre, major=major, minor=e.minor, start=ends[0], end=ends[1]
        )
        self._sizes(pen, id, given)
        return None
