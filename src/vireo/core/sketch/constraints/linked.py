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
from vireo.core.sketch.layout import Equations, Layout, Row
from vireo.core.sketch.model import Constraint
from vireo.core.sketch.residuals import rotated, spaced


def _offset_sense(layout: Layout, c: Constraint) -> tuple[int, ...]:
    one, two = c.on
    if layout.form(two) == "parallel":
        return ()
    if layout.form(one) == "line":
        side = cross_to(layout, one, layout.at(layout.lines[two][0]))
        return (1 if side >= 0 else -1,)
    return (1 if layout.start[layout.radii[two]] >= layout.start[layout.radii[one]] else -1,)


def _offset(layout: Layout, c: Constraint, v: float) -> Equations:
    one, two = c.on
    if layout.form(two) == "parallel":
        return Equations(rows=[Row("value", (layout.numbers[two, "gap"],), (v,), scaled=True)])
    s = (c.sense or _offset_sense(layout, c))[0]
    if layout.form(one) == "line":
        a, b = layout.line(one), layout.line(two)
        gap = Row("point_line", a + layout.points[layout.lines[two][0]], (s * v,), scaled=True)
        return Equations(rows=[Row("parallel", a + b), gap])
    radii = (layout.radii[one], layout.radii[two])
    centres = zip(layout.centre(one), layout.centre(two), strict=True)
    return Equations(
        aliases=[p for p in centres if p[0] != p[1]],
        rows=[Row("difference", radii, (s * v,), scaled=True)],
    )


def _measure_offset(layout: Layout, c: Constraint) -> float:
    one, two = c.on
    if layout.form(two) == "parallel":
        return layout.start[layout.numbers[two, "gap"]]
    if layout.form(one) == "line":
        return abs(cross_to(layout, one, layout.at(layout.lines[two][0])))
    return abs(layout.start[layout.radii[two]] - layout.start[layout.radii[one]])


def _spaced(layout: Layout, c: Constraint, v: float) -> Equations:
    (line,) = of_form(layout, c, "line")
    p, q = (layout.points[i] for i in of_form(layout, c, "point"))
    s = (c.sense or (1,))[0]
    return Equations(
        rows=[Row(spaced, layout.line(line) + p + q, (s * v / layout.scale,), count=2)]
    )


def _measure_spaced(layout: Layout, c: Constraint) -> float:
    p, q = (layout.at(i) for i in of_form(layout, c, "point"))
    return float(((p[0] - q[0]) ** 2 + (p[1] - q[1]) ** 2) ** 0.5)


def _turned(layout: Layout, c: Constraint, v: float) -> Equations:
    """On centre, point, copy: the copy is the point turned about the centre."""
    of = tuple(i for p in c.on for i in layout.points[p])
    s = (c.sense or (1,))[0]
    return Equations(rows=[Row(rotated, of, (s * v,), count=2)])


def _same_height(layout: Layout, c: Constraint, v: float) -> Equations:
    name = "height" if layout.form(c.on[0]) == "text" else "minor"
    one, two = (layout.numbers[i, name] for i in c.on)
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
