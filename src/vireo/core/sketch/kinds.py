"""The registry of constraint kinds: what each accepts and which equations it puts.

A kind is one entry: what it can be put on, how it becomes aliases (variables that are one
and the same) or residual rows, and for dimensions how its value is read from the drawing.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field

from vireo.core.quantity import ANGLE, LENGTH, Dimension
from vireo.core.sketch.model import ORIGIN, X_AXIS, Y_AXIS, Arc, Circle, Constraint, Drawing, Line
from vireo.core.sketch.model import Point as PointEntity
from vireo.core.trouble import BadInput

Variables = tuple[int, ...]


@dataclass
class Row:
    """One residual: its function, variables, constants; lengths among them get scaled."""

    residual: str
    variables: Variables
    values: tuple[float, ...] = (0.0,)
    scaled: bool = False


@dataclass
class Layout:
    """Where each entity's numbers stand in the flat vector of variables."""

    drawing: Drawing
    start: list[float] = field(default_factory=list)
    constant: dict[int, float] = field(default_factory=dict)
    points: dict[str, tuple[int, int]] = field(default_factory=dict)
    lines: dict[str, tuple[str, str]] = field(default_factory=dict)
    centres: dict[str, str] = field(default_factory=dict)
    radii: dict[str, int] = field(default_factory=dict)
    arc_ends: dict[str, tuple[str, str]] = field(default_factory=dict)

    @staticmethod
    def of(drawing: Drawing) -> Layout:
        layout = Layout(drawing)
        for id, x, y in ((ORIGIN, 0.0, 0.0), ("_x", 1.0, 0.0), ("_y", 0.0, 1.0)):
            i, j = layout._new(x), layout._new(y)
            layout.points[id] = (i, j)
            layout.constant |= {i: x, j: y}
        layout.lines |= {X_AXIS: (ORIGIN, "_x"), Y_AXIS: (ORIGIN, "_y")}
        for e in drawing.entities:
            if isinstance(e, PointEntity):
                layout.points[e.id] = (layout._new(e.x), layout._new(e.y))
        for e in drawing.entities:
            if isinstance(e, Line):
                layout.lines[e.id] = (e.a, e.b)
            elif isinstance(e, Circle):
                layout.centres[e.id] = e.centre
                layout.radii[e.id] = layout._new(e.radius)
            elif isinstance(e, Arc):
                layout.centres[e.id] = e.centre
                layout.arc_ends[e.id] = (e.start, e.end)
                c, s = layout.at(e.centre), layout.at(e.start)
                layout.radii[e.id] = layout._new(math.dist(c, s))
        return layout

    def _new(self, value: float) -> int:
        self.start.append(value)
        return len(self.start) - 1

    def at(self, point: str) -> tuple[float, float]:
        i, j = self.points[point]
        return self.start[i], self.start[j]

    def form(self, id: str) -> str:
        if id in self.points:
            return "point"
        return "line" if id in self.lines else "circle"

    def line(self, id: str) -> Variables:
        a, b = self.lines[id]
        return (*self.points[a], *self.points[b])

    def centre(self, id: str) -> tuple[int, int]:
        return self.points[self.centres[id]]


@dataclass
class Equations:
    aliases: list[tuple[int, int]] = field(default_factory=list)
    fixed: list[int] = field(default_factory=list)
    rows: list[Row] = field(default_factory=list)


@dataclass(frozen=True)
class ConstraintKind:
    """`forms` are the sorted kinds of entity it can be put on."""

    type: str
    label: str
    forms: tuple[tuple[str, ...], ...]
    equations: Callable[[Layout, Constraint, float], Equations]
    dimension: Dimension | None = None
    measure: Callable[[Layout, Constraint], float] | None = None
    sense: Callable[[Layout, Constraint], tuple[int, ...]] | None = None


KINDS: dict[str, ConstraintKind] = {}


def kind_of(constraint: Constraint, layout: Layout) -> ConstraintKind:
    """The registered kind. Raises BadInput for an unknown one or a wrong set of entities."""
    kind = KINDS.get(constraint.type)
    if kind is None:
        raise BadInput(f"there is no constraint called {constraint.type}")
    form = tuple(sorted(layout.form(i) for i in constraint.on))
    if form not in kind.forms or len(set(constraint.on)) != len(constraint.on):
        wanted = " or ".join(" and ".join(f) for f in kind.forms)
        raise BadInput(
            f"{kind.label.lower()} goes on {wanted}, not on {' and '.join(form)}",
            [f"constraint:{constraint.id}"],
        )
    return kind


def _add(kind: ConstraintKind) -> None:
    KINDS[kind.type] = kind


def _split(layout: Layout, c: Constraint) -> tuple[list[str], list[str], list[str]]:
    """Points, lines and circles of a constraint, each in the order given."""
    groups: dict[str, list[str]] = {"point": [], "line": [], "circle": []}
    for id in c.on:
        groups[layout.form(id)].append(id)
    return groups["point"], groups["line"], groups["circle"]


def _coincident(layout: Layout, c: Constraint, v: float) -> Equations:
    (a, b), (p, q) = (layout.points[i] for i in c.on)
    return Equations(aliases=[(a, p), (b, q)])


def _level(axis: int) -> Callable[[Layout, Constraint, float], Equations]:
    def equations(layout: Layout, c: Constraint, v: float) -> Equations:
        ends = layout.lines[c.on[0]] if len(c.on) == 1 else c.on
        return Equations(aliases=[(layout.points[ends[0]][axis], layout.points[ends[1]][axis])])

    return equations


def _lines(residual: str) -> Callable[[Layout, Constraint, float], Equations]:
    def equations(layout: Layout, c: Constraint, v: float) -> Equations:
        return Equations(rows=[Row(residual, layout.line(c.on[0]) + layout.line(c.on[1]))])

    return equations


def _cross_to(layout: Layout, line: str, point: tuple[float, float]) -> float:
    a, b = (layout.at(p) for p in layout.lines[line])
    length = math.dist(a, b) or 1.0
    return ((b[0] - a[0]) * (point[1] - a[1]) - (b[1] - a[1]) * (point[0] - a[0])) / length


def _shared_end(layout: Layout, c: Constraint) -> tuple[str, str, str] | None:
    """Line or arc and arc that meet at a common end point: (first, arc, point)."""
    ends: dict[str, tuple[str, ...]] = {
        i: layout.lines.get(i) or layout.arc_ends.get(i) or () for i in c.on
    }
    first, second = c.on
    for p in ends[first]:
        for q in ends[second]:
            if p == q or _joined(layout, p, q):
                if second in layout.arc_ends:
                    return first, second, q
                return second, first, p
    return None


def _joined(layout: Layout, p: str, q: str) -> bool:
    """Whether a coincidence ties two points."""
    return any(k.type == "coincident" and set(k.on) == {p, q} for k in layout.drawing.constraints)


def _tangent_sense(layout: Layout, c: Constraint) -> tuple[int, ...]:
    _, lines, circles = _split(layout, c)
    if lines:
        side = _cross_to(layout, lines[0], layout.at(layout.centres[circles[0]]))
        return (1 if side >= 0 else -1,)
    one, two = (layout.at(layout.centres[k]) for k in circles)
    r1, r2 = (layout.start[layout.radii[k]] for k in circles)
    gap = math.dist(one, two)
    options = {(1, 1): r1 + r2, (1, -1): r1 - r2, (-1, 1): r2 - r1}
    return min(options, key=lambda s: abs(options[s] - gap))


def _tangent(layout: Layout, c: Constraint, v: float) -> Equations:
    _, lines, circles = _split(layout, c)
    meeting = _shared_end(layout, c)
    if meeting is not None:
        first, arc, point = meeting
        at, centre = layout.points[point], layout.centre(arc)
        if first in layout.lines:
            return Equations(rows=[Row("tangent_at_end", (*layout.line(first), *at, *centre))])
        row = Row("point_line", (*layout.centre(first), *centre, *at))
        return Equations(rows=[row])
    sense = c.sense or _tangent_sense(layout, c)
    if lines:
        of = (*layout.line(lines[0]), *layout.centre(circles[0]), layout.radii[circles[0]])
        return Equations(rows=[Row("line_circle", of, (float(sense[0]),))])
    one, two = circles
    of = (*layout.centre(one), *layout.centre(two), layout.radii[one], layout.radii[two])
    return Equations(rows=[Row("circle_circle", of, (float(sense[0]), float(sense[1])))])


def _equal(layout: Layout, c: Constraint, v: float) -> Equations:
    if layout.form(c.on[0]) == "line":
        return _lines("equal_length")(layout, c, v)
    return Equations(aliases=[(layout.radii[c.on[0]], layout.radii[c.on[1]])])


def _concentric(layout: Layout, c: Constraint, v: float) -> Equations:
    places = [layout.points[i] if i in layout.points else layout.centre(i) for i in c.on]
    return Equations(aliases=list(zip(places[0], places[1], strict=True)))


def _midpoint(layout: Layout, c: Constraint, v: float) -> Equations:
    points, lines, _ = _split(layout, c)
    return Equations(rows=[Row("midpoint", layout.line(lines[0]) + layout.points[points[0]])])


def _symmetric(layout: Layout, c: Constraint, v: float) -> Equations:
    points, lines, _ = _split(layout, c)
    p, q = (layout.points[i] for i in points)
    return Equations(rows=[Row("symmetric", (*layout.line(lines[0]), *p, *q))])


def _on_curve(layout: Layout, c: Constraint, v: float) -> Equations:
    points, lines, circles = _split(layout, c)
    p = layout.points[points[0]]
    if lines:
        return Equations(rows=[Row("point_line", layout.line(lines[0]) + p)])
    curve = circles[0]
    return Equations(rows=[Row("on_circle", (*layout.centre(curve), *p, layout.radii[curve]))])


def _fixed(layout: Layout, c: Constraint, v: float) -> Equations:
    id = c.on[0]
    if id in layout.points:
        return Equations(fixed=list(layout.points[id]))
    if id in layout.lines:
        return Equations(fixed=list(layout.line(id)))
    return Equations(fixed=[*layout.centre(id), layout.radii[id]])


def _ends(layout: Layout, c: Constraint) -> tuple[str, str]:
    if len(c.on) == 1:
        return layout.lines[c.on[0]]
    return c.on[0], c.on[1]


def _point_and_line(layout: Layout, c: Constraint) -> tuple[str, str] | None:
    """The point and the line a distance is taken between, or None for two points."""
    points, lines, _ = _split(layout, c)
    if points and lines:
        return points[0], lines[0]
    if len(lines) == 2:
        return layout.lines[lines[1]][0], lines[0]
    return None


def _distance_sense(layout: Layout, c: Constraint) -> tuple[int, ...]:
    pair = _point_and_line(layout, c)
    if pair is None:
        return ()
    return (1 if _cross_to(layout, pair[1], layout.at(pair[0])) >= 0 else -1,)


def _distance(layout: Layout, c: Constraint, v: float) -> Equations:
    pair = _point_and_line(layout, c)
    if pair is None:
        a, b = _ends(layout, c)
        ends = (*layout.points[a], *layout.points[b])
        return Equations(rows=[Row("distance", ends, (v,), scaled=True)])
    sense = c.sense or _distance_sense(layout, c)
    of = layout.line(pair[1]) + layout.points[pair[0]]
    return Equations(rows=[Row("point_line", of, (sense[0] * v,), scaled=True)])


def _measure_distance(layout: Layout, c: Constraint) -> float:
    pair = _point_and_line(layout, c)
    if pair is None:
        a, b = _ends(layout, c)
        return math.dist(layout.at(a), layout.at(b))
    return abs(_cross_to(layout, pair[1], layout.at(pair[0])))


def _along(axis: int) -> ConstraintKind:
    word = "x" if axis == 0 else "y"

    def measured(layout: Layout, c: Constraint) -> float:
        a, b = (layout.at(p) for p in _ends(layout, c))
        return abs(b[axis] - a[axis])

    def sense(layout: Layout, c: Constraint) -> tuple[int, ...]:
        a, b = (layout.at(p) for p in _ends(layout, c))
        return (1 if b[axis] >= a[axis] else -1,)

    def equations(layout: Layout, c: Constraint, v: float) -> Equations:
        a, b = (layout.points[p][axis] for p in _ends(layout, c))
        s = (c.sense or sense(layout, c))[0]
        return Equations(rows=[Row("difference", (a, b), (s * v,), scaled=True)])

    label = "Distance across" if axis == 0 else "Distance up"
    return ConstraintKind(
        f"distance_{word}", label, (("point", "point"), ("line",)), equations, LENGTH, measured,
        sense,
    )  # fmt: skip


def _turn(layout: Layout, c: Constraint) -> float:
    (a, b), (p, q) = ([layout.at(e) for e in layout.lines[i]] for i in c.on)
    u, w = (b[0] - a[0], b[1] - a[1]), (q[0] - p[0], q[1] - p[1])
    return math.atan2(u[0] * w[1] - u[1] * w[0], u[0] * w[0] + u[1] * w[1])


def _angle_sense(layout: Layout, c: Constraint) -> tuple[int, ...]:
    """Which way the angle turns from the first line's direction to the second's."""
    return (1 if _turn(layout, c) >= 0 else -1,)


def _angle(layout: Layout, c: Constraint, v: float) -> Equations:
    sense = c.sense or _angle_sense(layout, c)
    wanted = sense[0] * v
    of = layout.line(c.on[0]) + layout.line(c.on[1])
    return Equations(rows=[Row("angle", of, (wanted,))])


def _radius(factor: float) -> Callable[[Layout, Constraint, float], Equations]:
    def equations(layout: Layout, c: Constraint, v: float) -> Equations:
        row = Row("value", (layout.radii[c.on[0]],), (v / factor,), scaled=True)
        return Equations(rows=[row])

    return equations


def _measure_radius(factor: float) -> Callable[[Layout, Constraint], float]:
    return lambda layout, c: factor * layout.start[layout.radii[c.on[0]]]


_POINTS, _LINES, _ROUND = ("point", "point"), ("line", "line"), ("circle", "circle")
for _kind in (
    ConstraintKind("coincident", "Coincident", (_POINTS,), _coincident),
    ConstraintKind("horizontal", "Horizontal", (("line",), _POINTS), _level(1)),
    ConstraintKind("vertical", "Vertical", (("line",), _POINTS), _level(0)),
    ConstraintKind("parallel", "Parallel", (_LINES,), _lines("parallel")),
    ConstraintKind("perpendicular", "Perpendicular", (_LINES,), _lines("perpendicular")),
    ConstraintKind(
        "tangent", "Tangent", (("circle", "line"), _ROUND), _tangent, sense=_tangent_sense
    ),
    ConstraintKind("equal", "Equal", (_LINES, _ROUND), _equal),
    ConstraintKind("concentric", "Concentric", (_ROUND, ("circle", "point")), _concentric),
    ConstraintKind("midpoint", "Midpoint", (("line", "point"),), _midpoint),
    ConstraintKind("symmetric", "Symmetric", (("line", "point", "point"),), _symmetric),
    ConstraintKind("on_curve", "On curve", (("line", "point"), ("circle", "point")), _on_curve),
    ConstraintKind("fixed", "Fixed", (("point",), ("line",), ("circle",)), _fixed),
    ConstraintKind(
        "distance", "Distance", (_POINTS, ("line",), ("line", "point"), _LINES), _distance,
        LENGTH, _measure_distance, _distance_sense,
    ),
    _along(0),
    _along(1),
    ConstraintKind(
        "angle", "Angle", (_LINES,), _angle, ANGLE, lambda l, c: abs(_turn(l, c)), _angle_sense
    ),
    ConstraintKind("radius", "Radius", (("circle",),), _radius(1.0), LENGTH, _measure_radius(1.0)),
    ConstraintKind(
        "diameter", "Diameter", (("circle",),), _radius(2.0), LENGTH, _measure_radius(2.0)
    ),
):  # fmt: skip
    _add(_kind)
