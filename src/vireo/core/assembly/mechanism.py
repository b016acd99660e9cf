"""A mechanism: members with poses, pairs between them. What the solver works on."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from vireo.core.assembly.kinds import PAIR_KINDS
from vireo.core.assembly.pose import Floats, Pose, rotation_of, turned


@dataclass(frozen=True)
class Member:
    """A rigid component. `size` in mm makes angles and lengths comparable."""

    id: str
    pose: Pose
    anchored: bool = False
    size: float = 100.0


@dataclass(frozen=True)
class Pair:
    """A joint between members `a` and `b`, each end a point and axes in its member.

    Axes of `b` are already turned so that z of both ends point the same way when joined.
    `offset` is along z (mm); `least`, `most` and `value` are the joint's own coordinate: rad
    for a revolute, mm for a slider.
    """

    id: str
    kind: str
    a: int
    b: int
    origin_a: Floats
    axes_a: Floats
    origin_b: Floats
    axes_b: Floats
    offset: float = 0.0
    least: float | None = None
    most: float | None = None
    value: float | None = None


@dataclass(frozen=True)
class Mechanism:
    members: tuple[Member, ...]
    pairs: tuple[Pair, ...]

    def index(self, id: str) -> int:
        return next(i for i, m in enumerate(self.members) if m.id == id)

    def with_value(self, pair: str, value: float | None) -> Mechanism:
        """The same with one joint held at a value (or let free).

        What hangs on the joint is carried along as one piece, so that solving from there
        leaves the other joints where they are.
        """
        index = next(i for i, p in enumerate(self.pairs) if p.id == pair)
        held = Pair(**{**vars(self.pairs[index]), "value": value})
        pairs = (*self.pairs[:index], held, *self.pairs[index + 1 :])
        poses = [m.pose for m in self.members] if value is None else self._carried(held, value)
        return Mechanism(self.members, pairs).with_poses(poses)

    def _carried(self, pair: Pair, value: float) -> list[Pose]:
        """Poses with the side of a joint that is not held turned or shifted to `value`."""
        poses = [m.pose for m in self.members]
        now = self.coordinate(pair, poses)
        far = self._side(pair, pair.b)
        if now is None or pair.a in far:  # in a closed loop nothing hangs on one joint alone
            return poses
        step = value - now
        if any(self.members[i].anchored for i in far):
            far, step = self._side(pair, pair.a), -step
        if any(self.members[i].anchored for i in far):
            return poses
        a = poses[pair.a]
        axis, through = a.rotation @ pair.axes_a[:, 2], a.out(pair.origin_a)
        if PAIR_KINDS[pair.kind].coordinate == "angle":
            q = turned(np.array([1.0, 0.0, 0.0, 0.0]), axis * math.remainder(step, 2 * math.pi))
            move = Pose(through - rotation_of(q) @ through, q)
        else:
            move = Pose(axis * step, np.array([1.0, 0.0, 0.0, 0.0]))
        return [move @ pose if i in far else pose for i, pose in enumerate(poses)]

    def _side(self, without: Pair, start: int) -> set[int]:
        """Members joined to `start` by other pairs than `without`."""
        found, front = {start}, [start]
        while front:
            here = front.pop()
            for p in self.pairs:
                if p.id != without.id and here in (p.a, p.b):
                    other = p.b if p.a == here else p.a
                    if other not in found:
                        found.add(other)
                        front.append(other)
        return found

    def with_poses(self, poses: Sequence[Pose]) -> Mechanism:
        members = tuple(
            Member(m.id, pose, m.anchored, m.size)
            for m, pose in zip(self.members, poses, strict=True)
        )
        return Mechanism(members, self.pairs)

    def coordinate(self, pair: Pair, poses: Sequence[Pose]) -> float | None:
        """The joint's own coordinate at given poses: rad or mm; None for a rigid one."""
        kind = PAIR_KINDS[pair.kind]
        if kind.coordinate is None:
            return None
        a, b = poses[pair.a], poses[pair.b]
        ra, rb = a.rotation @ pair.axes_a, b.rotation @ pair.axes_b
        if kind.coordinate == "angle":
            x, y = float(rb[:, 0] @ ra[:, 0]), float(rb[:, 0] @ ra[:, 1])
            return float(np.arctan2(y, x))
        between = b.out(pair.origin_b) - a.out(pair.origin_a)
        return float(between @ ra[:, 2]) - pair.offset

    def to_json(self) -> dict[str, Any]:
        return {
            "members": [
                {"id": m.id, "p": m.pose.p.tolist(), "q": m.pose.q.tolist(),
                 "anchored": m.anchored, "size": m.size}
                for m in self.members
            ],
            "pairs": [
                {k: v.tolist() if isinstance(v, np.ndarray) else v for k, v in vars(p).items()}
                for p in self.pairs
            ],
        }  # fmt: skip

    @staticmethod
    def from_json(data: dict[str, Any]) -> Mechanism:
        members = tuple(
            Member(m["id"], Pose(np.array(m["p"]), np.array(m["q"])), m["anchored"], m["size"])
            for m in data["members"]
        )
        arrays = ("origin_a", "axes_a", "origin_b", "axes_b")
        made: list[dict[str, Any]] = [
            {k: np.array(v) if k in arrays else v for k, v in p.items()} for p in data["pairs"]
        ]
        pairs = tuple(Pair(**p) for p in made)
        return Mechanism(members, pairs)
