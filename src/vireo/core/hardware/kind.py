"""The contract of a standard of hardware and the registry they enter by being read.

A standard is one file in `vireo.core.hardware.standards`: its table, the lengths that are made, the
form of one. Every form stands on its seat: the plane z = 0, what lies on it above, a shank below.
Lengths in mm.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar, Literal

from vireo.core.registry import Registry
from vireo.core.screws import SCREWS, Screw
from vireo.core.trouble import BadInput

#: What a standard's table says of each size, in columns of its own.
Sizes = Mapping[str, tuple[float, ...]]
Role = Literal["screw", "washer", "nut", "pin", "ring"]


@dataclass(frozen=True)
class Turned:
    """A closed outline (radius, z) turned about z; each point names the face of the stretch that
    begins there."""

    outline: tuple[tuple[float, float, str], ...]


@dataclass(frozen=True)
class Prism:
    """An outline (x, y) from `low` to `high` along z."""

    outline: tuple[tuple[float, float], ...]
    low: float
    high: float
    name: str


@dataclass(frozen=True)
class Threaded:
    """Where a thread is drawn: on the face of that name, from `low` to `high`."""

    screw: Screw
    face: str
    low: float
    high: float


@dataclass(frozen=True)
class Form:
    """What one looks like: `base`, only what lies in `within` kept, `added` to it, `cut` from it."""

    base: Turned
    within: Prism | None = None
    added: Turned | None = None
    cut: tuple[Prism, ...] = ()
    thread: Threaded | None = None


class Standard:
    """Subclass, set the class attributes, decorate with `register`."""

    standard: ClassVar[str]
    label: ClassVar[str]
    role: ClassVar[Role]
    system: ClassVar[Literal["metric", "inch"]] = "metric"
    order: ClassVar[int] = 50
    #: Sizes by name; what stands in them is the standard's own.
    sizes: ClassVar[Sizes]
    #: Lengths that are made, in units of `unit` (mm); those of a size lie between the shortest and
    #: the longest, the last two columns of its row.
    made: ClassVar[tuple[float, ...]] = ()
    unit: ClassVar[float] = 1.0

    def lengths(self, size: str) -> tuple[float, ...]:
        """The lengths one is made in (mm); none where it has no length of its own."""
        if not self.made:
            return ()
        *_, low, high = self.sizes[size]
        return tuple(self.unit * m for m in self.made if low - 1e-9 <= m <= high + 1e-9)

    def nominal(self, size: str) -> float:
        """Diameter of the screw, pin or shaft it is for."""
        return SCREWS[size].diameter

    def height(self, size: str) -> float:
        """What stands on the seat."""
        raise NotImplementedError

    def form(self, size: str, length: float) -> Form:
        raise NotImplementedError

    def checked(self, size: str, length: float) -> None:
        """Raises BadInput for a size or length that is not made, with the nearest that are."""
        if size not in self.sizes:
            raise BadInput(
                f"{self.standard} has no size {size}; there are {', '.join(self.sizes)}",
                ["field:size"],
            )
        made = self.lengths(size)
        if made and not any(abs(length - m) < 1e-6 for m in made):
            near = sorted(sorted(made, key=lambda m: abs(m - length))[:3])
            raise BadInput(
                f"{self.standard} {size} is not made {length:g} mm long; near it: "
                f"{', '.join(f'{m:g}' for m in near)}",
                ["field:length"],
            )

    def title(self, size: str, length: float) -> str:
        """What one is called: as it is ordered."""
        return f"{self.standard} {size}" + (f" x {length:g}" if self.lengths(size) else "")


STANDARDS: Registry[Standard] = Registry("standard of hardware", "vireo.core.hardware.standards")


def register(cls: type[Standard]) -> type[Standard]:
    STANDARDS.add(cls.standard, cls())
    return cls


# Forms that several share


def hexagon(across: float, low: float, high: float, name: str) -> Prism:
    """A hexagon by its width across flats."""
    r = across / math.sqrt(3)
    corners = tuple(
        (r * math.cos(math.radians(60 * k)), r * math.sin(math.radians(60 * k))) for k in range(6)
    )
    return Prism(corners, low, high, name)


def shank(screw: Screw, length: float, thread: float) -> tuple[tuple[float, float, str], ...]:
    """The outline of a shank below the seat from its tip up, the end chamfered to the root of the
    thread (depth 0.6134 P, ISO 261 profile), the last `thread` of it threaded."""
    r, c = screw.diameter / 2, 0.6134 * screw.pitch
    points = [(0.0, -length, "tip"), (r - c, -length, "chamfer"), (r, -length + c, "thread")]
    if thread < length - c - 1e-9:
        points.append((r, -length + thread, "shank"))
    return tuple(points)


def threaded(screw: Screw, length: float, thread: float) -> Threaded:
    c = 0.6134 * screw.pitch
    high = -length + thread if thread < length - c - 1e-9 else 0.0
    return Threaded(screw, "thread", -length + c, high)


def hex_outline(
    across: float, low: float, high: float, both: bool
) -> list[tuple[float, float, str]]:
    """The turned outline a hexagon is cut out of, chamfered by 30 degrees on top, or at both ends:
    corners are taken down to 0.95 of the width across flats."""
    e, r = across / math.sqrt(3) + 1e-3, 0.475 * across
    c = (e - r) * math.tan(math.radians(30))
    start = [(r, low, "chamfer under"), (e, low + c, "flats")] if both else [(e, low, "flats")]
    return [*start, (e, high - c, "chamfer"), (r, high, "top")]
