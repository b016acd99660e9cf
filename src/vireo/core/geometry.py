"""Frames and directions, shared by sketch, kernel and assembly.

Lengths in mm, angles in rad. Knows no kernel.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Vector = NDArray[np.float64]
Triple = tuple[float, float, float]
Pair = tuple[float, float]


def triple(v: Vector | Sequence[float]) -> Triple:
    """Three numbers as plain ones; none is minus nothing."""
    x, y, z = (float(c) + 0.0 for c in v)
    return x, y, z


@dataclass(frozen=True)
class Frame:
    """A right-handed place: origin, x and z direction (unit length, at right angles)."""

    origin: Triple = (0.0, 0.0, 0.0)
    x: Triple = (1.0, 0.0, 0.0)
    z: Triple = (0.0, 0.0, 1.0)

    @property
    def y(self) -> Triple:
        return cross(self.z, self.x)

    @property
    def matrix(self) -> Vector:
        """3x3, columns x, y, z: turns local directions into outer ones."""
        return np.array([self.x, self.y, self.z]).T

    def out(self, point: Pair | Triple) -> Triple:
        """A local point in outer coordinates; two numbers lie in the frame's plane."""
        local = np.array([*point, 0.0][:3])
        p = np.array(self.origin) + self.matrix @ local
        return (float(p[0]), float(p[1]), float(p[2]))


@dataclass(frozen=True)
class Run:
    """An edge as a way: its length (mm), whether it comes back to its start, and frames at lengths
    along it, z along it, not turning about it."""

    length: float
    closed: bool
    frames: Callable[[Sequence[float]], list[Frame]]


#: The three planes through the origin, looked at from +Z, from the front (-Y), from the right.
BASE_PLANES: dict[str, Frame] = {
    "XY": Frame(),
    "XZ": Frame(x=(1.0, 0.0, 0.0), z=(0.0, -1.0, 0.0)),
    "YZ": Frame(x=(0.0, 1.0, 0.0), z=(1.0, 0.0, 0.0)),
}


def cross(a: Triple, b: Triple) -> Triple:
    return (a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0])


def dot(a: Triple, b: Triple) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def opposite(v: Triple) -> Triple:
    return (-v[0], -v[1], -v[2])


def unit(v: Triple) -> Triple:
    """Unit vector. Raises ValueError for a zero vector."""
    length = math.sqrt(dot(v, v))
    if length < 1e-12:
        raise ValueError("a direction of zero length")
    return (v[0] / length, v[1] / length, v[2] / length)


def plane_frame(origin: Triple, normal: Triple) -> Frame:
    """A frame on a plane whose axes depend only on the normal, so that it does not spin.

    x lies along the outer X where that is possible, else along Y; the origin is the foot of
    the outer origin on the plane, so that sketches on it stay anchored.
    """
    z = unit(normal)
    foot = dot(origin, z)
    o = (z[0] * foot, z[1] * foot, z[2] * foot)
    guide = (1.0, 0.0, 0.0) if abs(z[0]) < 0.9 else (0.0, 1.0, 0.0)
    along = dot(guide, z)
    x = unit((guide[0] - along * z[0], guide[1] - along * z[1], guide[2] - along * z[2]))
    return Frame(o, x, z)
