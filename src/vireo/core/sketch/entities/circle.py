"""Full circles and arcs of circles."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import ClassVar, Literal, Self

from vireo.core.curves import Arc2, Circle2, Curve2
from vireo.core.sketch.entities.base import EntityBase, Id, Size
from vireo.core.sketch.residuals import Array
from vireo.core.sketch.seats import Equations, Pair, Row, Seats


class Circle(EntityBase):
    form: ClassVar[str] = "circle"
    type: Literal["circle"] = "circle"
    centre: Id
    radius: Size

    def stands_on(self) -> tuple[str, ...]:
        return (self.centre,)

    def enter(self, seats: Seats) -> None:
        seats.centres[self.id] = self.centre
        r = seats.radii[self.id] = seats.new(self.radius)
        if self.source:
            seats.constant[r] = self.radius

    def moved(self, seats: Seats, p: Array) -> Self:
        return self.model_copy(update={"radius": float(p[seats.radii[self.id]])})

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

    def enter(self, seats: Seats) -> None:
        seats.centres[self.id] = self.centre
        seats.arc_ends[self.id] = (self.start, self.end)
        c, s = seats.at(self.centre), seats.at(self.start)
        r = seats.radii[self.id] = seats.new(math.dist(c, s))
        if self.source:
            seats.constant[r] = math.dist(c, s)

    def inner(self, seats: Seats) -> Equations:
        centre, r = seats.points[self.centre], seats.radii[self.id]
        ends = (seats.points[self.start], seats.points[self.end])
        return Equations(rows=[Row("on_circle", (*centre, *e, r)) for e in ends])

    def curve(self, at: Mapping[str, Pair]) -> Curve2:
        c, s, t = at[self.centre], at[self.start], at[self.end]
        first = math.atan2(s[1] - c[1], s[0] - c[0])
        last = math.atan2(t[1] - c[1], t[0] - c[0])
        if last <= first + 1e-12:
            last += 2.0 * math.pi
        return Arc2(c, math.dist(c, s), first, last)
