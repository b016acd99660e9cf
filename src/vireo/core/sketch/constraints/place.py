"""Where things are: coincident, level, on a curve, midpoint, symmetric, fixed and alike."""

from __future__ import annotations

from collections.abc import Callable

from vireo.core.sketch.constraints.base import (
    CURVES,
    LINES,
    POINTS,
    ROUND,
    ConstraintKind,
    of_form,
    register,
)
from vireo.core.sketch.constraints.touch import holds_point
from vireo.core.sketch.model import Constraint
from vireo.core.sketch.residuals import equal_gaps, line_gaps
from vireo.core.sketch.seats import Equations, Row, Seats


def _coincident(seats: Seats, c: Constraint, v: float) -> Equations:
    (a, b), (p, q) = (seats.points[i] for i in c.on)
    return Equations(aliases=[(a, p), (b, q)])


def _level(axis: int) -> Callable[[Seats, Constraint, float], Equations]:
    def equations(seats: Seats, c: Constraint, v: float) -> Equations:
        ends = seats.lines[c.on[0]] if len(c.on) == 1 else c.on
        return Equations(aliases=[(seats.points[ends[0]][axis], seats.points[ends[1]][axis])])

    return equations


def _concentric(seats: Seats, c: Constraint, v: float) -> Equations:
    places = [seats.points[i] if i in seats.points else seats.centre(i) for i in c.on]
    return Equations(aliases=list(zip(places[0], places[1], strict=True)))


def _midpoint(seats: Seats, c: Constraint, v: float) -> Equations:
    (point,), (line,) = of_form(seats, c, "point"), of_form(seats, c, "line")
    return Equations(rows=[Row("midpoint", seats.line(line) + seats.points[point], count=2)])


def _symmetric(seats: Seats, c: Constraint, v: float) -> Equations:
    points, lines = of_form(seats, c, "point"), of_form(seats, c, "line")
    p, q = (seats.points[i] for i in points[:2])
    if lines:
        row = Row("symmetric", (*seats.line(lines[0]), *p, *q), count=2)
    else:  # about the third point, which is midway
        row = Row("midpoint", (*p, *q, *seats.points[points[2]]), count=2)
    return Equations(rows=[row])


def _on_curve(seats: Seats, c: Constraint, v: float) -> Equations:
    (point,), (curve,) = of_form(seats, c, "point"), of_form(seats, c, *CURVES)
    return Equations(rows=holds_point(seats, curve, seats.points[point], seats.at(point)))


def _collinear(seats: Seats, c: Constraint, v: float) -> Equations:
    one, two = c.on
    on = seats.line(one)
    return Equations(rows=[Row("point_line", on + seats.points[p]) for p in seats.lines[two]])


def _equal_spacing(seats: Seats, c: Constraint, v: float) -> Equations:
    if seats.form(c.on[0]) == "line":
        one, two, three = (seats.line(i) for i in c.on)
        level = [Row("parallel", one + two), Row("parallel", one + three)]
        return Equations(rows=[*level, Row(line_gaps, one + two + three)])
    of = tuple(v for i in c.on for v in seats.points[i])
    return Equations(rows=[Row(equal_gaps, of, count=2)])


def _fixed(seats: Seats, c: Constraint, v: float) -> Equations:
    id = c.on[0]
    if id in seats.points:
        return Equations(fixed=list(seats.points[id]))
    own = [v for p in seats.entities[id].stands_on() for v in seats.points[p]]
    own += [seats.radii[id]] if id in seats.radii else []
    own += [i for (owner, _), i in seats.numbers.items() if owner == id]
    return Equations(fixed=own)


register(
    ConstraintKind("coincident", "Coincident", (POINTS,), _coincident),
    ConstraintKind("horizontal", "Horizontal", (("line",), POINTS), _level(1)),
    ConstraintKind("vertical", "Vertical", (("line",), POINTS), _level(0)),
    ConstraintKind(
        "concentric", "Concentric",
        (ROUND, ("circle", "point"), ("circle", "ellipse"), ("ellipse", "ellipse"),
         ("ellipse", "point")),
        _concentric,
    ),
    ConstraintKind("midpoint", "Midpoint", (("line", "point"),), _midpoint),
    ConstraintKind(
        "symmetric", "Symmetric", (("line", "point", "point"), ("point",) * 3), _symmetric
    ),
    ConstraintKind(
        "on_curve", "On curve", tuple(tuple(sorted(("point", f))) for f in CURVES), _on_curve
    ),
    ConstraintKind("collinear", "Collinear", (LINES,), _collinear),
    ConstraintKind(
        "equal_spacing", "Equally spaced", (("point",) * 3, ("line",) * 3), _equal_spacing
    ),
    ConstraintKind("fixed", "Fixed", tuple((f,) for f in ("point", *CURVES)), _fixed),
)  # fmt: skip
