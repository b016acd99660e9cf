"""The curve beside a free curve or an ellipse, at a distance."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar, Literal, Self

from vireo.core.curves import Curve2, Ellipse2, Spline2, folds, offset_curve
from vireo.core.sketch.entities.base import EntityBase, Id, Size
from vireo.core.sketch.entities.ellipse import Ellipse
from vireo.core.sketch.entities.spline import FreeCurve
from vireo.core.sketch.residuals import Array, beside_ellipse, beside_spline
from vireo.core.sketch.seats import Equations, Pair, Places, Row, Seats


class Parallel(EntityBase):
    """Runs `gap` beside the curve `of`, to its left (`side` 1) or right; it has end points of its
    own unless that closes."""

    form: ClassVar[str] = "parallel"
    type: Literal["parallel"] = "parallel"
    of: Id
    gap: Size
    side: Literal[-1, 1]
    start: Id | None = None
    end: Id | None = None

    def stands_on(self) -> tuple[str, ...]:
        return (self.start, self.end) if self.start and self.end else ()

    def leans_on(self) -> tuple[str, ...]:
        return (self.of,)

    def enter(self, seats: Seats) -> None:
        seats.numbers[self.id, "gap"] = seats.new(self.gap)
        if self.start and self.end:
            seats.arc_ends[self.id] = (self.start, self.end)

    def inner(self, seats: Seats) -> Equations:
        source: Any = seats.entities[self.of]
        gap = seats.numbers[self.id, "gap"]
        rows = []
        for k, p in enumerate(self.stands_on()):
            own = (*seats.points[p], gap)
            if isinstance(source, Ellipse):
                end = seats.points[seats.arc_ends[source.id][k]]
                of = own + end + source.variables(seats)
                rows.append(Row(beside_ellipse, of, (float(self.side),), count=2))
                continue
            assert isinstance(source, FreeCurve)
            poles = source.tie(seats.places()).matrix
            here, next_ = (poles[0], poles[1]) if k == 0 else (poles[-1], poles[-2])
            sign = float(self.side) * (1.0 if k == 0 else -1.0)
            values = (sign, *map(float, here), *map(float, next_))
            of = own + source.variables(seats)
            rows.append(Row(beside_spline, of, values, count=2))
        return Equations(rows=rows)

    def moved(self, seats: Seats, p: Array) -> Self:
        return self.model_copy(update={"gap": abs(float(p[seats.numbers[self.id, "gap"]]))})

    def _source(self, at: Mapping[str, Pair]) -> Spline2 | Ellipse2:
        assert isinstance(at, Places)
        found = at.entities[self.of].curve(at)
        assert isinstance(found, Spline2 | Ellipse2)
        return found

    def curve(self, at: Mapping[str, Pair]) -> Curve2:
        return offset_curve(self._source(at), self.side * self.gap)

    def tight(self, at: Mapping[str, Pair]) -> float | None:
        """The least radius it runs inside of (mm), when that is less than its distance."""
        return folds(self._source(at), self.side * self.gap)
