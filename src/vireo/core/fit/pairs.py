"""Solids where they stand, and which of them come near each other: by boxes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from vireo.core.assembly.pose import Floats, Pose

#: Boxes are shrunk by this (mm) so that touching neighbours are not even looked at.
SHRINK = 1e-6


@dataclass(frozen=True)
class Item:
    """A solid where it stands. `key` is its content; equal keys share what was computed."""

    id: str
    key: str
    pose: Pose
    low: Floats
    high: Floats


def boxes(items: Sequence[Item]) -> tuple[Floats, Floats]:
    """Axis-aligned boxes of the placed items, (n, 3) least and largest corners."""
    low, high = np.zeros((len(items), 3)), np.zeros((len(items), 3))
    for i, item in enumerate(items):
        r = item.pose.rotation
        middle, half = (item.low + item.high) / 2, (item.high - item.low) / 2
        centre, reach = r @ middle + item.pose.p, np.abs(r) @ half
        low[i], high[i] = centre - reach, centre + reach
    return low, high


def near_pairs(items: Sequence[Item], margin: float = -SHRINK) -> list[tuple[int, int]]:
    """Pairs whose boxes, grown by `margin` on each side, overlap."""
    if len(items) < 2:
        return []
    low, high = boxes(items)
    low, high = low - margin, high + margin
    apart = np.zeros((len(items), len(items)), dtype=bool)
    for k in range(3):
        apart |= low[:, None, k] >= high[None, :, k]
    touch = ~(apart | apart.T)
    i, j = np.nonzero(np.triu(touch, 1))
    return list(zip(i.tolist(), j.tolist(), strict=True))


def relative_of(a: Pose, b: Pose) -> tuple[Pose, tuple[float, ...]]:
    """Where `b` stands to `a`, and that rounded to what no verdict turns on: 1e-7 mm, and as much at
    an arm of 100 mm."""
    relative = a.inverse() @ b
    q = relative.q if relative.q[0] >= 0 else -relative.q
    rounded = (*np.round(relative.p, 7), *np.round(q, 9))
    return relative, tuple(float(v) + 0.0 for v in rounded)
