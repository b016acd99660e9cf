"""The contract of a kind of joint and the registry they enter by being read.

A kind is one file in `vireo.core.assembly.joints`: which relative motions it takes away, which it
leaves as coordinates. Each end of a joint is a point and axes; z is the axis of the joint. What a
kind does may depend on what its ends are (a distance between planes or between points): each such
way is one of its forms.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from vireo.core.quantity import ANGLE, LENGTH, Dimension
from vireo.core.registry import Registry
from vireo.core.trouble import BadInput, Trouble
from vireo.core.ways import Way

Floats = NDArray[np.float64]
#: A row of the solver: ("along", axis of a) holds the point of b on a plane across that axis of a,
#: ("square", axis of a, axis of b) two axes at right angles, ("turn",) the angle about z, ("lean",)
#: the angle between the z axes, ("upright",) holds that at a right angle, ("reach",) the distance
#: of the point of b from the z axis of a, ("apart",) that of the two points, ("screw",) a slide
#: along z for each turn. Of what is mirrored in the plane of a symmetry ("across", axis of b) holds
#: the point of b to that of a along that axis, ("mirrored", axis of a, axis of b) the axes square.
#: Of a way in a ("beside", x or y) holds the point of b on it, ("travel",) how far along it is.
Row = tuple[str, ...]
AXES = {"x": 0, "y": 1, "z": 2}

#: No shift of the two points against each other.
POINT: tuple[Row, ...] = (("along", "x"), ("along", "y"), ("along", "z"))
#: The point of b lies on the z axis of a.
ON_AXIS: tuple[Row, ...] = (("along", "x"), ("along", "y"))
#: The z axes point the same way.
PARALLEL: tuple[Row, ...] = (("square", "z", "x"), ("square", "z", "y"))
#: The z axes point the same way once that of a is mirrored.
MIRRORED: tuple[Row, ...] = (("mirrored", "z", "x"), ("mirrored", "z", "y"))
#: No turn about z.
CLOCKED: tuple[Row, ...] = (("turn",),)
#: Rows whose value counts from the offset of the joint.
OFFSET: frozenset[Row] = frozenset({("along", "z"), ("reach",), ("apart",)})

#: What an end is to a joint: a flat face, an axis (a round face, a circle, a straight edge), a point
#: (a corner, the centre of a ball), a curve without an axis, or a whole set of axes.
Nature = Literal["plane", "axis", "point", "curve", "frame"]


class EndTrouble(Trouble):
    """A joint end that has no frame, that its kind cannot hold, or whose pick is lost."""

    code = "joint_end"


@dataclass(frozen=True)
class EndFrame:
    """What a joint holds: origin (mm) and axes (3x3, columns x, y, z) in the coordinates of its
    component.

    `outward` says that z points out of material, so that two such ends meet face to face. `radius`
    (mm) is that of a round face or edge, negative for a bore; `width` (mm) that of two parallel
    faces taken together, whose middle plane the end is then; negative between walls that face each
    other.
    """

    origin: Floats
    axes: Floats
    outward: bool
    nature: Nature = "plane"
    radius: float = 0.0
    width: float | None = None


@dataclass(frozen=True)
class Coordinate:
    """A motion a joint leaves, as one number: rad or mm."""

    name: str
    label: str
    dimension: ClassVar[Dimension]
    #: What a number of it is shown and typed in.
    unit: ClassVar[str]
    #: Whether b can be carried to a value of it without moving otherwise.
    carries: ClassVar[bool] = True

    @property
    def row(self) -> Row:
        """What holds it at a value."""
        raise NotImplementedError

    def read(
        self, axes_a: Floats, axes_b: Floats, between: Floats, way: Way | None = None
    ) -> float:
        """Its value from the axes of both ends (3x3, columns) and the shift from the point of a to
        that of b (mm), all in outer coordinates, and what b runs along, in the axes of a."""
        raise NotImplementedError

    def motion(self, value: float, pitch: float) -> tuple[Floats, float]:
        """How b moves along and about the axes of a: shift (mm), turn about z (rad). `pitch` (mm)
        is that of the joint."""
        raise NotImplementedError

    def shown(self, value: float) -> float:
        """A value in the unit it is shown in."""
        return value

    def internal(self, shown: float) -> float:
        return shown


class _Angle(Coordinate):
    dimension: ClassVar[Dimension] = ANGLE
    unit: ClassVar[str] = "deg"

    def shown(self, value: float) -> float:
        return math.degrees(value)

    def internal(self, shown: float) -> float:
        return math.radians(shown)


class _Length(Coordinate):
    dimension: ClassVar[Dimension] = LENGTH
    unit: ClassVar[str] = "mm"


@dataclass(frozen=True)
class Turn(_Angle):
    """An angle about z."""

    @property
    def row(self) -> Row:
        return ("turn",)

    def read(
        self, axes_a: Floats, axes_b: Floats, between: Floats, way: Way | None = None
    ) -> float:
        x = axes_b[:, 0]
        return math.atan2(float(x @ axes_a[:, 1]), float(x @ axes_a[:, 0]))

    def motion(self, value: float, pitch: float) -> tuple[Floats, float]:
        return np.zeros(3), value


@dataclass(frozen=True)
class Slide(_Length):
    """A length along an axis of end a."""

    axis: str = "z"

    @property
    def row(self) -> Row:
        return ("along", self.axis)

    def read(
        self, axes_a: Floats, axes_b: Floats, between: Floats, way: Way | None = None
    ) -> float:
        return float(between @ axes_a[:, AXES[self.axis]])

    def motion(self, value: float, pitch: float) -> tuple[Floats, float]:
        shift = np.zeros(3)
        shift[AXES[self.axis]] = value
        return shift, 0.0


@dataclass(frozen=True)
class Winding(Slide):
    """A slide along z that turns by a whole turn for each pitch."""

    def motion(self, value: float, pitch: float) -> tuple[Floats, float]:
        return super().motion(value, pitch)[0], 2 * math.pi * value / pitch


@dataclass(frozen=True)
class Lean(_Angle):
    """The angle between the z axes, from 0 to half a turn."""

    carries: ClassVar[bool] = False

    @property
    def row(self) -> Row:
        return ("lean",)

    def read(
        self, axes_a: Floats, axes_b: Floats, between: Floats, way: Way | None = None
    ) -> float:
        a, b = axes_a[:, 2], axes_b[:, 2]
        return math.atan2(float(np.linalg.norm(np.cross(a, b))), float(a @ b))


@dataclass(frozen=True)
class Reach(_Length):
    """The distance of the point of b from the z axis of a."""

    carries: ClassVar[bool] = False

    @property
    def row(self) -> Row:
        return ("reach",)

    def read(
        self, axes_a: Floats, axes_b: Floats, between: Floats, way: Way | None = None
    ) -> float:
        return math.hypot(float(between @ axes_a[:, 0]), float(between @ axes_a[:, 1]))


@dataclass(frozen=True)
class Apart(_Length):
    """The distance of the two points."""

    carries: ClassVar[bool] = False

    @property
    def row(self) -> Row:
        return ("apart",)

    def read(
        self, axes_a: Floats, axes_b: Floats, between: Floats, way: Way | None = None
    ) -> float:
        return float(np.linalg.norm(between))


@dataclass(frozen=True)
class Travel(_Length):
    """How far along a way the foot of the point of b is."""

    carries: ClassVar[bool] = False

    @property
    def row(self) -> Row:
        return ("travel",)

    def read(
        self, axes_a: Floats, axes_b: Floats, between: Floats, way: Way | None = None
    ) -> float:
        assert way is not None
        return way.foot(axes_a.T @ between).travel


@dataclass(frozen=True)
class JointForm:
    """`rows` are what it takes away; what is left are its `coordinates`, and turns that no
    coordinate describes where `free_turn`. Where more than that is left, it is not `complete`."""

    rows: tuple[Row, ...]
    coordinates: tuple[Coordinate, ...] = ()
    free_turn: bool = False
    complete: bool = True

    def coordinate(self, name: str) -> Coordinate | None:
        return next((c for c in self.coordinates if c.name == name), None)

    @property
    def shifts(self) -> bool:
        """Whether an offset has anything to shift."""
        rows = {*self.rows, *(c.row for c in self.coordinates)}
        return bool(rows & OFFSET) or ("screw",) in rows

    @property
    def aligned(self) -> bool:
        """Whether the z axes of both ends must point the same way (that of a once it is mirrored
        where there is a mirror): the rows hold both ways."""
        return set(PARALLEL) <= set(self.rows) or set(MIRRORED) <= set(self.rows)


@dataclass(frozen=True)
class Fit:
    """How a kind holds two ends: by which of its forms, with the ends `swapped`, b shifted by
    `offset` (mm) besides, within `limits` of coordinates that the ends themselves set. `sided`: z
    of a is taken to point to where b stands."""

    form: str = ""
    swapped: bool = False
    offset: float = 0.0
    sided: bool = False
    limits: Mapping[str, tuple[float | None, float | None]] = field(default_factory=dict)


@dataclass(frozen=True)
class Factor:
    """A number a joint needs besides its ends: the pitch of a thread, the ratio of two gears."""

    label: str
    dimension: str
    default: str


def _any_axes(a: EndFrame, b: EndFrame) -> Fit:
    for end in (a, b):
        if end.nature == "point":
            raise EndTrouble("a point has no axis; pick a flat or round face, or an edge")
    return Fit()


@dataclass(frozen=True)
class JointKind:
    """A kind by its word, and what it does in its only form. `offset` of a joint shifts b along z
    of a. `best` are the natures of two ends it is proposed for first, `takes` those it can hold."""

    kind: str
    label: str
    icon: str
    line: str
    rows: tuple[Row, ...] = ()
    coordinates: tuple[Coordinate, ...] = ()
    free_turn: bool = False
    #: Where it stands in the fly-out.
    order: int = 50
    #: The heading it stands under: a joint of the textbook, a condition, a drive between joints.
    family: Literal["Joint", "Condition", "Drive"] = "Joint"
    factor: Factor | None = None
    #: How many ends it takes of each side at the most.
    picks: tuple[int, int] = (1, 1)
    #: What is said of the ends while they are picked.
    hint: str = ""
    #: Pairs of what is picked ("circle circle", "plane plane") it is proposed for first.
    best: tuple[str, ...] = ()
    #: What its ends mostly are: it is offered for others of them only after the rest.
    about: Literal["axis", "plane", "point", ""] = ""
    #: What a size it holds must be more than and less than (mm or rad), and what else does it.
    sizes: tuple[float, float] | None = None
    instead: str = ""
    #: Whether one end is an edge the point of the other runs along, with all that goes on smoothly.
    runs: bool = False
    #: Whether it takes a third end: the plane it mirrors in.
    mirrors: bool = False
    #: Whether it ties the turn of a to what b does by a joint of its own: to turn, or to slide.
    couples: Literal["", "turn", "slide"] = ""

    @property
    def forms(self) -> Mapping[str, JointForm]:
        return {"": JointForm(self.rows, self.coordinates, self.free_turn)}

    def fit(self, a: EndFrame, b: EndFrame) -> Fit:
        """How it holds two ends. Raises EndTrouble for ends it cannot hold."""
        return _any_axes(a, b)

    def coordinate(self, name: str) -> Coordinate | None:
        return next((c for c in self.coordinates if c.name == name), None)


def fitted(kind: JointKind, a: EndFrame, b: EndFrame) -> Fit:
    """How a kind holds two ends. Raises EndTrouble for ends it cannot hold."""
    if "curve" in (a.nature, b.nature) and not kind.runs:
        raise EndTrouble("this edge gives no axis; pick a flat or round face, or another edge")
    return kind.fit(a, b)


#: What can be picked, as an end: natures as the screen calls them, round faces with a radius.
_PICKED = {
    "plane": EndFrame(np.zeros(3), np.eye(3), True, "plane"),
    "axis": EndFrame(np.zeros(3), np.eye(3), False, "axis", 1.0),
    "circle": EndFrame(np.zeros(3), np.eye(3), True, "axis"),
    "line": EndFrame(np.zeros(3), np.eye(3), False, "axis"),
    "point": EndFrame(np.zeros(3), np.eye(3), False, "point"),
    "curve": EndFrame(np.zeros(3), np.eye(3), False, "curve"),
}


def fits(kind: JointKind) -> list[str]:
    """The pairs of picks, one on each side, that a kind can hold: ``axis plane``."""
    found = []
    for a, b in itertools.combinations_with_replacement(sorted(_PICKED), 2):
        with suppress(EndTrouble):
            fitted(kind, _PICKED[a], _PICKED[b])
            found.append(f"{a} {b}")
    return found


def driven(kind: JointKind | JointForm, word: str, name: str | None) -> Coordinate:
    """The coordinate that is driven: by its name, or the first. Raises BadInput."""
    if not kind.coordinates:
        raise BadInput(f"a {word} joint has nothing to drive")
    found = kind.coordinate(name) if name else kind.coordinates[0]
    if found is None:
        there = ", ".join(c.name for c in kind.coordinates)
        raise BadInput(f"a {word} joint has no coordinate {name}; it has {there}")
    return found


JOINTS: Registry[JointKind] = Registry("joint", "vireo.core.assembly.joints")


def add(kind: JointKind) -> None:
    JOINTS.add(kind.kind, kind)
