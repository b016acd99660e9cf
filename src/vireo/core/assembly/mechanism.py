"""A mechanism: members with poses, pairs between them. What the solver works on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from vireo.core.assembly.kinds import PAIR_KINDS
from vireo.core.assembly.pose import Floats, Pose


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
        """The same with one joint held at a value (or let free)."""
        pairs = tuple(
            Pair(**{**vars(p), "value": value}) if p.id == pair else p for p in self.pairs
        )
        return Mechanism(self.members, pairs)

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
