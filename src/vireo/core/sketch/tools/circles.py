"""Circles and arcs."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import ClassVar

from vireo.core.sketch.seats import Pair
from vireo.core.sketch.tools.base import (
    Given,
    Pen,
    Size,
    Spot,
    Tool,
    ToolTrouble,
    away,
    centre_of,
    cross,
    dot,
    left,
    middle,
    minus,
    plus,
    register,
    unit,
)


def _through(pen: Pen, circle: str, spot: Spot) -> None:
    """A circle drawn to a spot: through a point it was snapped to, touching a curve."""
    if spot.snap is None:
        return
    if spot.snap.kind == "point":
        pen.constrain("on_curve", spot.snap.id, circle)
    elif spot.snap.kind == "midpoint":
        pen.constrain("on_curve", pen.point(spot), circle)
    elif spot.snap.id != circle:
        pen.constrain("tangent", circle, spot.snap.id)


class _Round(Tool):
    group = "Circle"
    sizes: ClassVar[tuple[Size, ...]] = (Size("diameter", "Diameter"),)


@register
class CircleTool(_Round):
    name, label, icon, key = "circle", "Circle", "circle", "c"
    line = "Centre and rim; touches a curve it is drawn to"
    spots = ("centre", "rim")

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        wide = given.value("diameter")
        radius = wide / 2 if wide else away(spots[0].at, spots[1].at)
        circle = pen.circle(pen.point(spots[0]), radius)
        if not wide:
            _through(pen, circle, spots[1])
        pen.dimension("diameter", [circle], given.text("diameter"))
        return None

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        return {"diameter": 2 * away(spots[0].at, spots[1].at)} if len(spots) > 1 else {}


@register
class CircleAcross(_Round):
    name, label, icon, key = "circle2", "Circle across two points", "circle2", "C"
    line = "The two ends of a diameter"
    spots = ("one end", "other end")

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        a, b = (s.at for s in spots)
        wide = given.value("diameter") or away(a, b)
        way = unit(minus(b, a))
        centre = pen.place(plus(a, way, wide / 2))
        circle = pen.circle(centre, wide / 2)
        for spot in spots if not given.text("diameter") else spots[:1]:
            _through(pen, circle, spot)
        if all(s.snap and s.snap.kind == "point" for s in spots) and not given.text("diameter"):
            ends = [s.snap.id for s in spots if s.snap]
            pen.constrain("symmetric", *ends, centre)
            # Through one end and symmetric: that the other lies on it says nothing new.
            pen.drop(pen.constraints[-2].id)
        pen.dimension("diameter", [circle], given.text("diameter"))
        return None

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        return {"diameter": away(spots[0].at, spots[1].at)} if len(spots) > 1 else {}


@register
class Circle3(_Round):
    name, label, icon, key = "circle3", "Circle through three", "circle3", "K"
    line = "Through points, touching curves: three in all"
    spots = ("first", "second", "third")
    sizes = ()

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        centre = centre_of(*(s.at for s in spots))
        circle = pen.circle(pen.place(centre), away(centre, spots[0].at))
        for spot in spots:
            _through(pen, circle, spot)
        return None


@register
class ArcTool(Tool):
    name, label, icon, group, key = "arc", "Arc about a centre", "arc", "Arc", "a"
    line = "Centre, start, end"
    spots = ("centre", "start", "end")
    sizes = (Size("radius", "Radius", after=1), Size("angle", "Angle", "angle", after=2))

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        c, s, e = (x.at for x in spots)
        radius = given.value("radius") or away(c, s)
        if radius < 1e-9:
            raise ToolTrouble("an arc needs a radius")
        first = math.atan2(*reversed(minus(s, c)))
        turn = given.value("turn") or 0.0
        sweep = turn or (math.atan2(*reversed(minus(e, c))) - first) % (2 * math.pi)
        typed = given.value("angle")
        if typed:
            sweep = math.copysign(typed, sweep or 1.0)
        centre = pen.point(Spot(at=c, snap=spots[0].snap))

        def on(a: float) -> Pair:
            return (c[0] + radius * math.cos(a), c[1] + radius * math.sin(a))

        start = pen.point(Spot(at=on(first), snap=None if given.text("radius") else spots[1].snap))
        end = pen.point(Spot(at=on(first + sweep), snap=None if typed else spots[2].snap))
        if start == end:
            raise ToolTrouble("an arc ends in another point than it starts in")
        arc = pen.arc(centre, start, end, sweep)
        pen.dimension("radius", [arc], given.text("radius"))
        if typed:
            legs = [pen.line(centre, p, construction=True) for p in (start, end)]
            if sweep < 0:
                legs.reverse()
            pen.dimension("angle", legs, given.text("angle"))
        return None

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        found = {"radius": away(spots[0].at, spots[1].at)} if len(spots) > 1 else {}
        if len(spots) > 2:
            found["angle"] = abs(given.value("turn") or 0.0)
        return found


@register
class Arc3(Tool):
    name, label, icon, group, key = "arc3", "Arc through three points", "arc3", "Arc", "A"
    line = "Start, end, a point on it"
    spots = ("start", "end", "a point on it")
    sizes = (Size("radius", "Radius", after=2),)

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        s, e, on = (x.at for x in spots)
        side = cross(minus(e, s), minus(on, s))
        radius = given.value("radius")
        if radius:
            half = away(s, e) / 2
            if radius < half:
                raise ToolTrouble(f"the radius must be at least half the gap, {half:.4g} mm")
            rise = math.sqrt(radius**2 - half**2)
            way = left(unit(minus(e, s)))
            # The smaller arc, bulging to the side of the pointer.
            centre = plus(middle(s, e), way, -math.copysign(rise, side or 1.0))
        else:
            centre = centre_of(s, e, on)
        start, end = (pen.point(Spot(at=x.at, snap=x.snap)) for x in spots[:2])
        arc = pen.arc(pen.place(centre), start, end, -side)
        if not radius:
            _through(pen, arc, spots[2])
        pen.dimension("radius", [arc], given.text("radius"))
        return None

    def read(self, spots: Sequence[Spot], given: Given) -> dict[str, float]:
        if len(spots) < 3:
            return {}
        try:
            return {"radius": away(centre_of(*(s.at for s in spots)), spots[0].at)}
        except ToolTrouble:
            return {}


@register
class TangentArc(Tool):
    name, label, icon, group, key = "arc_tangent", "Arc from an end", "arc_tangent", "Arc", "j"
    line = "Runs on smoothly from the end of a line or arc"
    spots = ("end of a curve", "end")
    sizes = (Size("radius", "Radius"),)
    chain = True

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        snap = spots[0].snap
        curve = snap and snap.kind == "point" and _ending_at(pen, snap.id)
        if not snap or not curve:
            raise ToolTrouble("start at the end of a line, an arc or a spline")
        s, e = spots[0].at, spots[1].at
        way = _outward(pen, curve, snap.id)
        chord = minus(e, s)
        side = cross(way, chord)
        if abs(side) < 1e-9 * max(math.hypot(*chord), 1e-9):
            raise ToolTrouble("straight ahead there is no arc: move to one side")
        normal = left(way)
        radius = dot(chord, chord) / (2 * dot(normal, chord))
        typed = given.value("radius")
        if typed:
            # Same sweep, typed radius.
            e = plus(s, chord, typed / abs(radius))
            radius = math.copysign(typed, radius)
        centre = pen.place(plus(s, normal, radius))
        end = pen.point(Spot(at=e, snap=None if typed else spots[1].snap))
        arc = pen.arc(centre, snap.id, end, radius)
        pen.constrain("tangent", curve, arc)
        pen.dimension("radius", [arc], given.text("radius"))
        closed = spots[1].snap and spots[1].snap.kind == "point" and not typed
        return None if closed else end


def _ending_at(pen: Pen, point: str) -> str | None:
    for e in pen.entities:
        ends = [getattr(e, r, None) for r in ("a", "b", "start", "end")]
        run = e.run() if hasattr(e, "run") else ()
        if point in ends or point in run:
            return str(e.id)
    return None


def _outward(pen: Pen, curve: str, point: str) -> Pair:
    """Direction in which a curve leaves through one of its ends."""
    c = pen.curve(curve)
    at = pen.at(point)
    first, _ = c.ends
    way = unit(c.tangent_at(at))
    return (-way[0], -way[1]) if away(first, at) < 1e-6 else way
