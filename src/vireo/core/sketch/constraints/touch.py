"""Curves through points, curves that touch, curves that bend alike where they meet."""

from __future__ import annotations

import math

import numpy as np

from vireo.core.sketch.constraints.base import (
    CURVES,
    LINES,
    ConstraintKind,
    cross_to,
    of_form,
    register,
)
from vireo.core.sketch.entities.ellipse import Ellipse
from vireo.core.sketch.entities.spline import FreeCurve
from vireo.core.sketch.model import Constraint
from vireo.core.sketch.residuals import (
    Way,
    line_ellipse,
    on_ellipse,
    same_bend,
    same_way,
    spline_point,
)
from vireo.core.sketch.seats import Equations, Pair, Row, Seats, Variables
from vireo.core.trouble import BadInput


def spline_values(seats: Seats, curve: FreeCurve) -> tuple[tuple[int, int, int], tuple[float, ...]]:  # fmt: skip
    """Sizes and constants of a spline as the residuals take them."""
    tie = curve.tie(seats.places())
    poles, points = tie.matrix.shape
    weights = tie.weights or (1.0,) * poles
    return (tie.degree, poles, points), (*tie.knots, *weights, *map(float, tie.matrix.ravel()))


def holds_point(seats: Seats, curve: str, point: tuple[int, int], near: Pair) -> list[Row]:
    """Rows that put a point (its variables, its drawn place) on a curve."""
    form = seats.form(curve)
    if form == "line":
        return [Row("point_line", seats.line(curve) + point)]
    if form == "circle":
        return [Row("on_circle", (*seats.centre(curve), *point, seats.radii[curve]))]
    entity = seats.entities[curve]
    if isinstance(entity, Ellipse):
        return [Row(on_ellipse, entity.variables(seats) + point)]
    assert isinstance(entity, FreeCurve)
    t = seats.helper(entity.curve(seats.places()).parameter(near))
    return [_on_spline(seats, entity, t, point)]


def _on_spline(seats: Seats, curve: FreeCurve, t: int, point: tuple[int, int]) -> Row:
    sizes, values = spline_values(seats, curve)
    of = (t, *point, *curve.variables(seats))
    return Row(spline_point(*sizes), of, values, count=2)


def way_at(
    seats: Seats, curve: str, point: tuple[int, int], t: int | None
) -> tuple[Way, Variables, tuple[float, ...]]:
    """How a curve runs at a point on it; splines are asked at the parameter variable `t`."""
    form = seats.form(curve)
    if form == "line":
        return ("line", ()), seats.line(curve), (0.0,)
    if form == "circle":
        return ("circle", ()), (*seats.centre(curve), *point), (0.0,)
    entity = seats.entities[curve]
    if isinstance(entity, Ellipse):
        return ("ellipse", ()), entity.variables(seats) + point, (0.0,)
    assert isinstance(entity, FreeCurve)
    assert t is not None
    sizes, values = spline_values(seats, entity)
    return ("spline", sizes), (t, *entity.variables(seats)), values


def shared_end(seats: Seats, c: Constraint) -> tuple[str, str] | None:
    """The end points in which two curves meet, as each calls it: ends that are one, or the end
    of one that is held on the other."""
    one, two = c.on
    for p in seats.ends(one):
        for q in seats.ends(two):
            if p == q or _joined(seats, p, q):
                return p, q
    for curve, other in ((one, two), (two, one)):
        for p in seats.ends(curve):
            if seats.form(other) != "spline" and _held_on(seats, p, other):
                return p, p
    return None


def _held_on(seats: Seats, point: str, curve: str) -> bool:
    return any(
        k.type == "on_curve" and set(k.on) == {point, curve} for k in seats.drawing.constraints
    )


def _joined(seats: Seats, p: str, q: str) -> bool:
    """Whether a coincidence ties two points."""
    return any(k.type == "coincident" and set(k.on) == {p, q} for k in seats.drawing.constraints)


def _end_parameter(seats: Seats, curve: str, point: str) -> int | None:
    if seats.form(curve) != "spline":
        return None
    return seats.steady(0.0 if seats.ends(curve)[0] == point else 1.0)


def _at_shared_end(
    seats: Seats, c: Constraint, meeting: tuple[str, str]
) -> list[tuple[Way, Variables, tuple[float, ...]]]:
    return [
        way_at(seats, curve, seats.points[end], _end_parameter(seats, curve, end))
        for curve, end in zip(c.on, meeting, strict=True)
    ]


def _tangent_sense(seats: Seats, c: Constraint) -> tuple[int, ...]:
    lines, circles = of_form(seats, c, "line"), of_form(seats, c, "circle")
    if len(circles) == 2:
        one, two = (seats.at(seats.centres[k]) for k in circles)
        r1, r2 = (seats.start[seats.radii[k]] for k in circles)
        gap = math.dist(one, two)
        options = {(1, 1): r1 + r2, (1, -1): r1 - r2, (-1, 1): r2 - r1}
        return min(options, key=lambda s: abs(options[s] - gap))
    others = of_form(seats, c, "circle", "ellipse")
    if lines and others:
        side = cross_to(seats, lines[0], seats.at(seats.centres[others[0]]))
        return (1 if side >= 0 else -1,)
    return ()


def _tangent(seats: Seats, c: Constraint, v: float) -> Equations:
    meeting = shared_end(seats, c)
    forms = sorted(seats.form(i) for i in c.on)
    if meeting is not None:
        return Equations(rows=[_tangent_at_end(seats, c, meeting, forms)])
    sense = c.sense or _tangent_sense(seats, c)
    if forms == ["circle", "line"]:
        (line,), (circle,) = of_form(seats, c, "line"), of_form(seats, c, "circle")
        of = (*seats.line(line), *seats.centre(circle), seats.radii[circle])
        return Equations(rows=[Row("line_circle", of, (float(sense[0]),))])
    if forms == ["circle", "circle"]:
        one, two = c.on
        of = (*seats.centre(one), *seats.centre(two), seats.radii[one], seats.radii[two])
        return Equations(rows=[Row("circle_circle", of, (float(sense[0]), float(sense[1])))])
    if forms == ["ellipse", "line"]:
        (line,), (ellipse,) = of_form(seats, c, "line"), of_form(seats, c, "ellipse")
        entity = seats.entities[ellipse]
        assert isinstance(entity, Ellipse)
        of = seats.line(line) + entity.variables(seats)
        return Equations(rows=[Row(line_ellipse, of, (float(sense[0]),))])
    return Equations(rows=_touching(seats, c))


def _tangent_at_end(seats: Seats, c: Constraint, meeting: tuple[str, str], forms: list[str]) -> Row:  # fmt: skip
    """Tangent where two curves end in one point.

    The signed distance would have the gradient of point-on-circle there and lose rank.
    """
    if forms == ["circle", "line"]:
        (line,), (arc,) = of_form(seats, c, "line"), of_form(seats, c, "circle")
        point = meeting[c.on.index(arc)]
        of = (*seats.line(line), *seats.points[point], *seats.centre(arc))
        return Row("tangent_at_end", of)
    if forms == ["circle", "circle"]:
        point = meeting[1]
        of = (*seats.centre(c.on[0]), *seats.centre(c.on[1]), *seats.points[point])
        return Row("point_line", of)
    (w1, x1, v1), (w2, x2, v2) = _at_shared_end(seats, c, meeting)
    return Row(same_way(w1, w2), x1 + x2, v1 + v2)


def _touching(seats: Seats, c: Constraint) -> list[Row]:
    """Two curves with a common point in which they run the same way; the point is a helper."""
    at = _nearest(seats, c)
    point = seats.helper_point(at)
    rows, ways = [], []
    for id in c.on:
        entity = seats.entities.get(id)
        t = None
        if isinstance(entity, FreeCurve):
            t = seats.helper(entity.curve(seats.places()).parameter(at))
            rows.append(_on_spline(seats, entity, t, point))
        else:
            rows += holds_point(seats, id, point, at)
        ways.append(way_at(seats, id, point, t))
    (w1, x1, v1), (w2, x2, v2) = ways
    return [*rows, Row(same_way(w1, w2), x1 + x2, v1 + v2)]


def _nearest(seats: Seats, c: Constraint) -> Pair:
    """Where two drawn curves come nearest: the middle between them."""
    places = seats.places()
    sampled = []
    for id in c.on:
        entity = seats.entities.get(id)
        curve = entity.curve(places) if entity else None
        if curve is None or seats.form(id) == "line":
            a, b = (np.array(seats.at(p)) for p in seats.lines[id])
            sampled.append(a + np.linspace(0, 1, 200)[:, None] * (b - a))
        else:
            sampled.append(np.array(curve.points(0.02)))
    gaps = ((sampled[0][:, None] - sampled[1][None]) ** 2).sum(axis=2)
    i, j = np.unravel_index(int(np.argmin(gaps)), gaps.shape)
    middle = (sampled[0][i] + sampled[1][j]) / 2
    return (float(middle[0]), float(middle[1]))


def _bending(seats: Seats, c: Constraint, v: float) -> Equations:
    meeting = shared_end(seats, c)
    if meeting is None:
        raise BadInput(
            "curvature goes on where two curves end in one point; these do not meet",
            [f"constraint:{c.id}"],
        )
    (w1, x1, v1), (w2, x2, v2) = _at_shared_end(seats, c, meeting)
    return Equations(
        rows=[
            Row(same_way(w1, w2), x1 + x2, v1 + v2),
            Row(same_bend(w1, w2), x1 + x2, v1 + v2),
        ]
    )


_PAIRS = tuple(
    tuple(sorted((a, b))) for i, a in enumerate(CURVES) for b in CURVES[i:] if (a, b) != LINES
)
register(
    ConstraintKind("tangent", "Tangent", _PAIRS, _tangent, sense=_tangent_sense),
    ConstraintKind(
        "curvature", "Same curvature",
        tuple(p for p in _PAIRS if "spline" in p), _bending,
    ),
)  # fmt: skip
