"""Which solids overlap, by how much and where. Touching is not overlap.

Boxes first, then the exact common solid of the pairs left, kept by relative pose so that
equal pairs are computed once. Where two round faces are nearly but not exactly coaxial the
common solid is known to be silently wrong, so samples on the true faces bear witness.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np

from vireo.core.assembly.pose import Floats, Pose
from vireo.core.kernel.overlap import Overlap, common, deepest
from vireo.core.kernel.shape import Body
from vireo.core.naming import Topology

#: Boxes are shrunk by this (mm) so that touching neighbours are not even looked at.
SHRINK = 1e-6
#: Overlaps thinner than this (mm) are taken for contact: the kernel's own tolerance is 1e-7.
CONTACT = 1e-6


@dataclass(frozen=True)
class Item:
    """A solid where it stands. `key` is its content; equal keys share what was computed."""

    id: str
    key: str
    pose: Pose
    low: Floats
    high: Floats


@dataclass(frozen=True)
class Clash:
    """`volume` mm3 and `thickness` mm (2 V / A); `at` centre in mm; faces by name of a and b.

    `certain` is False when the volume is only a bound from samples of the faces.
    """

    a: str
    b: str
    volume: float
    thickness: float
    at: tuple[float, float, float]
    faces_a: tuple[str, ...]
    faces_b: tuple[str, ...]
    certain: bool = True


@dataclass
class Interference:
    clashes: list[Clash] = field(default_factory=list)
    pairs: int = 0
    near: int = 0
    computed: int = 0


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


def _relative(a: Pose, b: Pose) -> tuple[Pose, tuple[float, ...]]:
    relative = a.inverse() @ b
    q = relative.q if relative.q[0] >= 0 else -relative.q
    rounded = np.round(np.concatenate([relative.p, q]), 6) + 0.0
    return relative, tuple(float(v) for v in rounded)


def find_interference(
    items: Sequence[Item],
    body: Callable[[str], Body],
    topology: Callable[[str], Topology],
    skip: Callable[[Item, Item], bool] = lambda a, b: False,
    progress: Callable[[float, str], None] = lambda share, stage: None,
    found_one: Callable[[Clash], None] = lambda clash: None,
) -> Interference:
    """All overlapping pairs. `body` and `topology` give a solid and its faces by content key;
    `found_one` is told each as it is found."""
    pairs = [(i, j) for i, j in near_pairs(items) if not skip(items[i], items[j])]
    found = Interference(pairs=len(items) * (len(items) - 1) // 2, near=len(pairs))
    known: dict[tuple[str, str, tuple[float, ...]], Overlap | None] = {}
    for n, (i, j) in enumerate(pairs):
        a, b = items[i], items[j]
        if a.key > b.key:
            a, b = b, a
        relative, rounded = _relative(a.pose, b.pose)
        key = (a.key, b.key, rounded)
        if key not in known:
            found.computed += 1
            known[key] = overlap_of(
                body(a.key), body(b.key), relative, topology(a.key), topology(b.key)
            )
        overlap = known[key]
        if overlap is not None:
            at = a.pose.out(np.array(overlap.at))
            found.clashes.append(
                Clash(a.id, b.id, overlap.volume, overlap.thickness,
                      (float(at[0]), float(at[1]), float(at[2])),
                      overlap.faces_a, overlap.faces_b, overlap.certain)
            )  # fmt: skip
            found_one(found.clashes[-1])
        if n % 8 == 0:
            progress((n + 1) / len(pairs), f"{n + 1} of {len(pairs)} near pairs")
    found.clashes.sort(key=lambda c: -c.volume)
    return found


def overlap_of(
    a: Body, b: Body, relative: Pose, faces_a: Topology, faces_b: Topology
) -> Overlap | None:
    """Overlap of `a` with `b` standing at `relative` to it, or None when they only touch."""
    overlap = common(a, b, relative.rotation, relative.p)
    if overlap is not None and overlap.thickness > CONTACT:
        return overlap
    if not nearly_coaxial(faces_a, faces_b, relative):
        return None
    return deepest(a, b, relative.rotation, relative.p, CONTACT)


def nearly_coaxial(a: Topology, b: Topology, relative: Pose) -> bool:
    """Whether round faces of both share an axis almost, but not within the kernel's tolerance."""
    r = relative.rotation
    for f in a.faces:
        if f.kind not in ("cylinder", "cone") or f.direction is None:
            continue
        u, o = np.array(f.direction), np.array(f.origin)
        for g in b.faces:
            if g.kind not in ("cylinder", "cone") or g.direction is None:
                continue
            v = r @ np.array(g.direction)
            sine = float(np.linalg.norm(np.cross(u, v)))
            if sine > 0.03:
                continue
            between = relative.out(np.array(g.origin)) - o
            away = float(np.linalg.norm(between - (between @ u) * u))
            if away > 0.05:
                continue
            if sine > 1e-9 or away > 3e-7:
                return True
    return False


def thickness_of(volume: float, area: float) -> float:
    """Mean thickness 2 V / A of a thin solid: tells a press fit from a fat clash."""
    return 2.0 * volume / area if area > 0 else math.inf
