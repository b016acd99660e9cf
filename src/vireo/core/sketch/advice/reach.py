"""How far a size can go when what was asked has no solution."""

from __future__ import annotations

from collections.abc import Mapping

from vireo.core.quantity import ANGLE, Quantity
from vireo.core.sketch.constraints import KINDS, kind_of
from vireo.core.sketch.model import Drawing
from vireo.core.sketch.seats import Seats
from vireo.core.sketch.solved import dimension_values, solve_drawing


def reachable(
    drawing: Drawing, id: str, names: Mapping[str, Quantity] | None = None, halvings: int = 12
) -> float | None:
    """The value nearest to the one asked for with which the drawing still solves.

    In mm or rad, by halving between the size as drawn and as asked; None when even the drawn
    size does not hold.
    """
    c = next(k for k in drawing.constraints if k.id == id)
    seats = Seats.of(drawing)
    kind = kind_of(c, seats)
    assert kind.measure is not None
    drawn = kind.measure(seats, c)
    asked = dimension_values(drawing, names or {})[0][id]
    unit = "rad" if kind.dimension == ANGLE else "mm"

    def holds(value: float) -> bool:
        tried = c.model_copy(update={"formula": f"{value!r} {unit}"})
        constraints = tuple(tried if k.id == id else k for k in drawing.constraints)
        found = solve_drawing(
            drawing.model_copy(update={"constraints": constraints}), names, full=False
        )
        return found.holds

    if KINDS[c.type].dimension is None or not holds(drawn):
        return None
    good, bad = drawn, asked
    for _ in range(halvings):
        half = 0.5 * (good + bad)
        good, bad = (half, bad) if holds(half) else (good, half)
    return good
