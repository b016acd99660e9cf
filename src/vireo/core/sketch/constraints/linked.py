"""What offsets and copies are held by. A person does not put these: tools do."""

from __future__ import annotations

from vireo.core.quantity import ANGLE, LENGTH
from vireo.core.sketch.constraints.base import (
    LINES,
    ROUND,
    ConstraintKind,
    cross_to,
    of_form,
    register,
)
from vireo.core.sketch.model import Constraint
from vireo.core.sketch.residuals import rotated, spaced
from vireo.core.sketch.seats import Equations, Row, Seats


def _offset_sense(seats: Seats, c: Constraint) -> tuple[int, ...]:
    one, two = c.on
    if seats.form(two) == "parallel":
        return ()
    if seats.form(one) == "line":
        side = cross_to(seats, one, seats.at(seats.lines[two][0]))
        return (1 if side >= 0 else -1,)
    return (1 if seats.start[seats.radii[two]] >= seats.start[seats.radii[one]] else -1,)


def _offset(seats: Seats, c: Constraint, v: float) -> Equations:
    one, two = c.on
    if seats.form(two) == "parallel":
        return Equations(rows=[Row("value", (seats.numbers[two, "gap"],), (v,), scaled=True)])
    s = (c.sense or _offset_sense(seats, c))[0]
    if seats.form(one) == "line":
        a, b = seats.line(one), seats.line(two)
        gap = Row("point_line", a + seats.points[seats.lines[two][0]], (s * v,), scaled=True)
        return Equations(rows=[Row("parallel", a + b), gap])
    radii = (seats.radii[one], seats.radii[two])
    centres = zip(seats.centre(one), seats.centre(two), strict=True)
    return Equations(
        aliases=[p for p in centres if p[0] != p[1]],
        rows=[Row("difference", radii, (s * v,), scaled=True)],
    )


def _measure_offset(seats: Seats, c: Constraint) -> float:
    one, two = c.on
    if seats.form(two) == "parallel":
        return seats.start[seats.numbers[two, "gap"]]
    if seats.form(one) == "line":
        return abs(cross_to(seats, one, seats.at(seats.lines[two][0])))
    return abs(seats.start[seats.radii[two]] - seats.start[seats.radii[one]])


def _spaced(seats: Seats, c: Constraint, v: float) -> Equations:
    (line,) = of_form(seats, c, "line")
    p, q = (seats.points[i] for i in of_form(seats, c, "point"))
    s = (c.sense or (1,))[0]
    return Equations(rows=[Row(spaced, seats.line(line) + p + q, (s * v / seats.scale,), count=2)])


def _measure_spaced(seats: Seats, c: Constraint) -> float:
    p, q = (seats.at(i) for i in of_form(seats, c, "point"))
    return float(((p[0] - q[0]) ** 2 + (p[1] - q[1]) ** 2) ** 0.5)


def _turned(seats: Seats, c: Constraint, v: float) -> Equations:
    """On centre, point, copy: the copy is the point turned about the centre."""
    of = tuple(i for p in c.on for i in seats.points[p])
    s = (c.sense or (1,))[0]
    return Equations(rows=[Row(rotated, of, (s * v,), count=2)])


def _same_height(seats: Seats, c: Constraint, v: float) -> Equations:
    name = "height" if seats.form(c.on[0]) == "text" else "minor"
    one, two = (seats.numbers[i, name] for i in c.on)
    return Equations(aliases=[(one, two)])


_BESIDE = (LINES, ROUND, ("parallel", "spline"), ("ellipse", "parallel"))
register(
    ConstraintKind(
        "offset", "Offset", _BESIDE, _offset, LENGTH, _measure_offset, _offset_sense,
        offered=False,
    ),
    ConstraintKind(
        "spaced", "Copied along", (("line", "point", "point"),), _spaced, LENGTH, _measure_spaced,
        offered=False,
    ),
    ConstraintKind(
        "turned", "Copied round", (("point",) * 3,), _turned, ANGLE, lambda l, c: 0.0,
        offered=False,
    ),
    ConstraintKind("same_height", "Same height", (("ellipse",) * 2, ("text",) * 2), _same_height,
                   offered=False),
)  # fmt: skip
