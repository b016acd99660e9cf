"""Slots: a straight or round middle line with round ends."""

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
    cross,
    left,
    minus,
    plus,
    register,
    unit,
)


@register
class Slot(Tool):
    name, label, icon, group, key = "slot", "Slot", "slot", "Box", "z"
    line = "The two end centres, then how wide"
    spots = ("first centre", "second centre", "width")
    sizes = (Size("length", "Between centres"), Size("width", "Width", after=2))

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        a, b, side = (s.at for s in spots)
        way = unit(minus(b, a))
        b = plus(a, way, given.value("length") or away(a, b))
        wide = given.value("width")
        r = wide / 2 if wide else abs(cross(way, minus(side, a)))
        if away(a, b) < 1e-9 or r < 1e-9:
            raise ToolTrouble("a slot needs a length and a width")
        up = left(way)
        ca = pen.point(Spot(at=a, snap=spots[0].snap))
        cb = pen.point(Spot(at=b, snap=None if given.text("length") else spots[1].snap))
        corners = [pen.place(plus(p, up, k * r)) for p, k in ((a, 1), (a, -1), (b, -1), (b, 1))]
        one, two = pen.arc(ca, corners[0], corners[1]), pen.arc(cb, corners[2], corners[3])
        low, high = pen.line(corners[1], corners[2]), pen.line(corners[3], corners[0])
        middle = pen.line(ca, cb, construction=True)
        pen.constrain("equal", one, two)
        for line in (low, high):
            pen.constrain("tangent", line, one)
            pen.constrain("tangent", line, two)
        held = all(s.snap is not None and s.snap.kind == "point" for s in spots[:2])
        if spots[1].level and not held:
            pen.constrain(spots[1].level, middle)
        pen.dimension("distance", [middle], given.text("length"))
        if given.text("width"):
            pen.dimension("diameter", [one], given.text("width"))
        return None

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        found = {"length": away(spots[0].at, spots[1].at)} if len(spots) > 1 else {}
        if len(spots) > 2:
            way = unit(minus(spots[1].at, spots[0].at))
            found["width"] = 2 * abs(cross(way, minus(spots[2].at, spots[0].at)))
        return found


@register
class ArcSlot(Tool):
    name, label, icon, group, key = "arc_slot", "Round slot", "arc_slot", "Box", "Z"
    line = "Middle of the turn, both end centres, then how wide"
    spots = ("middle of the turn", "first centre", "second centre", "width")
    sizes = (Size("radius", "Radius"), Size("width", "Width", after=3))

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        o, a, b, side = (s.at for s in spots)
        R = given.value("radius") or away(o, a)
        wide = given.value("width")
        r = wide / 2 if wide else abs(away(o, side) - R)
        first = math.atan2(*reversed(minus(a, o)))
        sweep = (math.atan2(*reversed(minus(b, o))) - first) % (2 * math.pi)
        if r < 1e-9 or r >= R or sweep < 1e-9:
            raise ToolTrouble("the slot must be narrower than its turn and have a length")

        def on(angle: float, radius: float) -> tuple[float, float]:
            return (o[0] + radius * math.cos(angle), o[1] + radius * math.sin(angle))

        turn = pen.point(Spot(at=o, snap=spots[0].snap))
        last = first + sweep
        ends = [pen.place(on(first, R)), pen.place(on(last, R))]
        inner = [pen.place(on(t, R - r)) for t in (first, last)]
        outer = [pen.place(on(t, R + r)) for t in (first, last)]
        middle = pen.add("arc", centre=turn, start=ends[0], end=ends[1], construction=True)
        low = pen.arc(turn, inner[0], inner[1])
        high = pen.arc(turn, outer[0], outer[1])
        caps = [pen.arc(ends[0], inner[0], outer[0]), pen.arc(ends[1], outer[1], inner[1])]
        pen.constrain("equal", *caps)
        for cap in caps:
            pen.constrain("tangent", cap, low)
        pen.constrain("tangent", caps[0], high)
        pen.dimension("radius", [middle], given.text("radius"))
        if given.text("width"):
            pen.dimension("diameter", [caps[0]], given.text("width"))
        return None

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        found = {"radius": away(spots[0].at, spots[1].at)} if len(spots) > 1 else {}
        if len(spots) > 3:
            found["width"] = 2 * abs(away(spots[0].at, spots[3].at) - found["radius"])
        return found
