"""Full circles and arcs of circles."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import ClassVar, Literal, Self

from vireo.core.curves import Arc2, Circle2, Curve2
from vireo.core.sketch.entities.base import EntityBase, Id, Size
from vireo.core.sketch.layout import Equations, Layout, Pair, Row
from vireo.core.sketch.residuals import Array


class Circle(EntityBase):
    form: ClassVar[str] = "circle"
    type: Literal["circle"] = "circle"
    centre: Id
    radius: Size

    def stands_on(self) -> tuple[str, ...]:
        return (self.centre,)

    def enter(self, layout: Layout) -> None:
        layout.centres[self.id] = self.centre
        r = layout.radii[self.id] = layout.new(self.radius)
        if self.source:
            layout.constant[r] = self.radius

    def moved(self, layout: Layout, p: Array) -> Self:
        return self.model_copy(update={"radius": float(p[layout.radii[self.id]])})

    def grown(self, factor: float) -> Self:
        return self.model_copy(update={"radius": self.radius * factor})

    def curve(self, at: Mapping[str, Pair]) -> Curve2:
        return Circle2(at[self.centre], self.radius)


class Arc(EntityBase):
    """Counter-clockwise from `start` to `end` about `centre`."""

    form: ClassVar[str] = "circle"
    type: Literal["arc"] = "arc"
    centre: Id
    start: Id
    end: Id

    def stands_on(self) -> tuple[str, ...]:
        return self.centre, self.start, self.end

    def enter(self, layout: Layout) -> None:
        layout.centres[self.id] = self.centre
        layout.arc_ends[self.id] = (self.start, self.end)
        c, s = layout.at(self.centre), layout.at(self.start)
        r = layout.radii[self.id] = layout.new(math.dist(c, s))
        if self.source:
            layout.constant[r] = math.dist(c, s)

    def inner(self, layout: Layout) -> Equations:
        centre, r = layout.points[self.centre], layout.radii[self.id]
        ends = (layout.points[self.start], layout.points[self.end])
        return Equations(rows=[Row("on_circle", (*centre, *e, r)) for e in ends])

    def curve(self, at: Mapping[str, Pair]) -> Curve2:
        c, s, t = at[self.centre], at[self.start], at[self.end]
        first = math.atan2(s[1] - c[1], s[0] - c[0])
        last = math.atan2(t[1] - c[1], t[0] - c[0])
        if last <= first + 1e-12:
            last += 2.0 * math.pi
        return Arc2(c, math.dist(c, s), first, last)
