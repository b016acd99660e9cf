"""A straight line between two points."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from vireo.core.curves import Curve2, Line2
from vireo.core.sketch.entities.base import EntityBase, Id
from vireo.core.sketch.seats import Pair, Seats


class Line(EntityBase):
    form: ClassVar[str] = "line"
    type: Literal["line"] = "line"
    a: Id
    b: Id

    def stands_on(self) -> tuple[str, ...]:
        return self.a, self.b

    def enter(self, seats: Seats) -> None:
        seats.lines[self.id] = (self.a, self.b)

    def curve(self, at: Mapping[str, Pair]) -> Curve2:
        return Line2(at[self.a], at[self.b])
