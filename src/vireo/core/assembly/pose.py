"""Poses: position and unit quaternion (w, x, y, z), and what one does with them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Pose:
    """Carries local points to outer ones: x -> R(q) x + p, in mm."""

    p: Floats
    q: Floats

    @staticmethod
    def still() -> Pose:
        return Pose(np.zeros(3), np.array([1.0, 0.0, 0.0, 0.0]))

    @cached_property
    def rotation(self) -> Floats:
        return rotation_of(self.q)

    def __matmul__(self, inner: Pose) -> Pose:
        return Pose(self.rotation @ inner.p + self.p, multiply(self.q, inner.q))

    def out(self, point: Floats) -> Floats:
        return np.asarray(self.rotation @ point + self.p)

    def inverse(self) -> Pose:
        back = self.q * np.array([1.0, -1.0, -1.0, -1.0])
        return Pose(-(rotation_of(back) @ self.p), back)

    def to_json(self) -> dict[str, list[float]]:
        """As placements are kept."""
        return {"p": self.p.tolist(), "q": self.q.tolist()}

    def matrix(self) -> Floats:
        """The 4x4 matrix."""
        m = np.eye(4)
        m[:3, :3], m[:3, 3] = self.rotation, self.p
        return m

    @staticmethod
    def of(matrix: Floats) -> Pose:
        """The pose of a rigid 4x4 matrix."""
        return Pose(matrix[:3, 3].copy(), quaternion_of(matrix[:3, :3]))

    def column_major(self) -> list[float]:
        """The 4x4 matrix the screen takes."""
        return [float(v) for v in self.matrix().T.ravel()]


def multiply(a: Floats, b: Floats) -> Floats:
    w1, x1, y1, z1 = a
    w2, x2, y2, z2 = b
    q = np.array(
        [
            w1 * w2 - x1 * x2 - y1 * y2 - z1 * z2,
            w1 * x2 + x1 * w2 + y1 * z2 - z1 * y2,
            w1 * y2 - x1 * z2 + y1 * w2 + z1 * x2,
            w1 * z2 + x1 * y2 - y1 * x2 + z1 * w2,
        ]
    )
    return np.asarray(q / np.linalg.norm(q))


def rotation_of(q: Floats) -> Floats:
    w, x, y, z = q
    return np.array(
        [
            [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
            [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
            [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
        ]
    )


def rotations_of(q: Floats) -> Floats:
    """(n, 4) quaternions to (n, 3, 3) rotations."""
    w, x, y, z = q.T
    rows = [
        [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
        [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
        [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ]
    return np.moveaxis(np.array(rows), 2, 0)


def quaternion_of(r: Floats) -> Floats:
    """Quaternion of a 3x3 rotation (largest component first, so no division by little)."""
    trace = np.trace(r)
    squares = np.array([trace, r[0, 0], r[1, 1], r[2, 2]])
    k = int(np.argmax(squares))
    if k == 0:
        s = 2.0 * np.sqrt(1.0 + trace)
        q = [s / 4, (r[2, 1] - r[1, 2]) / s, (r[0, 2] - r[2, 0]) / s, (r[1, 0] - r[0, 1]) / s]
    else:
        i = k - 1
        j, m = (i + 1) % 3, (i + 2) % 3
        s = 2.0 * np.sqrt(1.0 + r[i, i] - r[j, j] - r[m, m])
        q = [0.0] * 4
        q[0] = (r[m, j] - r[j, m]) / s
        q[1 + i] = s / 4
        q[1 + j] = (r[j, i] + r[i, j]) / s
        q[1 + m] = (r[m, i] + r[i, m]) / s
    found = np.array(q)
    return np.asarray(found / np.linalg.norm(found))


def turned(q: Floats, spin: Floats) -> Floats:
    """`q` followed by a small rotation vector in outer coordinates."""
    angle = float(np.linalg.norm(spin))
    if angle < 1e-12:
        step = np.array([1.0, *(0.5 * spin)])
    else:
        step = np.array([np.cos(angle / 2), *(np.sin(angle / 2) / angle * spin)])
    return multiply(step, q)
