"""A mechanism: members with poses, pairs between them. What the solver works on."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from vireo.core.assembly.pose import Floats, Pose, rotation_of, turned
from vireo.core.declared.joint import JOINTS, JointKind

#: Least and most of a coordinate; None where there is no limit.
Span = tuple[float | None, float | None]


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
    `offset` is along z (mm); `values` are the coordinates that are held, by name, `limits` the
    least and most of those that have any: rad or mm.
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
    values: Mapping[str, float] = field(default_factory=dict)
    limits: Mapping[str, Span] = field(default_factory=dict)

    @property
    def joint(self) -> JointKind:
        return JOINTS[self.kind]

    def least(self, coordinate: str) -> float | None:
        return self.limits.get(coordinate, (None, None))[0]

    def most(self, coordinate: str) -> float | None:
        return self.limits.get(coordinate, (None, None))[1]


@dataclass(frozen=True)
class Mechanism:
    members: tuple[Member, ...]
    pairs: tuple[Pair, ...]

    def index(self, id: str) -> int:
        return next(i for i, m in enumerate(self.members) if m.id == id)

    def pair(self, id: str) -> Pair | None:
        """The pair of a joint; None when it is asleep or its ends are lost."""
        return next((p for p in self.pairs if p.id == id), None)

    def with_value(self, pair: str, coordinate: str, value: float | None) -> Mechanism:
        """The same with a coordinate of one joint held at a value (or let free).

        What hangs on the joint is carried along as one piece, so that solving from there
        leaves the other joints where they are.
        """
        index = next(i for i, p in enumerate(self.pairs) if p.id == pair)
        kept = {k: v for k, v in self.pairs[index].values.items() if k != coordinate}
        held = replace(
            self.pairs[index], values=kept if value is None else {**kept, coordinate: value}
        )
        pairs = (*self.pairs[:index], held, *self.pairs[index + 1 :])
        poses = [m.pose for m in self.members]
        if value is not None:
            poses = self._carried(held, coordinate, value)
        return Mechanism(self.members, pairs).with_poses(poses)

    def _carried(self, pair: Pair, name: str, value: float) -> list[Pose]:
        """Poses with the side of a joint that is not held moved to `value` of a coordinate."""
        poses = [m.pose for m in self.members]
        far = self._side(pair, pair.b)
        coordinate = pair.joint.coordinate(name)
        if coordinate is None or pair.a in far:
            return poses  # in a closed loop nothing hangs on one joint alone
        step = value - self.coordinates(pair, poses)[name]
        if any(self.members[i].anchored for i in far):
            far, step = self._side(pair, pair.a), -step
        if any(self.members[i].anchored for i in far):
            return poses
        shift, turn = coordinate.motion(step)
        # Turned about the point of b, so that what slides besides stays where it is.
        axes, through = poses[pair.a].rotation @ pair.axes_a, poses[pair.b].out(pair.origin_b)
        q = turned(np.array([1.0, 0.0, 0.0, 0.0]), axes[:, 2] * math.remainder(turn, 2 * math.pi))
        move = Pose(through - rotation_of(q) @ through + axes @ shift, q)
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

    def coordinates(self, pair: Pair, poses: Sequence[Pose]) -> dict[str, float]:
        """The joint's coordinates at given poses, by name: rad or mm."""
        a, b = poses[pair.a], poses[pair.b]
        ra, rb = a.rotation @ pair.axes_a, b.rotation @ pair.axes_b
        between = b.out(pair.origin_b) - a.out(pair.origin_a) - pair.offset * ra[:, 2]
        return {c.name: c.read(ra, rb, between) for c in pair.joint.coordinates}

    def to_json(self) -> dict[str, Any]:
        return {
            "members": [
                {"id": m.id, "p": m.pose.p.tolist(), "q": m.pose.q.tolist(),
                 "anchored": m.anchored, "size": m.size}
                for m in self.members
            ],
            "pairs": [
                {
                    k: v.tolist() if isinstance(v, np.ndarray) else v
                    for k, v in vars(p).items()
                }
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
        pairs = tuple(
            Pair(**{**p, "limits": {k: (v[0], v[1]) for k, v in p["limits"].items()}}) for p in made
        )
        return Mechanism(members, pairs)
