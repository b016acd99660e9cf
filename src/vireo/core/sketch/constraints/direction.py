"""How curves stand to each other: parallel, perpendicular, equal."""

from __future__ import annotations

from collections.abc import Callable

from vireo.core.sketch.constraints.base import LINES, ROUND, ConstraintKind, register
from vireo.core.sketch.entities.ellipse import Ellipse
from vireo.core.sketch.layout import Equations, Layout, Row
from vireo.core.sketch.model import Constraint


def _lines(residual: str) -> Callable[[Layout, Constraint, float], Equations]:
    def equations(layout: Layout, c: Constraint, v: float) -> Equations:
        return Equations(rows=[Row(residual, layout.line(c.on[0]) + layout.line(c.on[1]))])

    return equations


def _equal(layout: Layout, c: Constraint, v: float) -> Equations:
    form = layout.form(c.on[0])
    if form == "line":
        return _lines("equal_length")(layout, c, v)
    if form == "circle":
        return Equations(aliases=[(layout.radii[c.on[0]], layout.radii[c.on[1]])])
    axes, minors = [], []
    for id in c.on:
        entity = layout.entities[id]
        assert isinstance(entity, Ellipse)
        axes.append(layout.points[entity.centre] + layout.points[entity.major])
        minors.append(layout.numbers[id, "minor"])
    return Equations(
        aliases=[(minors[0], minors[1])], rows=[Row("equal_length", axes[0] + axes[1])]
    )


register(
    ConstraintKind("parallel", "Parallel", (LINES,), _lines("parallel")),
    ConstraintKind("perpendicular", "Perpendicular", (LINES,), _lines("perpendicular")),
    ConstraintKind("equal", "Equal", (LINES, ROUND, ("ellipse", "ellipse")), _equal),
)
