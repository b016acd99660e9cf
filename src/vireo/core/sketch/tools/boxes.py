"""Rectangles and regular polygons."""

from __future__ import annotations

import math
from collections.abc import Sequence

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
    left,
    minus,
    plus,
    register,
    turned,
    unit,
)

_SIZES = (Size("width", "Width"), Size("height", "Height"))


def _loop(pen: Pen, points: Sequence[str]) -> list[str]:
    return [pen.line(p, points[(i + 1) % len(points)]) for i, p in enumerate(points)]


class _Level(Tool):
    group, sizes = "Box", _SIZES
    half = 1.0

    def _corner(self, spots: Sequence[Spot], given: Given) -> Pair:
        """The corner opposite, once typed sizes are respected."""
        (x0, y0), (x1, y1) = (s.at for s in spots[:2])
        w, h = given.value("width"), given.value("height")
        dx, dy = x1 - x0, y1 - y0
        return (
            x0 + (math.copysign(w * self.half, dx or 1.0) if w else dx),
            y0 + (math.copysign(h * self.half, dy or 1.0) if h else dy),
        )

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        if len(spots) < 2:
            return {}
        dx, dy = minus(spots[1].at, spots[0].at)
        return {"width": abs(dx) / self.half, "height": abs(dy) / self.half}

    def _box(
        self, pen: Pen, one: Pair, two: Pair, known: Sequence[Spot], given: Given
    ) -> list[str]:
        low, high = (
            (min(one[0], two[0]), min(one[1], two[1])),
            (max(one[0], two[0]), max(one[1], two[1])),
        )
        if high[0] - low[0] < 1e-9 or high[1] - low[1] < 1e-9:
            raise ToolTrouble("a rectangle needs a width and a height")
        corners = (low, (high[0], low[1]), high, (low[0], high[1]))
        points = [
            next((pen.point(s) for s in known if away(s.at, c) < 1e-9), None) or pen.place(c)
            for c in corners
        ]
        lines = _loop(pen, points)
        for i, line in enumerate(lines):
            pen.constrain("vertical" if i % 2 else "horizontal", line)
        pen.dimension("distance", [lines[0]], given.text("width"))
        pen.dimension("distance", [lines[1]], given.text("height"))
        return points


@register
class Rectangle(_Level):
    name, label, icon, key = "rectangle", "Rectangle", "rectangle", "r"
    line = "From corner to corner"
    spots = ("first corner", "opposite corner")

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        plain = [Spot(at=s.at, snap=s.snap) for s in spots]
        self._box(pen, spots[0].at, self._corner(spots, given), plain, given)
        return None


@register
class CentreRectangle(_Level):
    name, label, icon, key = "centre_rectangle", "Centre rectangle", "centre_rectangle", "R"
    line = "From the middle outwards"
    spots = ("middle", "corner")
    half = 0.5

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        corner = self._corner(spots, given)
        c = spots[0].at
        opposite = (2 * c[0] - corner[0], 2 * c[1] - corner[1])
        points = self._box(pen, opposite, corner, spots[1:], given)
        across = pen.line(points[0], points[2], construction=True)
        pen.constrain("midpoint", pen.point(Spot(at=c, snap=spots[0].snap)), across)
        return None


@register
class TurnedRectangle(Tool):
    name, label, icon, group, key = "rectangle3", "Turned rectangle", "rectangle3", "Box", "w"
    line = "One side by two points, then how high"
    spots = ("first corner", "end of the first side", "height")
    sizes = (Size("width", "Width"), Size("height", "Height", after=2))

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        a, b, third = (s.at for s in spots)
        way = unit(minus(b, a))
        width = given.value("width") or away(a, b)
        rise = cross(way, minus(third, a))
        height = math.copysign(given.value("height") or abs(rise), rise or 1.0)
        if width < 1e-9 or abs(height) < 1e-9:
            raise ToolTrouble("a rectangle needs a width and a height")
        end = plus(a, way, width)
        up = left(way)
        points = [
            pen.point(Spot(at=a, snap=spots[0].snap)),
            pen.point(Spot(at=end, snap=None if given.text("width") else spots[1].snap)),
            pen.place(plus(end, up, height)), pen.place(plus(a, up, height)),
        ]  # fmt: skip
        lines = _loop(pen, points)
        for i in (1, 2, 3):
            kind = "parallel" if i == 2 else "perpendicular"
            pen.constrain(kind, lines[0], lines[i])
        pen.dimension("distance", [lines[0]], given.text("width"))
        pen.dimension("distance", [lines[1]], given.text("height"))
        return None

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        found = {"width": away(spots[0].at, spots[1].at)} if len(spots) > 1 else {}
        if len(spots) > 2:
            way = unit(minus(spots[1].at, spots[0].at))
            found["height"] = abs(cross(way, minus(spots[2].at, spots[0].at)))
        return found


@register
class Polygon(Tool):
    name, label, icon, group, key = "polygon", "Regular polygon", "polygon", "Box", "y"
    line = "Middle and a corner, any number of sides"
    spots = ("middle", "corner")
    sizes = (
        Size("sides", "Sides", "count", after=0, default="6"),
        Size("across", "Across flats"),
        Size("diameter", "Across corners"),
    )

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        n = given.count("sides", 3, 120) if given.text("sides") else 6
        c, corner = spots[0].at, spots[1].at
        way = minus(corner, c)
        across, wide = given.value("across"), given.value("diameter")
        radius = math.hypot(*way)
        if wide:
            radius = wide / 2
        elif across:
            radius = across / 2 / math.cos(math.pi / n)
        if radius < 1e-9:
            raise ToolTrouble("a polygon needs a size")
        way = (unit(way)[0] * radius, unit(way)[1] * radius)
        centre = pen.point(Spot(at=c, snap=spots[0].snap))
        typed = bool(across or wide)
        points = [
            pen.point(Spot(at=corner, snap=spots[1].snap)) if k == 0 and not typed
            else pen.place(plus(c, turned(way, 2 * math.pi * k / n)))
            for k in range(n)
        ]  # fmt: skip
        lines = _loop(pen, points)
        rim = pen.add("circle", centre=centre, radius=radius, construction=True)
        for k, p in enumerate(points):
            pen.constrain("on_curve", p, rim)
            if k:
                pen.constrain("equal", lines[0], lines[k])
        if given.text("diameter"):
            pen.dimension("diameter", [rim], given.text("diameter"))
        elif given.text("across"):
            pen.dimension("diameter_across", [centre, lines[0]], given.text("across"))
        return None

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        if len(spots) < 2:
            return {}
        radius = away(spots[0].at, spots[1].at)
        n = given.count("sides", 3, 120) if given.text("sides") else 6
        return {"diameter": 2 * radius, "across": 2 * radius * math.cos(math.pi / n)}
