"""A point: the only entity with a place of its own."""

from __future__ import annotations

from typing import ClassVar, Literal, Self

from vireo.core.sketch.entities.base import EntityBase, Number
from vireo.core.sketch.layout import Layout
from vireo.core.sketch.residuals import Array


class Point(EntityBase):
    form: ClassVar[str] = "point"
    one_curve: ClassVar[bool] = False
    type: Literal["point"] = "point"
    x: Number
    y: Number

    def enter(self, layout: Layout) -> None:
        i, j = layout.new(self.x), layout.new(self.y)
        layout.points[self.id] = (i, j)
        if self.source:
            layout.constant |= {i: self.x, j: self.y}

    def moved(self, layout: Layout, p: Array) -> Self:
        i, j = layout.points[self.id]
        return self.model_copy(update={"x": float(p[i]), "y": float(p[j])})
