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
from vireo.core.sketch.layout import Equations, Layout, Row
from vireo.core.sketch.model import Constraint
from vireo.core.sketch.residuals import equal_gaps, line_gaps


def _coincident(layout: Layout, c: Constraint, v: float) -> Equations:
    (a, b), (p, q) = (layout.points[i] for i in c.on)
    return Equations(aliases=[(a, p), (b, q)])


def _level(axis: int) -> Callable[[Layout, Constraint, float], Equations]:
    def equations(layout: Layout, c: Constraint, v: float) -> Equations:
        ends = layout.lines[c.on[0]] if len(c.on) == 1 else c.on
        return Equations(aliases=[(layout.points[ends[0]][axis], layout.points[ends[1]][axis])])

    return equations


def _concentric(layout: Layout, c: Constraint, v: float) -> Equations:
    places = [layout.points[i] if i in layout.points else layout.centre(i) for i in c.on]
    return Equations(aliases=list(zip(places[0], places[1], strict=True)))


def _midpoint(layout: Layout, c: Constraint, v: float) -> Equations:
    (point,), (line,) = of_form(layout, c, "point"), of_form(layout, c, "line")
    return Equations(rows=[Row("midpoint", layout.line(line) + layout.points[point], count=2)])


def _symmetric(layout: Layout, c: Constraint, v: float) -> Equations:
    points, lines = of_form(layout, c, "point"), of_form(layout, c, "line")
    p, q = (layout.points[i] for i in points[:2])
    if lines:
        row = Row("symmetric", (*layout.line(lines[0]), *p, *q), count=2)
    else:  # about the third point, which is midway
        row = Row("midpoint", (*p, *q, *layout.points[points[2]]), count=2)
    return Equations(rows=[row])


def _on_curve(layout: Layout, c: Constraint, v: float) -> Equations:
    (point,), (curve,) = of_form(layout, c, "point"), of_form(layout, c, *CURVES)
    return Equations(rows=holds_point(layout, curve, layout.points[point], layout.at(point)))


def _collinear(layout: Layout, c: Constraint, v: float) -> Equations:
    one, two = c.on
    on = layout.line(one)
    return Equations(rows=[Row("point_line", on + layout.points[p]) for p in layout.lines[two]])


def _equal_spacing(layout: Layout, c: Constraint, v: float) -> Equations:
    if layout.form(c.on[0]) == "line":
        one, two, three = (layout.line(i) for i in c.on)
        level = [Row("parallel", one + two), Row("parallel", one + three)]
        return Equations(rows=[*level, Row(line_gaps, one + two + three)])
    of = tuple(v for i in c.on for v in layout.points[i])
    return Equations(rows=[Row(equal_gaps, of, count=2)])


def _fixed(layout: Layout, c: Constraint, v: float) -> Equations:
    id = c.on[0]
    if id in layout.points:
        return Equations(fixed=list(layout.points[id]))
    own = [v for p in layout.entities[id].stands_on() for v in layout.points[p]]
    own += [layout.radii[id]] if id in layout.radii else []
    own += [i for (owner, _), i in layout.numbers.items() if owner == id]
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
