"""Dimensions: distances, angles, radii, lengths along curves, ratios."""

from __future__ import annotations

import math
from collections.abc import Callable

from vireo.core.curves import least_radius
from vireo.core.quantity import ANGLE, LENGTH, NUMBER
from vireo.core.sketch.constraints.base import (
    LINES,
    POINTS,
    ROUND,
    ConstraintKind,
    cross_to,
    of_form,
    register,
)
from vireo.core.sketch.constraints.touch import holds_point
from vireo.core.sketch.entities.ellipse import Ellipse
from vireo.core.sketch.model import Constraint
from vireo.core.sketch.residuals import arc_length, radius_ratio, ratio
from vireo.core.sketch.seats import Equations, Pair, Row, Seats
from vireo.core.trouble import BadInput


def _ends(seats: Seats, c: Constraint) -> tuple[str, str]:
    if len(c.on) == 1:
        return seats.lines[c.on[0]]
    return c.on[0], c.on[1]


def _point_and_line(seats: Seats, c: Constraint) -> tuple[str, str] | None:
    """The point and the line a distance is taken between, or None for two points."""
    points, lines = of_form(seats, c, "point"), of_form(seats, c, "line")
    if points and lines:
        return points[0], lines[0]
    if len(lines) == 2:
        return seats.lines[lines[1]][0], lines[0]
    return None


def _distance_sense(seats: Seats, c: Constraint) -> tuple[int, ...]:
    pair = _point_and_line(seats, c)
    if pair is None:
        return ()
    return (1 if cross_to(seats, pair[1], seats.at(pair[0])) >= 0 else -1,)


def _distance(factor: float) -> Callable[[Seats, Constraint, float], Equations]:
    def equations(seats: Seats, c: Constraint, v: float) -> Equations:
        pair = _point_and_line(seats, c)
        if pair is None:
            a, b = _ends(seats, c)
            ends = (*seats.points[a], *seats.points[b])
            return Equations(rows=[Row("distance", ends, (v,), scaled=True)])
        sense = c.sense or _distance_sense(seats, c)
        of = seats.line(pair[1]) + seats.points[pair[0]]
        return Equations(rows=[Row("point_line", of, (sense[0] * v / factor,), scaled=True)])

    return equations


def _measure_distance(factor: float) -> Callable[[Seats, Constraint], float]:
    def measure(seats: Seats, c: Constraint) -> float:
        pair = _point_and_line(seats, c)
        if pair is None:
            a, b = _ends(seats, c)
            return math.dist(seats.at(a), seats.at(b))
        return factor * abs(cross_to(seats, pair[1], seats.at(pair[0])))

    return measure


def _along(axis: int) -> ConstraintKind:
    word = "x" if axis == 0 else "y"

    def measured(seats: Seats, c: Constraint) -> float:
        a, b = (seats.at(p) for p in _ends(seats, c))
        return abs(b[axis] - a[axis])

    def sense(seats: Seats, c: Constraint) -> tuple[int, ...]:
        a, b = (seats.at(p) for p in _ends(seats, c))
        return (1 if b[axis] >= a[axis] else -1,)

    def equations(seats: Seats, c: Constraint, v: float) -> Equations:
        a, b = (seats.points[p][axis] for p in _ends(seats, c))
        s = (c.sense or sense(seats, c))[0]
        return Equations(rows=[Row("difference", (a, b), (s * v,), scaled=True)])

    label = "Distance across" if axis == 0 else "Distance up"
    return ConstraintKind(
        f"distance_{word}", label, (POINTS, ("line",)), equations, LENGTH, measured,
        sense, zero=True,
    )  # fmt: skip


def _directions(seats: Seats, c: Constraint) -> tuple[Pair, Pair]:
    (a, b), (p, q) = ([seats.at(e) for e in seats.lines[i]] for i in c.on)
    return (b[0] - a[0], b[1] - a[1]), (q[0] - p[0], q[1] - p[1])


def _turn(u: Pair, w: Pair) -> float:
    return math.atan2(u[0] * w[1] - u[1] * w[0], u[0] * w[0] + u[1] * w[1])


def _flips(sense: tuple[int, ...]) -> tuple[int, int]:
    return (sense[1], sense[2]) if len(sense) == 3 else (1, 1)


def _angle_sense(seats: Seats, c: Constraint) -> tuple[int, ...]:
    """(way it turns, which way along each line): the sector the label stands in.

    Without a label the sector is the one between the lines as they leave a shared corner.
    """
    u, w = _directions(seats, c)
    one, two = (seats.lines[i] for i in c.on)
    flips = (1, 1)
    corner = _corner(seats, c)
    if c.at is not None and corner is not None:
        det = u[0] * w[1] - u[1] * w[0]
        x, y = c.at[0] - corner[0], c.at[1] - corner[1]
        flips = (
            1 if (x * w[1] - y * w[0]) / det >= 0 else -1,
            1 if (u[0] * y - u[1] * x) / det >= 0 else -1,
        )
    else:
        shared = [
            (i, j) for i, p in enumerate(one) for j, q in enumerate(two)
            if math.dist(seats.at(p), seats.at(q)) < 1e-9 * seats.scale
        ]  # fmt: skip
        if shared:
            flips = tuple(1 if end == 0 else -1 for end in shared[0])  # type: ignore[assignment]
    f, g = flips
    turn = _turn((f * u[0], f * u[1]), (g * w[0], g * w[1]))
    return (1 if turn >= 0 else -1, f, g)


def _corner(seats: Seats, c: Constraint) -> Pair | None:
    u, w = _directions(seats, c)
    det = u[0] * w[1] - u[1] * w[0]
    if abs(det) < 1e-9 * math.hypot(*u) * math.hypot(*w):
        return None
    a, p = (seats.at(seats.lines[i][0]) for i in c.on)
    t = ((p[0] - a[0]) * w[1] - (p[1] - a[1]) * w[0]) / det
    return (a[0] + t * u[0], a[1] + t * u[1])


def _angle(seats: Seats, c: Constraint, v: float) -> Equations:
    sense = c.sense or _angle_sense(seats, c)
    of: tuple[int, ...] = ()
    for id, flip in zip(c.on, _flips(sense), strict=True):
        line = seats.line(id)
        of += line if flip > 0 else (*line[2:], *line[:2])
    return Equations(rows=[Row("angle", of, (sense[0] * v,))])


def _measure_angle(seats: Seats, c: Constraint) -> float:
    u, w = _directions(seats, c)
    f, g = _flips(c.sense or _angle_sense(seats, c))
    return abs(_turn((f * u[0], f * u[1]), (g * w[0], g * w[1])))


def _radius(factor: float) -> Callable[[Seats, Constraint, float], Equations]:
    def equations(seats: Seats, c: Constraint, v: float) -> Equations:
        row = Row("value", (seats.radii[c.on[0]],), (v / factor,), scaled=True)
        return Equations(rows=[row])

    return equations


def _measure_radius(factor: float) -> Callable[[Seats, Constraint], float]:
    return lambda seats, c: factor * seats.start[seats.radii[c.on[0]]]


def _ellipse(seats: Seats, c: Constraint) -> Ellipse:
    entity = seats.entities[c.on[0]]
    assert isinstance(entity, Ellipse)
    return entity


def _half_major(seats: Seats, c: Constraint, v: float) -> Equations:
    e = _ellipse(seats, c)
    of = (*seats.points[e.centre], *seats.points[e.major])
    return Equations(rows=[Row("distance", of, (v / 2,), scaled=True)])


def _half_minor(seats: Seats, c: Constraint, v: float) -> Equations:
    of = (seats.numbers[c.on[0], "minor"],)
    return Equations(rows=[Row("value", of, (v / 2,), scaled=True)])


def _text_height(seats: Seats, c: Constraint, v: float) -> Equations:
    of = (seats.numbers[c.on[0], "height"],)
    return Equations(rows=[Row("value", of, (v,), scaled=True)])


def _tightest(seats: Seats, c: Constraint) -> float:
    """The least radius of curvature along a free curve (mm)."""
    curve = seats.entities[c.on[0]].curve(seats.places())
    assert curve is not None
    return least_radius(curve)[0]


def _swept(seats: Seats, id: str) -> float:
    """Angle an arc sweeps as drawn, in (0, 2 pi]."""
    c = seats.at(seats.centres[id])
    s, e = (seats.at(p) for p in seats.arc_ends[id])
    turn = math.atan2(e[1] - c[1], e[0] - c[0]) - math.atan2(s[1] - c[1], s[0] - c[0])
    return turn % (2 * math.pi) or 2 * math.pi


def _arc(seats: Seats, c: Constraint) -> str:
    id = of_form(seats, c, "circle")[0]
    if id not in seats.arc_ends:
        raise BadInput("a full circle has no ends to measure from", [f"constraint:{c.id}"])
    return id


def _arc_length(seats: Seats, c: Constraint, v: float) -> Equations:
    id = _arc(seats, c)
    s, e = seats.arc_ends[id]
    of = (*seats.centre(id), *seats.points[s], *seats.points[e], seats.radii[id])
    return Equations(rows=[Row(arc_length, of, (v / seats.scale, _swept(seats, id)))])


def _along_curve(seats: Seats, c: Constraint, v: float) -> Equations:
    """A point on a line or arc, so far from where it begins."""
    (point,) = of_form(seats, c, "point")
    (curve,) = of_form(seats, c, "line", "circle")
    of = seats.points[point]
    rows = holds_point(seats, curve, of, seats.at(point))
    if seats.form(curve) == "line":
        start = seats.points[seats.lines[curve][0]]
        return Equations(rows=[*rows, Row("distance", (*start, *of), (v,), scaled=True)])
    start = seats.points[seats.arc_ends[_arc(seats, c)][0]]
    whole = (*seats.centre(curve), *start, *of, seats.radii[curve])
    return Equations(
        rows=[*rows, Row(arc_length, whole, (v / seats.scale, _turned(seats, curve, point)))]
    )


def _turned(seats: Seats, arc: str, point: str) -> float:
    c, p = seats.at(seats.centres[arc]), seats.at(point)
    s = seats.at(seats.arc_ends[arc][0])
    turn = math.atan2(p[1] - c[1], p[0] - c[0]) - math.atan2(s[1] - c[1], s[0] - c[0])
    return turn % (2 * math.pi)


def _measure_along(seats: Seats, c: Constraint) -> float:
    (point,) = of_form(seats, c, "point")
    (curve,) = of_form(seats, c, "line", "circle")
    if seats.form(curve) == "line":
        return math.dist(seats.at(point), seats.at(seats.lines[curve][0]))
    return seats.start[seats.radii[curve]] * _turned(seats, _arc(seats, c), point)


def _ratio(seats: Seats, c: Constraint, v: float) -> Equations:
    one, two = c.on
    if seats.form(one) == "line":
        return Equations(rows=[Row(ratio, seats.line(one) + seats.line(two), (v,))])
    return Equations(rows=[Row(radius_ratio, (seats.radii[one], seats.radii[two]), (v,))])


def _measure_ratio(seats: Seats, c: Constraint) -> float:
    if seats.form(c.on[0]) == "line":
        sizes = [math.dist(*(seats.at(p) for p in seats.lines[i])) for i in c.on]
    else:
        sizes = [seats.start[seats.radii[i]] for i in c.on]
    return sizes[0] / (sizes[1] or 1.0)


_ROUND_ONE = (("circle",),)
register(
    ConstraintKind(
        "distance", "Distance", (POINTS, ("line",), ("line", "point"), LINES), _distance(1.0),
        LENGTH, _measure_distance(1.0), _distance_sense, zero=True,
    ),
    _along(0),
    _along(1),
    ConstraintKind(
        "diameter_across", "Diameter across an axis", (("line", "point"), LINES), _distance(2.0),
        LENGTH, _measure_distance(2.0), _distance_sense,
    ),
    ConstraintKind("angle", "Angle", (LINES,), _angle, ANGLE, _measure_angle, _angle_sense,
                   zero=True),
    ConstraintKind("radius", "Radius", _ROUND_ONE, _radius(1.0), LENGTH, _measure_radius(1.0)),
    ConstraintKind("diameter", "Diameter", _ROUND_ONE, _radius(2.0), LENGTH, _measure_radius(2.0)),
    ConstraintKind(
        "width", "Width", (("ellipse",),), _half_major, LENGTH,
        lambda l, c: 2 * math.dist(l.at(_ellipse(l, c).centre), l.at(_ellipse(l, c).major)),
    ),
    ConstraintKind(
        "height", "Height", (("ellipse",),), _half_minor, LENGTH,
        lambda l, c: 2 * l.start[l.numbers[c.on[0], "minor"]],
    ),
    ConstraintKind(
        "text_height", "Height of capitals", (("text",),), _text_height, LENGTH,
        lambda l, c: l.start[l.numbers[c.on[0], "height"]],
    ),
    ConstraintKind(
        "least_radius", "Least radius", (("spline",), ("ellipse",)), lambda l, c, v: Equations(),
        LENGTH, _tightest, limit=True,
    ),
    ConstraintKind(
        "arc_length", "Arc length", _ROUND_ONE, _arc_length, LENGTH,
        lambda l, c: l.start[l.radii[_arc(l, c)]] * _swept(l, _arc(l, c)),
    ),
    ConstraintKind(
        "along", "Distance along", (("line", "point"), ("circle", "point")), _along_curve,
        LENGTH, _measure_along,
    ),
    ConstraintKind("ratio", "Ratio", (LINES, ROUND), _ratio, NUMBER, _measure_ratio),
)  # fmt: skip
