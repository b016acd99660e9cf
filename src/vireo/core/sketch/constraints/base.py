"""The contract of a constraint kind and the registry it enters.

A kind is one entry: what it can be put on, how it becomes aliases (variables that are one
and the same) or residual rows, and for dimensions how its value is read from the drawing.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from vireo.core.quantity import Dimension
from vireo.core.sketch.model import Constraint
from vireo.core.sketch.seats import Equations, Pair, Seats
from vireo.core.trouble import BadInput

Forms = tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class ConstraintKind:
    """`forms` are the sorted kinds of entity it can be put on."""

    type: str
    label: str
    forms: Forms
    equations: Callable[[Seats, Constraint, float], Equations]
    dimension: Dimension | None = None
    measure: Callable[[Seats, Constraint], float] | None = None
    sense: Callable[[Seats, Constraint], tuple[int, ...]] | None = None
    #: May its value be zero.
    zero: bool = False
    #: A bound, not a condition: what is measured must not be less.
    limit: bool = False
    #: May a person put it; the others are put by tools.
    offered: bool = True


KINDS: dict[str, ConstraintKind] = {}


def register(*kinds: ConstraintKind) -> None:
    for kind in kinds:
        KINDS[kind.type] = kind


def kind_of(constraint: Constraint, seats: Seats) -> ConstraintKind:
    """The registered kind. Raises BadInput for an unknown one or a wrong set of entities."""
    kind = KINDS.get(constraint.type)
    if kind is None:
        raise BadInput(f"there is no constraint called {constraint.type}")
    form = tuple(sorted(seats.form(i) for i in constraint.on))
    if form not in kind.forms or len(set(constraint.on)) != len(constraint.on):
        wanted = " or ".join(" and ".join(f) for f in kind.forms)
        raise BadInput(
            f"{kind.label.lower()} goes on {wanted}, not on {' and '.join(form)}",
            [f"constraint:{constraint.id}"],
        )
    return kind


def of_form(seats: Seats, c: Constraint, *forms: str) -> list[str]:
    """The entities of a constraint that have one of the forms, in the order given."""
    return [id for id in c.on if seats.form(id) in forms]


def cross_to(seats: Seats, line: str, point: Pair) -> float:
    """Signed distance of a place from a line, positive to its left."""
    a, b = (seats.at(p) for p in seats.lines[line])
    length = math.dist(a, b) or 1.0
    return ((b[0] - a[0]) * (point[1] - a[1]) - (b[1] - a[1]) * (point[0] - a[0])) / length


POINTS = ("point", "point")
LINES = ("line", "line")
ROUND = ("circle", "circle")
CURVES = ("line", "circle", "ellipse", "spline")
