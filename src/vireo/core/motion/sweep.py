"""Drive one joint through its range and stop at the first clash.

Between two poses nothing can meet while every pair is further apart than its members move;
where that cannot be said the step is halved. So thin parts are not stepped over, and the
place of first contact comes out as finely as asked.

What touches at the start (a pin in its bore) is watched by its true overlap: at every sample,
and between them whenever faces meet that did not at the start.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import fcl
import numpy as np
from numpy.typing import NDArray

from vireo.core.assembly.mechanism import Mechanism
from vireo.core.assembly.pose import Floats, Pose
from vireo.core.assembly.solver import solve
from vireo.core.quantity import ANGLE
from vireo.core.trouble import Trouble

#: A pose is refined until nothing moves further than this (mm).
FINE = 0.002


class MotionTrouble(Trouble):
    code = "motion"


@dataclass(frozen=True)
class Runner:
    """A leaf that moves with a member: triangles in mm in the member's coordinates, and the face
    each belongs to."""

    id: str
    member: int
    points: Floats
    triangles: NDArray[np.int32]
    faces: NDArray[np.int32] | None = None


@dataclass
class Sweep:
    """Coordinates in rad or mm. `values`, `clearance` (mm, least gap of what moves to each other
    and neither touches at the start nor shares a joint; inf of none) and `poses` run together; `clash_at` is where it
    stopped, `pair` which leaves met."""

    values: list[float] = field(default_factory=list)
    clearance: list[float] = field(default_factory=list)
    poses: list[list[Pose]] = field(default_factory=list)
    clash_at: float | None = None
    pair: tuple[str, str] | None = None
    stuck_at: float | None = None


@dataclass(frozen=True)
class Shared:
    """What two leaves truly share: volume (mm3) and how deep they are in each other (mm)."""

    volume: float
    depth: float


#: What two leaves share at given poses of the members, None when they only touch.
Truth = Callable[[str, str, Mapping[int, Pose]], Shared | None]

#: A fit by design (pressed, or drawn at one size) is no deeper than this (mm).
FIT = 0.05


#: A joint turns no further than this (rad) between two poses that are looked at.
WIDEST = math.pi / 6
#: Leaves nearer than this (mm) at the start touch: as close as their triangles tell.
TOUCH = 0.01


@dataclass
class Contact:
    """A pair that touches at the start: what it shares by design, and which faces meet so."""

    volume: float
    known: set[tuple[int, int]]


#: All that leaves move with, from the poses of the members: these, and what goes by several of them.
Spread = Callable[[Sequence[Pose]], Sequence[Pose]]


class _Scene:
    def __init__(self, runners: Sequence[Runner], spread: Spread) -> None:
        self.runners = runners
        self.spread = spread
        self.objects = []
        for r in runners:
            model = fcl.BVHModel()
            model.beginModel(len(r.points), len(r.triangles))
            model.addSubModel(r.points, r.triangles)
            model.endModel()
            self.objects.append(fcl.CollisionObject(model, fcl.Transform()))
        self.corners = [_corners(r.points) for r in runners]
        self.pairs = [
            (i, j)
            for i in range(len(runners))
            for j in range(i + 1, len(runners))
            if runners[i].member != runners[j].member
        ]

    def place(self, poses: Sequence[Pose]) -> None:
        poses = self.spread(poses)
        for o, r in zip(self.objects, self.runners, strict=True):
            pose = poses[r.member]
            o.setTransform(fcl.Transform(pose.rotation, pose.p))

    def boxes(self, poses: Sequence[Pose]) -> tuple[Floats, Floats]:
        poses = self.spread(poses)
        every = [
            c @ poses[r.member].rotation.T + poses[r.member].p
            for c, r in zip(self.corners, self.runners, strict=True)
        ]
        return np.array([e.min(axis=0) for e in every]), np.array([e.max(axis=0) for e in every])

    def touching(
        self, poses: Sequence[Pose], pairs: Sequence[tuple[int, int]]
    ) -> list[tuple[int, int]]:
        """The pairs whose triangles meet at these poses."""
        self.place(poses)
        low, high = self.boxes(poses)
        return [
            (i, j)
            for i, j in pairs
            if not (np.any(low[i] > high[j]) or np.any(low[j] > high[i]))
            and fcl.collide(
                self.objects[i], self.objects[j], fcl.CollisionRequest(), fcl.CollisionResult()
            )
        ]

    def faces_meeting(self, i: int, j: int) -> set[tuple[int, int]]:
        """Which faces of two placed leaves have triangles that meet."""
        found = fcl.CollisionResult()
        asked = fcl.CollisionRequest(num_max_contacts=4000, enable_contact=True)
        fcl.collide(self.objects[i], self.objects[j], asked, found)
        one, two = self.runners[i].faces, self.runners[j].faces
        if one is None or two is None:
            return {(0, 0)} if found.contacts else set()
        return {(int(one[c.b1]), int(two[c.b2])) for c in found.contacts}

    def near(
        self, poses: Sequence[Pose], reach: float, pairs: Sequence[tuple[int, int]]
    ) -> list[tuple[int, int, float]]:
        """Of some pairs those nearer than `reach` (mm) with their gaps."""
        bounds = self._bounds(poses, pairs)
        found = [(i, j, self._gap(i, j)) for (i, j), b in zip(pairs, bounds, strict=True)
                 if b <= reach]  # fmt: skip
        return [(i, j, gap) for i, j, gap in found if gap <= reach]

    def least(self, poses: Sequence[Pose], pairs: Sequence[tuple[int, int]]) -> float:
        """Least gap of some pairs in mm, inf of none."""
        least = math.inf
        # The nearest boxes first, so that most pairs need not be asked.
        for bound, (i, j) in sorted(zip(self._bounds(poses, pairs), pairs, strict=True)):
            if bound > least:
                break
            least = min(least, self._gap(i, j))
        return least

    def moving(self, *frames: Sequence[Pose]) -> list[tuple[int, int]]:
        """The pairs that change their place to each other over some poses."""
        known: dict[tuple[int, int], bool] = {}
        found = []
        frames = tuple(self.spread(poses) for poses in frames)
        for i, j in self.pairs:
            members = (self.runners[i].member, self.runners[j].member)
            if members not in known:
                known[members] = _moves(*members, frames)
            if known[members]:
                found.append((i, j))
        return found

    def _bounds(self, poses: Sequence[Pose], pairs: Sequence[tuple[int, int]]) -> list[float]:
        """What boxes of pairs are apart at least; puts the leaves at their poses."""
        self.place(poses)
        low, high = self.boxes(poses)
        return [
            float(np.linalg.norm(np.maximum(np.maximum(low[i] - high[j], low[j] - high[i]), 0.0)))
            for i, j in pairs
        ]

    def _gap(self, i: int, j: int) -> float:
        asked, found = fcl.DistanceRequest(), fcl.DistanceResult()
        return max(float(fcl.distance(self.objects[i], self.objects[j], asked, found)), 0.0)

    def travel(self, a: Sequence[Pose], b: Sequence[Pose]) -> list[float]:
        """Furthest any corner of each runner's box moves between two poses."""
        found = []
        a, b = self.spread(a), self.spread(b)
        for c, r in zip(self.corners, self.runners, strict=True):
            one = c @ a[r.member].rotation.T + a[r.member].p
            two = c @ b[r.member].rotation.T + b[r.member].p
            found.append(float(np.linalg.norm(one - two, axis=1).max()))
        return found


def _moves(a: int, b: int, frames: Sequence[Sequence[Pose]]) -> bool:
    """Whether two members change their place to each other."""
    first, *rest = (poses[a].inverse() @ poses[b] for poses in frames)
    return any(
        np.linalg.norm(r.p - first.p) > 1e-6 or abs(abs(float(r.q @ first.q)) - 1.0) > 1e-12
        for r in rest
    )


def _corners(points: Floats) -> Floats:
    low, high = points.min(axis=0), points.max(axis=0)
    return np.array([[(low, high)[(k >> i) & 1][i] for i in range(3)] for k in range(8)])


def sweep(
    mechanism: Mechanism,
    runners: Sequence[Runner],
    pair: str,
    coordinate: str,
    start: float,
    end: float,
    steps: int,
    *,
    truth: Truth = lambda a, b, poses: Shared(1.0, 1.0),
    joined: Callable[[str, str], bool] = lambda a, b: False,
    spread: Spread = lambda poses: poses,
    progress: Callable[[float, str], None] = lambda share, stage: None,
) -> Sweep:
    """Drive a coordinate of joint `pair` from `start` to `end` (rad or mm).

    Triangles only suspect: `truth` decides what two leaves really share at given poses. Pairs
    that touch at the start without overlapping stay under watch, as do those for which `joined`
    holds and whose overlap there is a fit. `spread` adds to the poses of the members those of what
    goes by several; runners and `truth` count among these. Raises MotionTrouble when the mechanism cannot stand
    at the start.
    """
    first = solve(mechanism.with_value(pair, coordinate, start), diagnose=False)
    if not first.holds:
        raise MotionTrouble("the mechanism cannot stand where the motion begins")
    scene = _Scene(runners, spread)
    found = Sweep()
    state = (start, first.poses)
    contacts: dict[tuple[int, int], Contact] = {}

    def shared(i: int, j: int, poses: Sequence[Pose]) -> Shared | None:
        return truth(runners[i].id, runners[j].id, dict(enumerate(scene.spread(poses))))

    def clash(value: float, poses: list[Pose], hit: tuple[int, int]) -> None:
        found.clash_at = value
        found.pair = (runners[hit[0]].id, runners[hit[1]].id)
        found.values.append(value)
        found.poses.append(poses)

    close = [(i, j) for i, j, _ in scene.near(first.poses, TOUCH, scene.pairs)]
    for i, j in scene.touching(first.poses, scene.pairs):
        both = shared(i, j, first.poses)
        fit = joined(runners[i].id, runners[j].id) and (both is None or both.depth <= FIT)
        if both is not None and not fit:
            clash(start, first.poses, (i, j))
            found.clearance = [0.0]
            return found
        contacts[i, j] = Contact(both.volume if both else 0.0, scene.faces_meeting(i, j))
    for i, j in close:
        contacts.setdefault((i, j), Contact(0.0, scene.faces_meeting(i, j)))
    scene.pairs = [p for p in scene.pairs if p not in contacts]
    found.values, found.poses = [start], [first.poses]

    def pose_at(value: float, near: Sequence[Pose]) -> list[Pose] | None:
        solution = solve(
            mechanism.with_poses(near).with_value(pair, coordinate, value), diagnose=False
        )
        return solution.poses if solution.holds else None

    def meeting(poses: Sequence[Pose], pairs: Sequence[tuple[int, int]]) -> tuple[int, int] | None:
        """One of some pairs that came together and truly overlaps."""
        hits = scene.touching(poses, pairs)
        return next(((i, j) for i, j in hits if shared(i, j, poses) is not None), None)

    def deeper(poses: Sequence[Pose], every: bool) -> tuple[int, int] | None:
        """A pair in contact that shares more than by design: all of them asked, or those where
        faces meet that did not at the start."""
        for i, j in scene.touching(poses, list(contacts)):
            contact = contacts[i, j]
            faces = scene.faces_meeting(i, j)
            if every or faces - contact.known:
                both = shared(i, j, poses)
                if both is not None and both.volume > 1.05 * contact.volume + 1e-4:
                    return i, j
                if every:
                    contact.known |= faces
        return None

    def first_deeper(
        a: tuple[float, list[Pose]], b: tuple[float, list[Pose]]
    ) -> tuple[float, list[Pose], tuple[int, int]]:
        """By halving: where between a clear pose and one that is too deep it begins."""
        hit = deeper(b[1], every=True)
        assert hit is not None
        while abs(b[0] - a[0]) > 1e-6 and max(scene.travel(a[1], b[1])) > FINE:
            value = 0.5 * (a[0] + b[0])
            poses = pose_at(value, a[1])
            if poses is None:
                break
            now = deeper(poses, every=True)
            if now is None:
                a = (value, poses)
            else:
                b, hit = (value, poses), now
        return b[0], b[1], hit

    def advance(
        a: tuple[float, list[Pose]], b: float, depth: int
    ) -> tuple[float, list[Pose]] | None:
        """Move on to `b`, or note the clash or the jam and give None."""
        poses = pose_at(b, a[1])
        if poses is None:
            if depth > 26 or abs(b - a[0]) < 1e-6:
                found.stuck_at = a[0]
                return None
            half = advance(a, 0.5 * (a[0] + b), depth + 1)
            return advance(half, b, depth + 1) if half is not None else None
        travel = scene.travel(a[1], poses)
        furthest = max(travel, default=0.0)
        # What does not move to each other cannot meet.
        moving = scene.moving(a[1], poses)
        near = scene.near(a[1], 2 * furthest, moving)
        risky = any(gap <= travel[i] + travel[j] for i, j, gap in near)
        if not risky:
            if deeper(poses, every=False) is None:
                return b, poses
            clash(*first_deeper(a, (b, poses)))
            return None
        if furthest <= FINE or depth > 30:
            hit = meeting(poses, moving) or deeper(poses, every=False)
            if hit is None:
                return b, poses
            clash(b, poses, hit)
            return None
        # A pair in lasting contact would halve for ever: where both ends are clear of true
        # overlap and the step is short already, it is taken.
        if furthest < 0.25 and meeting(poses, moving) is None:
            middle = pose_at(0.5 * (a[0] + b), a[1])
            if middle is not None and meeting(middle, moving) is None:
                return b, poses
        half = advance(a, 0.5 * (a[0] + b), depth + 1)
        return advance(half, b, depth + 1) if half is not None else None

    driven = mechanism.pair(pair)
    if driven and (c := driven.joint.coordinate(coordinate)) and c.dimension == ANGLE:
        # A whole turn at once would look like none.
        steps = max(steps, math.ceil(abs(end - start) / WIDEST))
    for k in range(1, steps + 1):
        value = start + (end - start) * k / steps
        moved = advance(state, value, 0)
        progress(k / steps, f"step {k} of {steps}")
        if moved is None:
            break
        if deeper(moved[1], every=True) is not None:
            clash(*first_deeper(state, moved))
            break
        state = moved
        found.values.append(state[0])
        found.poses.append(state[1])
    # What slides in its joint is near by design, and what stands still to each other stays as near
    # as it is: the curve tells of what else comes near.
    movers = [
        (i, j) for i, j in scene.moving(*found.poses) if not joined(runners[i].id, runners[j].id)
    ]
    found.clearance = [scene.least(poses, movers) for poses in found.poses]
    if found.clash_at is not None:
        found.clearance[-1] = 0.0
    return found
