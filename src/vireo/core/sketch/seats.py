"""Where the numbers of a drawing stand in the flat vector the solver works on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Protocol

from vireo.core.sketch.residuals import Residual

Variables = tuple[int, ...]
Pair = tuple[float, float]

#: Always there and never free: the sketch's anchor.
ORIGIN, X_AXIS, Y_AXIS = "origin", "x_axis", "y_axis"
ANCHORS = (ORIGIN, X_AXIS, Y_AXIS)


class Entity(Protocol):
    """What the seats need of an entity."""

    @property
    def id(self) -> str: ...

    @property
    def form(self) -> str: ...

    def enter(self, seats: Seats) -> None: ...


class Drawing(Protocol):
    """What the seats need of a drawing."""

    @property
    def entities(self) -> Sequence[Any]: ...

    @property
    def constraints(self) -> Sequence[Any]: ...


class Places(dict[str, Pair]):
    """Where points are, by id; with the entities that hang on others of their kind look up."""

    def __init__(self, places: Mapping[str, Pair], entities: Mapping[str, Any]) -> None:
        super().__init__(places)
        self.entities = entities


@dataclass
class Row:
    """Residual rows: their function (by name or itself), variables, constants.

    `scaled` constants are lengths and shrink with the sketch; `count` rows come out.
    """

    residual: str | Residual
    variables: Variables
    values: tuple[float, ...] = (0.0,)
    scaled: bool = False
    count: int = 1


@dataclass
class Equations:
    aliases: list[tuple[int, int]] = field(default_factory=list)
    fixed: list[int] = field(default_factory=list)
    rows: list[Row] = field(default_factory=list)


@dataclass
class Seats:
    """Entities enter their variables here; constraints look them up.

    `numbers` are single variables of an entity by (entity, name): radii, half axes.
    `scale` is the size of the sketch in mm, by which the solver divides all lengths.
    """

    drawing: Drawing
    start: list[float] = field(default_factory=list)
    constant: dict[int, float] = field(default_factory=dict)
    points: dict[str, tuple[int, int]] = field(default_factory=dict)
    lines: dict[str, tuple[str, str]] = field(default_factory=dict)
    centres: dict[str, str] = field(default_factory=dict)
    radii: dict[str, int] = field(default_factory=dict)
    arc_ends: dict[str, tuple[str, str]] = field(default_factory=dict)
    numbers: dict[tuple[str, str], int] = field(default_factory=dict)
    entities: dict[str, Any] = field(default_factory=dict)
    scale: float = 1.0

    @staticmethod
    def of(drawing: Drawing) -> Seats:
        seats = Seats(drawing)
        for id, x, y in ((ORIGIN, 0.0, 0.0), ("_x", 1.0, 0.0), ("_y", 0.0, 1.0)):
            i, j = seats.new(x), seats.new(y)
            seats.points[id] = (i, j)
            seats.constant |= {i: x, j: y}
        seats.lines |= {X_AXIS: (ORIGIN, "_x"), Y_AXIS: (ORIGIN, "_y")}
        seats.entities = {e.id: e for e in drawing.entities}
        # Points come first: the others stand on them.
        for e in sorted(drawing.entities, key=lambda e: e.form != "point"):
            e.enter(seats)
        own = seats.start[6:]
        span = max(own) - min(own) if own else 1.0
        seats.scale = max(span, max((abs(v) for v in own), default=0.0), 1e-3)
        return seats

    def new(self, value: float) -> int:
        """One more variable (mm)."""
        self.start.append(value)
        return len(self.start) - 1

    def helper(self, value: float) -> int:
        """A variable without unit that a constraint needs for itself (a curve parameter)."""
        return self.new(value * self.scale)

    def steady(self, value: float) -> int:
        """The same, never changed."""
        index = self.helper(value)
        self.constant[index] = value * self.scale
        return index

    def helper_point(self, at: Pair) -> tuple[int, int]:
        return self.new(at[0]), self.new(at[1])

    def at(self, point: str) -> Pair:
        i, j = self.points[point]
        return self.start[i], self.start[j]

    def places(self) -> Places:
        return Places({id: self.at(id) for id in self.points}, self.entities)

    def form(self, id: str) -> str:
        if id in self.entities:
            return str(self.entities[id].form)
        return "point" if id in self.points else "line"

    def line(self, id: str) -> Variables:
        a, b = self.lines[id]
        return (*self.points[a], *self.points[b])

    def centre(self, id: str) -> tuple[int, int]:
        return self.points[self.centres[id]]

    def ends(self, id: str) -> tuple[str, ...]:
        """Points in which a curve begins and ends; none for closed ones."""
        return self.lines.get(id) or self.arc_ends.get(id) or ()
