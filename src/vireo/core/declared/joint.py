"""The contract of a kind of joint and the registry they enter by being read.

A kind is one file in `vireo.core.assembly.joints`: which relative motions it takes away, which it
leaves as coordinates. Each end of a joint is a point and axes; z is the axis of the joint.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from vireo.core.quantity import ANGLE, LENGTH, Dimension
from vireo.core.registry import Registry
from vireo.core.trouble import BadInput

Floats = NDArray[np.float64]
#: A row of the solver: ("along", axis of a) holds the point of b on a plane across that axis of a,
#: ("square", axis of a, axis of b) two axes at right angles, ("turn",) the angle about z.
Row = tuple[str, ...]
AXES = {"x": 0, "y": 1, "z": 2}

#: No shift of the two points against each other.
POINT: tuple[Row, ...] = (("along", "x"), ("along", "y"), ("along", "z"))
#: The z axes point the same way.
PARALLEL: tuple[Row, ...] = (("square", "z", "x"), ("square", "z", "y"))
#: No turn about z.
CLOCKED: tuple[Row, ...] = (("turn",),)


@dataclass(frozen=True)
class Coordinate:
    """A motion a joint leaves, as one number: rad or mm."""

    name: str
    label: str
    dimension: ClassVar[Dimension]
    #: What a number of it is shown and typed in.
    unit: ClassVar[str]

    @property
    def row(self) -> Row:
        """What holds it at a value."""
        raise NotImplementedError

    def read(self, axes_a: Floats, axes_b: Floats, between: Floats) -> float:
        """Its value from the axes of both ends (3x3, columns) and the way from the point of a to
        that of b (mm), all in outer coordinates."""
        raise NotImplementedError

    def motion(self, value: float) -> tuple[Floats, float]:
        """How b moves along and about the axes of a: shift (mm), turn about z (rad)."""
        raise NotImplementedError

    def shown(self, value: float) -> float:
        """A value in the unit it is shown in."""
        return value

    def internal(self, shown: float) -> float:
        return shown


@dataclass(frozen=True)
class Turn(Coordinate):
    """An angle about z."""

    dimension: ClassVar[Dimension] = ANGLE
    unit: ClassVar[str] = "deg"

    @property
    def row(self) -> Row:
        return ("turn",)

    def read(self, axes_a: Floats, axes_b: Floats, between: Floats) -> float:
        x = axes_b[:, 0]
        return math.atan2(float(x @ axes_a[:, 1]), float(x @ axes_a[:, 0]))

    def motion(self, value: float) -> tuple[Floats, float]:
        return np.zeros(3), value

    def shown(self, value: float) -> float:
        return math.degrees(value)

    def internal(self, shown: float) -> float:
        return math.radians(shown)


@dataclass(frozen=True)
class Slide(Coordinate):
    """A length along an axis of end a."""

    axis: str = "z"
    dimension: ClassVar[Dimension] = LENGTH
    unit: ClassVar[str] = "mm"

    @property
    def row(self) -> Row:
        return ("along", self.axis)

    def read(self, axes_a: Floats, axes_b: Floats, between: Floats) -> float:
        return float(between @ axes_a[:, AXES[self.axis]])

    def motion(self, value: float) -> tuple[Floats, float]:
        shift = np.zeros(3)
        shift[AXES[self.axis]] = value
        return shift, 0.0


@dataclass(frozen=True)
class JointKind:
    """`rows` are what it takes away; what is left are its `coordinates`, and turns that no
    coordinate describes where `free_turn`. `offset` of a joint shifts b along z of a."""

    kind: str
    label: str
    icon: str
    line: str
    rows: tuple[Row, ...]
    coordinates: tuple[Coordinate, ...] = ()
    free_turn: bool = False
    #: Where it stands in the fly-out.
    order: int = 50

    def coordinate(self, name: str) -> Coordinate | None:
        return next((c for c in self.coordinates if c.name == name), None)

    @property
    def aligned(self) -> bool:
        """Whether the z axes of both ends must point the same way: the rows hold both ways."""
        return set(PARALLEL) <= set(self.rows)


def driven(kind: JointKind, name: str | None) -> Coordinate:
    """The coordinate that is driven: by its name, or the first. Raises BadInput."""
    if not kind.coordinates:
        raise BadInput(f"a {kind.kind} joint has nothing to drive")
    found = kind.coordinate(name) if name else kind.coordinates[0]
    if found is None:
        there = ", ".join(c.name for c in kind.coordinates)
        raise BadInput(f"a {kind.kind} joint has no coordinate {name}; it has {there}")
    return found


JOINTS: Registry[JointKind] = Registry("joint", "vireo.core.assembly.joints")


def add(kind: JointKind) -> None:
    JOINTS.add(kind.kind, kind)
