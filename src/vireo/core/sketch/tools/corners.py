"""Corners rounded and bevelled."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from vireo.core.curves import Curve2
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


class _Corner(Tool):
    group = "Change"
    spots = ("a corner",)

    def _corner(self, pen: Pen, spots: Sequence[Spot]) -> tuple[str, list[Any]]:
        snap = spots[0].snap
        if snap is None or snap.kind != "point":
            raise ToolTrouble("click the point in which two curves meet")
        users = [e for e in pen.users(snap.id) if not e.construction and _role(e, snap.id)]
        if len(users) != 2:
            raise ToolTrouble("a corner is a point in which exactly two curves end")
        return snap.id, users

    def _replace(self, pen: Pen, corner: str, users: Sequence[Any], ends: Sequence[str]) -> None:
        """Curves end in new points; the corner stays where something is measured to it."""
        wanted = [c for c in pen.constraints if corner in c.on]
        for e, end in zip(users, ends, strict=True):
            role = _role(e, corner)
            assert role is not None
            pen.change(e.id, **{role: end})
            for c in pen.constraints:
                if c.type in ("midpoint", "equal", "arc_length", "ratio") and e.id in c.on:
                    pen.drop(c.id)
                elif c.type == "distance" and c.on == (e.id,):
                    # The length ran to the corner: it still does.
                    other = next(p for p in (e.a, e.b) if p != corner)
                    pen.keep(c.model_copy(update={"on": (other, corner), "sense": ()}))
                    wanted.append(c)
        if wanted:
            for e in users:
                pen.constrain("on_curve", corner, e.id)
        else:
            pen.remove([corner])


def _role(entity: Any, point: str) -> str | None:
    """By which end an entity stands on a point."""
    return next((r for r in ("a", "b", "start", "end") if getattr(entity, r, None) == point), None)


def _run(curve: Curve2, at: Pair) -> tuple[float, float]:
    """Parameter of a curve's end and the sign in which one walks away from it."""
    low, high = curve.range
    return (low, 1.0) if away(curve.ends[0], at) <= away(curve.ends[1], at) else (high, -1.0)


def _velocity(curve: Curve2, t: float) -> Pair:
    low, high = curve.range
    h = 1e-6 * (high - low)
    a, b = curve.at(t - h), curve.at(t + h)
    return ((b[0] - a[0]) / (2 * h), (b[1] - a[1]) / (2 * h))


@register
class RoundCorner(_Corner):
    name, label, icon, key = "round", "Round a corner", "fillet", "n"
    line = "Click a corner; the radius stays a size"
    sizes = (Size("radius", "Radius", after=0, default="5 mm"),)

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        corner, users = self._corner(pen, spots)
        r = given.need("radius")
        at = pen.at(corner)
        curves = [pen.curve(e.id) for e in users]
        centre, touch = _fitted(curves, at, r)
        ends = [pen.place(t) for t in touch]
        turn = cross(minus(touch[0], centre), minus(touch[1], centre))
        arc = pen.arc(pen.place(centre), ends[0], ends[1], turn)
        self._replace(pen, corner, users, ends)
        for e in users:
            pen.constrain("tangent", e.id, arc)
        pen.dimension("radius", [arc], given.text("radius"))
        return None


def _fitted(curves: Sequence[Curve2], at: Pair, r: float) -> tuple[Pair, list[Pair]]:
    """Centre of the circle of radius r that touches both curves inside their corner, and where.

    C1(t) + r n1(t) = C2(u) + r n2(u), by Newton's method from the straight corner.
    """
    runs = [_run(c, at) for c in curves]
    ways = []
    for c, (t, sign) in zip(curves, runs, strict=True):
        v = _velocity(c, t)
        ways.append(unit((v[0] * sign, v[1] * sign)))
    angle = math.acos(max(-1.0, min(1.0, dot(*ways))))
    if angle < 1e-4 or angle > math.pi - 1e-4:
        raise ToolTrouble("these curves run on smoothly there: no corner to round")
    inner = 1.0 if cross(*ways) > 0 else -1.0  # the second lies to the left of the first
    sides = [inner, -inner]
    reach = r / math.tan(angle / 2)
    ts = []
    for c, (t, sign) in zip(curves, runs, strict=True):
        v = _velocity(c, t)
        ts.append(t + sign * reach / math.hypot(*v))

    def centre(k: int, t: float) -> Pair:
        v = _velocity(curves[k], t)
        way = unit((v[0] * runs[k][1], v[1] * runs[k][1]))
        return plus(curves[k].at(t), left(way), sides[k] * r)

    for _ in range(40):
        p, q = centre(0, ts[0]), centre(1, ts[1])
        gap = minus(q, p)
        if math.hypot(*gap) < 1e-11 * max(r, 1.0):
            break
        slopes = []
        for k in (0, 1):
            low, high = curves[k].range
            h = 1e-6 * (high - low)
            a, b = centre(k, ts[k] - h), centre(k, ts[k] + h)
            slopes.append(((b[0] - a[0]) / (2 * h), (b[1] - a[1]) / (2 * h)))
        det = cross(slopes[0], slopes[1])
        if abs(det) < 1e-12:
            break
        ts[0] += cross(gap, slopes[1]) / det
        ts[1] += cross(gap, slopes[0]) / det
    else:
        raise ToolTrouble(f"a radius of {r:.4g} mm does not fit this corner")
    for c, (end, sign), t in zip(curves, runs, ts, strict=True):
        low, high = c.range
        if (t - end) * sign <= 0 or not low < t < high:
            raise ToolTrouble(
                f"a radius of {r:.4g} mm does not fit this corner: a side is too short"
            )
    return centre(0, ts[0]), [c.at(t) for c, t in zip(curves, ts, strict=True)]


@register
class BevelCorner(_Corner):
    name, label, icon, key = "bevel", "Bevel a corner", "chamfer", "N"
    line = "Click a corner; both lengths stay sizes"
    sizes = (
        Size("one", "First length", after=0, default="5 mm"),
        Size("two", "Second length", after=0),
    )

    def draw(
        self, pen: Pen, spots: Sequence[Spot], given: Given, selected: Sequence[str]
    ) -> str | None:
        corner, users = self._corner(pen, spots)
        if any(e.form != "line" for e in users):
            raise ToolTrouble("corners between straight lines can be bevelled")
        one = given.need("one")
        lengths = [one, given.value("two") or one]
        at = pen.at(corner)
        ends = []
        for e, length in zip(users, lengths, strict=True):
            far = pen.at(next(p for p in (e.a, e.b) if p != corner))
            if length >= away(at, far):
                raise ToolTrouble(f"{length:.4g} mm is longer than the side it is taken from")
            ends.append(pen.place(plus(at, unit(minus(far, at)), length)))
        # What is measured runs to the corner, so the corner stays.
        texts = [given.text("one"), given.text("two") or given.text("one")]
        for end, text in zip(ends, texts, strict=True):
            pen.dimension("distance", [corner, end], text)
        self._replace(pen, corner, users, ends)
        pen.line(*ends)
        return None
