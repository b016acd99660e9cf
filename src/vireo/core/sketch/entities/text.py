"""A line of text as outlines."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from vireo.core.curves import Curve2, Line2, Spline2
from vireo.core.sketch.entities.base import EntityBase, Id, Size
from vireo.core.sketch.lettering import Font, letter
from vireo.core.sketch.residuals import Array, as_wide
from vireo.core.sketch.seats import Equations, Pair, Row, Seats


class Text(EntityBase):
    """Stands on its baseline from `start` to `end`; `height` is that of the capitals.

    The font gives the width, so the length of the baseline goes with the height.
    """

    form: ClassVar[str] = "text"
    one_curve: ClassVar[bool] = False
    type: Literal["text"] = "text"
    start: Id
    end: Id
    height: Size
    text: Annotated[str, Field(max_length=200, pattern=r"^[^\x00-\x1f]*\S[^\x00-\x1f]*$")]
    font: Font = "regular"
    #: Written the other way up, as seen in a mirror.
    mirrored: bool = False

    def stands_on(self) -> tuple[str, ...]:
        return self.start, self.end

    def enter(self, seats: Seats) -> None:
        seats.numbers[self.id, "height"] = seats.new(self.height)

    def inner(self, seats: Seats) -> Equations:
        of = (
            *seats.points[self.start], *seats.points[self.end],
            seats.numbers[self.id, "height"],
        )  # fmt: skip
        return Equations(rows=[Row(as_wide, of, (letter(self.text, self.font).width,))])

    def moved(self, seats: Seats, p: Array) -> Self:
        return self.model_copy(update={"height": float(p[seats.numbers[self.id, "height"]])})

    def grown(self, factor: float) -> Self:
        return self.model_copy(update={"height": self.height * factor})

    def curves(self, at: Mapping[str, Pair]) -> list[tuple[str, Curve2]]:
        (x, y), (ex, ey) = at[self.start], at[self.end]
        made = letter(self.text, self.font)
        c, s = (ex - x) / made.width, (ey - y) / made.width
        up = -1.0 if self.mirrored else 1.0

        def put(p: Pair) -> Pair:
            return (x + c * p[0] - s * up * p[1], y + s * p[0] + c * up * p[1])

        found: list[tuple[str, Curve2]] = []
        for n, outline in enumerate(made.outlines):
            for k, piece in enumerate(outline):
                if isinstance(piece, Line2):
                    curve: Curve2 = Line2(put(piece.a), put(piece.b))
                else:
                    assert isinstance(piece, Spline2)
                    curve = Spline2(piece.degree, piece.knots, tuple(map(put, piece.poles)))
                found.append((f".{n}.{k}", curve))
        return found
