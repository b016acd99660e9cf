"""Offsets of chains and loops, linked to what they follow."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from vireo.core.curves import (
    Arc2,
    Circle2,
    Curve2,
    Ellipse2,
    Line2,
    Spline2,
    folds,
    offset_curve,
)
from vireo.core.sketch.entities.spline import FreeCurve
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
    dot,
    left,
    minus,
    plus,
    register,
    unit,
)


@register
class Offset(Tool):
    name, label, icon, group, key = "offset", "Offset", "offset", "Copy", "o"
    line = "Beside a chain or loop, on the side clicked; follows it"
    wants = ("curve",)
    spots = ("which side",)
    sizes = (
        Size("gap", "Distance", after=0, default="5 mm"),
        Size("both", "Both sides", "flag", after=0),
        Size("caps", "Close the ends", "flag", after=0),
    )

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        gap = given.need("gap")
        if gap <= 0:
            raise ToolTrouble("an offset needs a distance")
        curves = [pen.entity(i) for i in selected if i in {e.id for e in pen.entities}]
        curves = [e for e in curves if e.one_curve]
        if any(e.form == "parallel" for e in curves) or not curves:
            raise ToolTrouble(
                "select curves to offset; offsets of free curves are not offset again"
            )
        link = pen.id("o")
        if len(curves) == 1 and curves[0].type == "circle":
            self._circle(pen, curves[0], spots[0].at, gap, given, link)
            return None
        if len(curves) == 1 and _whole(curves[0]):
            self._whole(pen, curves[0], spots[0].at, gap, given, link)
            return None
        chain, closed = _ordered(pen, curves)
        side = _side(pen, chain, spots[0].at)
        sides = [side, -side] if given.flag("both") else [side]
        first = ""
        rims = []
        for s in sides:
            ends, first = _beside(pen, chain, closed, s * gap, given.text("gap"), link, first)
            rims.append(ends)
        if given.flag("caps") and not closed:
            others = rims[1] if len(rims) > 1 else (_start(chain[0]), _end(chain[-1]))
            for a, b in zip(rims[0], others, strict=True):
                pen.line(a, b)
        return None

    def _whole(self, pen: Pen, e: Any, at: Pair, gap: float, given: Given, link: str) -> None:
        side = int(_side(pen, [(e, True)], at))
        first = ""
        for s in (side, -side) if given.flag("both") else (side,):
            _unfolded(pen.curve(e.id), s * gap)
            made = pen.add("parallel", of=e.id, gap=gap, side=s)
            first = _hold(pen, e.id, made, given.text("gap"), link, first)

    def _circle(self, pen: Pen, e: Any, at: Pair, gap: float, given: Given, link: str) -> None:
        outside = away(pen.at(e.centre), at) > e.radius
        radii = [e.radius + gap if outside else e.radius - gap]
        if given.flag("both"):
            radii = [e.radius + gap, e.radius - gap]
        if min(radii) <= 0:
            raise ToolTrouble(f"the circle is too small to be offset inwards by {gap:.4g} mm")
        first = ""
        for radius in radii:
            made = pen.circle(e.centre, radius)
            first = _hold(pen, e.id, made, given.text("gap"), link, first)


def _hold(pen: Pen, source: str, made: str, text: str, link: str, first: str) -> str:
    """Hold an offset curve; all take their distance from the first of them."""
    id = pen.id("gap")
    c = pen.constrain("offset", source, made, formula=first or text, linked=link if first else None)
    kept = next(k for k in pen.constraints if k.id == c)
    pen.drop(c)
    pen.keep(kept.model_copy(update={"id": id}))
    return first or id


Way = tuple[Any, bool]  # an entity and whether it is walked from its first end


def _whole(e: Any) -> bool:
    return e.type in ("circle", "ellipse") or bool(getattr(e, "closed", False))


def _start(way: Way) -> str:
    e, forward = way
    if isinstance(e, FreeCurve):
        a, b = e.run()
    else:
        a, b = (e.a, e.b) if e.type == "line" else (e.start, e.end)
    return str(a if forward else b)


def _end(way: Way) -> str:
    return _start((way[0], not way[1]))


def _ordered(pen: Pen, curves: Sequence[Any]) -> tuple[list[Way], bool]:
    """Curves as one walk, end to end. Raises ToolTrouble when they do not hang together."""
    if any(_whole(e) for e in curves):
        raise ToolTrouble("offset what is closed by itself on its own")
    linked = {e.id for e in pen.entities if e.source}
    same = {frozenset(c.on) for c in pen.constraints if c.type == "coincident"}

    def joined(p: str, q: str) -> bool:
        # Edges linked from a body have ends of their own that stand in one place.
        return (
            p == q
            or frozenset((p, q)) in same
            or (linked >= {p, q} and away(pen.at(p), pen.at(q)) < 1e-7)
        )

    chain: list[Way] = [(curves[0], True)]
    rest = list(curves[1:])
    while rest:
        for e in rest:
            options = [(e, True), (e, False)]
            after = next((w for w in options if joined(_start(w), _end(chain[-1]))), None)
            if after:
                chain.append(after)
                break
            before = next((w for w in options if joined(_end(w), _start(chain[0]))), None)
            if before:
                chain.insert(0, before)
                break
        else:
            raise ToolTrouble("what is selected does not hang together in one chain")
        rest.remove(e)
    return chain, len(chain) > 1 and joined(_start(chain[0]), _end(chain[-1]))


def _side(pen: Pen, chain: Sequence[Way], at: Pair) -> float:
    """+1 when a place lies to the left of the walk, -1 to its right."""
    best = min(
        ((away(p, at), p, w) for w in chain for p in pen.curve(w[0].id).points(0.05)),
        key=lambda x: x[0],
    )
    curve, forward = pen.curve(best[2][0].id), best[2][1]
    near = best[1]
    if isinstance(curve, Line2):
        near = curve.at(min(max(curve.parameter(at), 0.0), 1.0))
    way = curve.tangent_at(near)
    turn = cross(way, minus(at, near))
    return (1.0 if turn >= 0 else -1.0) * (1.0 if forward else -1.0)


def _unfolded(curve: Curve2, d: float) -> Spline2 | Ellipse2:
    """The curve itself, when its offset does not fold over. Raises ToolTrouble."""
    assert isinstance(curve, Spline2 | Ellipse2)
    radius = folds(curve, d)
    if radius is not None:
        raise ToolTrouble(
            f"it bends to a radius of {radius:.4g} mm: an offset must stay below that"
        )
    return curve


def _shifted(pen: Pen, way: Way, d: float) -> Line2 | Arc2 | Spline2:
    """A curve moved to the left of the walk by d (mm)."""
    e, forward = way
    curve = pen.curve(e.id)
    s = d if forward else -d
    if isinstance(curve, Line2):
        n = left(unit(minus(curve.b, curve.a)))
        return Line2(plus(curve.a, n, s), plus(curve.b, n, s))
    if not isinstance(curve, Arc2):
        return offset_curve(_unfolded(curve, s), s)
    radius = curve.radius - s  # counter-clockwise: the left is inside
    if radius <= 1e-9:
        raise ToolTrouble("an arc is too small to be offset inwards by that much")
    return Arc2(curve.centre, radius, curve.start, curve.end)


def _meeting(one: Line2 | Arc2 | Spline2, two: Line2 | Arc2 | Spline2, near: Pair) -> Pair | None:
    """Where two offset curves, run on as far as they go, meet nearest to a place; None when they
    meet already. Raises ToolTrouble for free curves, which cannot be run on."""
    if isinstance(one, Spline2) or isinstance(two, Spline2):
        if min(away(p, q) for p in one.ends for q in two.ends) < 1e-5:
            return None
        raise ToolTrouble(
            "a free curve is offset along with its neighbours only where they run on smoothly"
        )
    if isinstance(one, Line2) and isinstance(two, Line2):
        u, v = minus(one.b, one.a), minus(two.b, two.a)
        det = cross(u, v)
        if abs(det) < 1e-9 * math.hypot(*u) * math.hypot(*v):
            return None
        return plus(one.a, u, cross(minus(two.a, one.a), v) / det)
    if isinstance(two, Line2):
        one, two = two, one
    circle = Circle2(two.centre, two.radius)  # type: ignore[union-attr]
    if isinstance(one, Line2):
        u = unit(minus(one.b, one.a))
        foot = plus(one.a, u, dot(minus(circle.centre, one.a), u))
        rise = circle.radius**2 - away(foot, circle.centre) ** 2
        if rise < -1e-9 * circle.radius**2:
            return None
        h = math.sqrt(max(rise, 0.0))
        return min((plus(foot, u, k * h) for k in (1, -1)), key=lambda p: away(p, near))
    d = away(one.centre, circle.centre)
    if d < 1e-12:
        return None
    a = (d * d + one.radius**2 - circle.radius**2) / (2 * d)
    rise = one.radius**2 - a * a
    if rise < -1e-9 * one.radius**2:
        return None
    u = unit(minus(circle.centre, one.centre))
    foot, h = plus(one.centre, u, a), math.sqrt(max(rise, 0.0))
    return min((plus(foot, left(u), k * h) for k in (1, -1)), key=lambda p: away(p, near))


def _beside(
    pen: Pen, chain: Sequence[Way], closed: bool, d: float, text: str, link: str, first: str
) -> tuple[tuple[str, str], str]:
    """The chain beside, held; its end points, and the size all others follow."""
    shifted = [_shifted(pen, w, d) for w in chain]
    n = len(chain)
    points: list[str] = []
    for i in range(n + 1):
        before, after = shifted[(i - 1) % n], shifted[i % n]
        corner = pen.at(_start(chain[i % n]) if i < n else _end(chain[-1]))
        if closed and i == n:
            points.append(points[0])
            continue
        if not closed and i in (0, n):
            edge, way = (after, chain[0]) if i == 0 else (before, chain[-1])
            at_first = way[1] == (i == 0)
            points.append(_end_beside(pen, chain, edge, edge.ends[0 if at_first else 1], corner))
            continue
        here = _meeting(before, after, plus(corner, (0.0, 0.0)))
        if here is None:  # smooth: the ends meet already
            way = chain[i % n]
            here = after.ends[0 if way[1] else 1]
        points.append(pen.place(here))
    for i, ((e, forward), curve) in enumerate(zip(chain, shifted, strict=True)):
        a, b = points[i], points[i + 1]
        if isinstance(curve, Line2):
            if dot(minus(pen.at(b), pen.at(a)), _walk(pen, e, forward)) <= 0:
                raise ToolTrouble("a side is too short to be offset by that much")
            made = pen.line(a, b) if forward else pen.line(b, a)
        elif isinstance(curve, Spline2):
            s = 1 if (d > 0) == forward else -1
            ends = (a, b) if forward else (b, a)
            made = pen.add("parallel", of=e.id, gap=abs(d), side=s, start=ends[0], end=ends[1])
        else:
            made = pen.arc(e.centre, a, b, 1.0 if forward else -1.0)
        first = _hold(pen, e.id, made, text, link, first)
    return (points[0], points[-1]), first


def _end_beside(
    pen: Pen, chain: Sequence[Way], edge: Line2 | Arc2 | Spline2, at: Pair, source: Pair
) -> str:
    """Where the offset of an open chain ends: on the neighbour its source ends on, cut back or run
    on to it and held there; else straight beside the end."""
    own = {w[0].id for w in chain}
    for e in pen.entities:
        if e.id in own or e.form not in ("line", "circle", "arc") or isinstance(edge, Spline2):
            continue
        curve = pen.curve(e.id)
        low, high = curve.range
        foot = curve.at(min(max(curve.parameter(source), low), high))
        if away(foot, source) > 1e-6:
            continue
        other = (
            Arc2(curve.centre, curve.radius, *curve.range) if isinstance(curve, Circle2) else curve
        )
        met = _meeting(edge, other, at) if isinstance(other, Line2 | Arc2) else None
        if met is None:
            continue
        point = pen.place(met)
        pen.constrain("on_curve", point, e.id)
        return point
    return pen.place(at)


def _walk(pen: Pen, e: Any, forward: bool) -> Pair:
    way = minus(pen.at(e.b), pen.at(e.a))
    return way if forward else (-way[0], -way[1])
