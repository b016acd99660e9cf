"""Where patches are in space: folded, flat, or anywhere between. One function makes every state."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vireo.core.curves import Pair
from vireo.core.panels.model import Sheet

Floats = NDArray[np.float64]
#: Angle (rad) and inner radius (mm) a bend has in a state.
Bent = tuple[float, float]


@dataclass(frozen=True)
class Place:
    """A frame (`o` and unit vectors), and for a zone that is rolled how: its `angle`, inner `radius` and
    `allowance`."""

    o: Floats
    x: Floats
    y: Floats
    z: Floats
    thickness: float
    angle: float = 0.0
    radius: float = 0.0
    allowance: float = 0.0

    @property
    def rolled(self) -> bool:
        return self.angle != 0.0

    @property
    def up(self) -> bool:
        return self.angle > 0.0

    @property
    def height(self) -> float:
        """How high the axis of the roll is over the bottom."""
        return self.radius + self.thickness if self.up else -self.radius

    @property
    def begin(self) -> Floats:
        """From the axis to where the roll begins."""
        return -self.z if self.up else self.z

    @property
    def axis(self) -> Floats:
        """About which `begin` turns to y."""
        return self.x if self.up else -self.x

    def reach(self, h: float) -> float:
        """How far a level of the sheet (0 bottom, thickness top) is from the axis of the roll."""
        return self.radius + self.thickness - h if self.up else self.radius + h

    def turned(self, y: float) -> float:
        """How far the roll has turned at y."""
        return abs(self.angle) * y / self.allowance

    def at(self, p: Pair, h: float) -> Floats:
        """A point of the patch at a height over its bottom."""
        if not self.rolled:
            return self.o + self.x * p[0] + self.y * p[1] + self.z * h
        turn, r = self.turned(p[1]), self.reach(h)
        centre = self.o + self.x * p[0] + self.z * self.height
        return centre + self.begin * (r * math.cos(turn)) + self.y * (r * math.sin(turn))

    def local(self, points: Floats) -> Floats:
        """Where points (n, 3) lie in the patch: x, y in its outline and the height over its bottom. In a rolled
        zone the turn is counted from where it begins, up to half a turn beyond either end of it."""
        v = points - self.o
        x = v @ self.x
        if not self.rolled:
            return np.stack([x, v @ self.y, v @ self.z], axis=1)
        v = v - self.z * self.height
        out, along = v @ self.begin, v @ self.y
        middle = 0.5 * abs(self.angle)
        turn = np.arctan2(along, out)
        turn = middle + (turn - middle + math.pi) % (2.0 * math.pi) - math.pi
        r = np.hypot(out, along)
        h = self.radius + self.thickness - r if self.up else r - self.radius
        return np.stack([x, turn * self.allowance / abs(self.angle), h], axis=1)

    def rolled_out(self, p: Pair) -> Pair:
        """A point on the cylinder: turned so far, along its axis."""
        return self.turned(p[1]), (p[0] if self.up else -p[0])


#: The frame a sheet stands in where none is said.
STILL = (
    np.zeros(3),
    np.array([1.0, 0.0, 0.0]),
    np.array([0.0, 1.0, 0.0]),
    np.array([0.0, 0.0, 1.0]),
)


def places(
    sheet: Sheet, state: Mapping[str, Bent] | None = None,
    frame: tuple[Floats, Floats, Floats, Floats] = STILL,
) -> dict[str, Place]:  # fmt: skip
    """Panels and zones by id. `state` says of some bends what angle and radius they have; 0 is flat."""
    t = sheet.thickness
    found = {sheet.root: Place(*frame, t)}
    for child, bend in sheet.outward():
        if bend is None:
            continue
        angle, radius = (state or {}).get(bend.id, (bend.angle, bend.radius))
        on, (dx, dy) = found[bend.parent], bend.d
        x, y = on.x * dx + on.y * dy, on.y * dx - on.x * dy
        zone = Place(on.at(bend.p, 0.0), x, y, on.z, t, angle, radius, bend.allowance)
        c, s = math.cos(angle), math.sin(angle)
        found[bend.id] = zone
        found[child] = Place(
            zone.at((0.0, bend.allowance), 0.0), x, y * c + on.z * s, on.z * c - y * s, t
        )
    return found


def flat(sheet: Sheet) -> dict[str, Bent]:
    """The state in which all bends are open."""
    return dict.fromkeys(sheet.bends, (0.0, 0.0))
