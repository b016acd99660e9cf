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
from vireo.core.sketch.layout import Equations, Layout, Pair, Row, Variables
from vireo.core.sketch.model import Constraint
from vireo.core.sketch.residuals import (
    Way,
    line_ellipse,
    on_ellipse,
    same_bend,
    same_way,
    spline_point,
)
from vireo.core.trouble import BadInput


def spline_values(layout: Layout, curve: FreeCurve) -> tuple[tuple[int, int, int], tuple[float, ...]]:  # fmt: skip
    """Sizes and constants of a spline as the residuals take them."""
    tie = curve.tie(layout.places())
    poles, points = tie.matrix.shape
    weights = tie.weights or (1.0,) * poles
    return (tie.degree, poles, points), (*tie.knots, *weights, *map(float, tie.matrix.ravel()))


def holds_point(layout: Layout, curve: str, point: tuple[int, int], near: Pair) -> list[Row]:
    """Rows that put a point (its variables, its drawn place) on a curve."""
    form = layout.form(curve)
    if form == "line":
        return [Row("point_line", layout.line(curve) + point)]
    if form == "circle":
        return [Row("on_circle", (*layout.centre(curve), *point, layout.radii[curve]))]
    entity = layout.entities[curve]
    if isinstance(entity, Ellipse):
        return [Row(on_ellipse, entity.variables(layout) + point)]
    assert isinstance(entity, FreeCurve)
    t = layout.helper(entity.curve(layout.places()).parameter(near))
    return [_on_spline(layout, entity, t, point)]


def _on_spline(layout: Layout, curve: FreeCurve, t: int, point: tuple[int, int]) -> Row:
    sizes, values = spline_values(layout, curve)
    of = (t, *point, *curve.variables(layout))
    return Row(spline_point(*sizes), of, values, count=2)


def way_at(
    layout: Layout, curve: str, point: tuple[int, int], t: int | None
) -> tuple[Way, Variables, tuple[float, ...]]:
    """How a curve runs at a point on it; splines are asked at the parameter variable `t`."""
    form = layout.form(curve)
    if form == "line":
        return ("line", ()), layout.line(curve), (0.0,)
    if form == "circle":
        return ("circle", ()), (*layout.centre(curve), *point), (0.0,)
    entity = layout.entities[curve]
    if isinstance(entity, Ellipse):
        return ("ellipse", ()), entity.variables(layout) + point, (0.0,)
    assert isinstance(entity, FreeCurve)
    assert t is not None
    sizes, values = spline_values(layout, entity)
    return ("spline", sizes), (t, *entity.variables(layout)), values


def shared_end(layout: Layout, c: Constraint) -> tuple[str, str] | None:
    """The end points in which two curves meet, as each calls it: ends that are one, or the end
    of one that is held on the other."""
    one, two = c.on
    for p in layout.ends(one):
        for q in layout.ends(two):
            if p == q or _joined(layout, p, q):
                return p, q
    for curve, other in ((one, two), (two, one)):
        for p in layout.ends(curve):
            if layout.form(other) != "spline" and _held_on(layout, p, other):
                return p, p
    return None


def _held_on(layout: Layout, point: str, curve: str) -> bool:
    return any(
        k.type == "on_curve" and set(k.on) == {point, curve} for k in layout.drawing.constraints
    )


def _joined(layout: Layout, p: str, q: str) -> bool:
    """Whether a coincidence ties two points."""
    return any(k.type == "coincident" and set(k.on) == {p, q} for k in layout.drawing.constraints)


def _end_parameter(layout: Layout, curve: str, point: str) -> int | None:
    if layout.form(curve) != "spline":
        return None
    return layout.steady(0.0 if layout.ends(curve)[0] == point else 1.0)


def _at_shared_end(
    layout: Layout, c: Constraint, meeting: tuple[str, str]
) -> list[tuple[Way, Variables, tuple[float, ...]]]:
    return [
        way_at(layout, curve, layout.points[end], _end_parameter(layout, curve, end))
        for curve, end in zip(c.on, meeting, strict=True)
    ]


def _tangent_sense(layout: Layout, c: Constraint) -> tuple[int, ...]:
    lines, circles = of_form(layout, c, "line"), of_form(layout, c, "circle")
    if len(circles) == 2:
        one, two = (layout.at(layout.centres[k]) for k in circles)
        r1, r2 = (layout.start[layout.radii[k]] for k in circles)
        gap = math.dist(one, two)
        options = {(1, 1): r1 + r2, (1, -1): r1 - r2, (-1, 1): r2 - r1}
        return min(options, key=lambda s: abs(options[s] - gap))
    others = of_form(layout, c, "circle", "ellipse")
    if lines and others:
        side = cross_to(layout, lines[0], layout.at(layout.centres[others[0]]))
        return (1 if side >= 0 else -1,)
    return ()


def _tangent(layout: Layout, c: Constraint, v: float) -> Equations:
    meeting = shared_end(layout, c)
    forms = sorted(layout.form(i) for i in c.on)
    if meeting is not None:
        return Equations(rows=[_tangent_at_end(layout, c, meeting, forms)])
    sense = c.sense or _tangent_sense(layout, c)
    if forms == ["circle", "line"]:
        (line,), (circle,) = of_form(layout, c, "line"), of_form(layout, c, "circle")
        of = (*layout.line(line), *layout.centre(circle), layout.radii[circle])
        return Equations(rows=[Row("line_circle", of, (float(sense[0]),))])
    if forms == ["circle", "circle"]:
        one, two = c.on
        of = (*layout.centre(one), *layout.centre(two), layout.radii[one], layout.radii[two])
        return Equations(rows=[Row("circle_circle", of, (float(sense[0]), float(sense[1])))])
    if forms == ["ellipse", "line"]:
        (line,), (ellipse,) = of_form(layout, c, "line"), of_form(layout, c, "ellipse")
        entity = layout.entities[ellipse]
        assert isinstance(entity, Ellipse)
        of = layout.line(line) + entity.variables(layout)
        return Equations(rows=[Row(line_ellipse, of, (float(sense[0]),))])
    return Equations(rows=_touching(layout, c))


def _tangent_at_end(layout: Layout, c: Constraint, meeting: tuple[str, str], forms: list[str]) -> Row:  # fmt: skip
    """Tangent where two curves end in one point.

    The signed distance would have the gradient of point-on-circle there and lose rank.
    """
    if forms == ["circle", "line"]:
        (line,), (arc,) = of_form(layout, c, "line"), of_form(layout, c, "circle")
        point = meeting[c.on.index(arc)]
        of = (*layout.line(line), *layout.points[point], *layout.centre(arc))
        return Row("tangent_at_end", of)
    if forms == ["circle", "circle"]:
        point = meeting[1]
        of = (*layout.centre(c.on[0]), *layout.centre(c.on[1]), *layout.points[point])
        return Row("point_line", of)
    (w1, x1, v1), (w2, x2, v2) = _at_shared_end(layout, c, meeting)
    return Row(same_way(w1, w2), x1 + x2, v1 + v2)


def _touching(layout: Layout, c: Constraint) -> list[Row]:
    """Two curves with a common point in which they run the same way; the point is a helper."""
    at = _nearest(layout, c)
    point = layout.helper_point(at)
    rows, ways = [], []
    for id in c.on:
        entity = layout.entities.get(id)
        t = None
        if isinstance(entity, FreeCurve):
            t = layout.helper(entity.curve(layout.places()).parameter(at))
            rows.append(_on_spline(layout, entity, t, point))
        else:
            rows += holds_point(layout, id, point, at)
        ways.append(way_at(layout, id, point, t))
    (w1, x1, v1), (w2, x2, v2) = ways
    return [*rows, Row(same_way(w1, w2), x1 + x2, v1 + v2)]


def _nearest(layout: Layout, c: Constraint) -> Pair:
    """Where two drawn curves come nearest: the middle between them."""
    places = layout.places()
    sampled = []
    for id in c.on:
        entity = layout.entities.get(id)
        curve = entity.curve(places) if entity else None
        if curve is None or layout.form(id) == "line":
            a, b = (np.array(layout.at(p)) for p in layout.lines[id])
            sampled.append(a + np.linspace(0, 1, 200)[:, None] * (b - a))
        else:
            sampled.append(np.array(curve.points(0.02)))
    gaps = ((sampled[0][:, None] - sampled[1][None]) ** 2).sum(axis=2)
    i, j = np.unravel_index(int(np.argmin(gaps)), gaps.shape)
    middle = (sampled[0][i] + sampled[1][j]) / 2
    return (float(middle[0]), float(middle[1]))


def _bending(layout: Layout, c: Constraint, v: float) -> Equations:
    meeting = shared_end(layout, c)
    if meeting is None:
        raise BadInput(
            "curvature goes on where two curves end in one point; these do not meet",
            [f"constraint:{c.id}"],
        )
    (w1, x1, v1), (w2, x2, v2) = _at_shared_end(layout, c, meeting)
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
