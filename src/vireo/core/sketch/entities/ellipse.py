"""Ellipses and arcs of them."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import ClassVar, Literal, Self

from vireo.core.curves import Curve2, Ellipse2
from vireo.core.sketch.entities.base import EntityBase, Id, Size
from vireo.core.sketch.residuals import Array, on_ellipse
from vireo.core.sketch.seats import Equations, Pair, Row, Seats, Variables


class Ellipse(EntityBase):
    """`major` is the point in which one half axis ends; `minor` the length of the other."""

    form: ClassVar[str] = "ellipse"
    type: Literal["ellipse"] = "ellipse"
    centre: Id
    major: Id
    minor: Size

    def stands_on(self) -> tuple[str, ...]:
        return self.centre, self.major

    def enter(self, seats: Seats) -> None:
        seats.centres[self.id] = self.centre
        number = seats.numbers[self.id, "minor"] = seats.new(self.minor)
        if self.source:
            seats.constant[number] = self.minor

    def variables(self, seats: Seats) -> Variables:
        """Centre, end of the half axis, length of the other: what its residuals take."""
        minor = seats.numbers[self.id, "minor"]
        return (*seats.points[self.centre], *seats.points[self.major], minor)

    def moved(self, seats: Seats, p: Array) -> Self:
        return self.model_copy(update={"minor": float(p[seats.numbers[self.id, "minor"]])})

    def grown(self, factor: float) -> Self:
        return self.model_copy(update={"minor": self.minor * factor})

    def curve(self, at: Mapping[str, Pair]) -> Curve2:
        c, m = at[self.centre], at[self.major]
        return Ellipse2(c, (m[0] - c[0], m[1] - c[1]), self.minor)


class EllipticArc(Ellipse):
    """Counter-clockwise from `start` to `end`."""

    type: Literal["elliptic_arc"] = "elliptic_arc"  # type: ignore[assignment]
    start: Id
    end: Id

    def stands_on(self) -> tuple[str, ...]:
        return self.centre, self.major, self.start, self.end

    def enter(self, seats: Seats) -> None:
        super().enter(seats)
        seats.arc_ends[self.id] = (self.start, self.end)

    def inner(self, seats: Seats) -> Equations:
        own = self.variables(seats)
        return Equations(
            rows=[Row(on_ellipse, own + seats.points[p]) for p in (self.start, self.end)]
        )

    def curve(self, at: Mapping[str, Pair]) -> Curve2:
        c, m = at[self.centre], at[self.major]
        whole = Ellipse2(c, (m[0] - c[0], m[1] - c[1]), self.minor)
        first, last = whole.parameter(at[self.start]), whole.parameter(at[self.end])
        if last <= first + 1e-12:
            last += 2.0 * math.pi
        return Ellipse2(c, whole.major, self.minor, first, last)
