"""A point: the only entity with a place of its own."""

from __future__ import annotations

from typing import ClassVar, Literal, Self

from vireo.core.sketch.entities.base import EntityBase, Number
from vireo.core.sketch.residuals import Array
from vireo.core.sketch.seats import Seats


class Point(EntityBase):
    form: ClassVar[str] = "point"
    one_curve: ClassVar[bool] = False
    type: Literal["point"] = "point"
    x: Number
    y: Number

    def enter(self, seats: Seats) -> None:
        i, j = seats.new(self.x), seats.new(self.y)
        seats.points[self.id] = (i, j)
        if self.source:
            seats.constant |= {i: self.x, j: self.y}

    def moved(self, seats: Seats, p: Array) -> Self:
        i, j = seats.points[self.id]
        return self.model_copy(update={"x": float(p[i]), "y": float(p[j])})
