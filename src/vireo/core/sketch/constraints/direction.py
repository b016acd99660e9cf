"""How curves stand to each other: parallel, perpendicular, equal."""

from __future__ import annotations

from collections.abc import Callable

from vireo.core.sketch.constraints.base import LINES, ROUND, ConstraintKind, register
from vireo.core.sketch.entities.ellipse import Ellipse
from vireo.core.sketch.model import Constraint
from vireo.core.sketch.seats import Equations, Row, Seats


def _lines(residual: str) -> Callable[[Seats, Constraint, float], Equations]:
    def equations(seats: Seats, c: Constraint, v: float) -> Equations:
        return Equations(rows=[Row(residual, seats.line(c.on[0]) + seats.line(c.on[1]))])

    return equations


def _equal(seats: Seats, c: Constraint, v: float) -> Equations:
    form = seats.form(c.on[0])
    if form == "line":
        return _lines("equal_length")(seats, c, v)
    if form == "circle":
        return Equations(aliases=[(seats.radii[c.on[0]], seats.radii[c.on[1]])])
    axes, minors = [], []
    for id in c.on:
        entity = seats.entities[id]
        assert isinstance(entity, Ellipse)
        axes.append(seats.points[entity.centre] + seats.points[entity.major])
        minors.append(seats.numbers[id, "minor"])
    return Equations(
        aliases=[(minors[0], minors[1])], rows=[Row("equal_length", axes[0] + axes[1])]
    )


register(
    ConstraintKind("parallel", "Parallel", (LINES,), _lines("parallel")),
    ConstraintKind("perpendicular", "Perpendicular", (LINES,), _lines("perpendicular")),
    ConstraintKind("equal", "Equal", (LINES, ROUND, ("ellipse", "ellipse")), _equal),
)
