"""What moves, as triangles: which pairs come near each other, and how far they can have come between
two stands."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vireo.core.assembly.pose import Floats, Pose
from vireo.core.motion.surfaces import Surfaces
from vireo.core.naming import Topology
from vireo.core.triangles.gaps import Soup, gap, nearest_places

Duo = tuple[int, int]


@dataclass(frozen=True)
class Runner:
    """A leaf that moves with a member: triangles in mm in the member's coordinates, the face each
    belongs to, and how far they may be off the true faces (mm); what the faces are, and where the leaf
    stands in the member."""

    id: str
    member: int
    points: Floats
    triangles: NDArray[np.int32]
    faces: NDArray[np.int32] | None = None
    deflection: float = 0.0
    topology: Topology | None = None
    inner: Pose | None = None


#: All that leaves move with, from the poses of the members: these, and what goes by several of them.
Spread = Callable[[Sequence[Pose]], Sequence[Pose]]


class Scene:
    """Runners to be placed at poses of the members as often as wanted."""

    def __init__(self, runners: Sequence[Runner], spread: Spread) -> None:
        self.runners, self.spread = runners, spread
        self._solids = [Soup(r.points, r.triangles) for r in runners]
        self._all_corners = np.array([_corners(r.points) for r in runners]).reshape(-1, 8, 3)
        self._lie_in: dict[int, Surfaces] = {}
        self._pieces: dict[tuple[int, frozenset[int]], Soup | None] = {}
        self.pairs: list[Duo] = [
            (i, j)
            for i in range(len(runners))
            for j in range(i + 1, len(runners))
            if runners[i].member != runners[j].member
        ]

    def unsure(self, pair: Duo) -> float:
        """By how much the gap of two meshes may be more than that of the true faces (mm)."""
        i, j = pair
        return 2.0 * (self.runners[i].deflection + self.runners[j].deflection)

    def gap(self, pair: Duo, poses: Sequence[Pose]) -> float:
        """Gap of two leaves at poses of all that moves; the meshes' own."""
        i, j = pair
        self._put(self._solids[i], i, poses)
        self._put(self._solids[j], j, poses)
        return gap(self._solids[i], self._solids[j])

    def surely(self, pair: Duo, poses: Sequence[Pose], closely: bool = False) -> float:
        """What the true faces of two leaves are apart at least (mm); of what is far off as near as triangles
        tell at once, or `closely`. Flat faces are where their triangles
        are, but near curved edges, which bound curved faces too: only those are doubtful."""
        bare, unsure = self.gap(pair, poses), self.unsure(pair)
        if bare == 0.0 or (bare > 2 * unsure and not closely):
            return max(bare - unsure, 0.0)
        least = math.inf
        (flat_a, bent_a), (flat_b, bent_b) = (self._by_form(k) for k in pair)
        for mine, theirs, off in (
            (flat_a, flat_b, 0.0), (bent_a, flat_b, unsure), (flat_a, bent_b, unsure),
            (bent_a, bent_b, unsure),
        ):  # fmt: skip
            if mine is not None and theirs is not None:
                self._put(mine, pair[0], poses)
                self._put(theirs, pair[1], poses)
                least = min(least, gap(mine, theirs) - off)
        return max(least if math.isfinite(least) else bare - unsure, 0.0)

    def _by_form(self, k: int) -> tuple[Soup | None, Soup | None]:
        """The flat faces of a leaf, and the others."""
        runner = self.runners[k]
        if runner.topology is None or runner.faces is None:
            return None, self._solids[k]
        flat = frozenset(f for f, info in enumerate(runner.topology.faces) if info.kind == "plane")
        rest = frozenset(range(len(runner.topology.faces))) - flat
        return self._piece(k, flat), self._piece(k, rest)

    def near(self, pairs: Sequence[Duo], poses: Sequence[Pose], reach: float) -> list[Duo]:
        """Pairs whose boxes are no further apart than `reach`."""
        return [p for p, b in zip(pairs, self.bounds(pairs, poses), strict=True) if b <= reach]

    def bounds(self, pairs: Sequence[Duo], poses: Sequence[Pose]) -> Floats:
        """What the boxes of pairs are apart at least (mm)."""
        if not pairs:
            return np.zeros(0)
        turn, at = self._arrays(poses)
        every = np.einsum("nck,nik->nci", self._all_corners, turn) + at[:, None]
        low, high = every.min(axis=1), every.max(axis=1)
        i, j = np.array(pairs).T
        apart = np.maximum(np.maximum(low[i] - high[j], low[j] - high[i]), 0.0)
        return np.asarray(np.linalg.norm(apart, axis=1))

    def least(self, pairs: Sequence[Duo], poses: Sequence[Pose]) -> tuple[float, Duo | None]:
        """Least gap of some pairs (mm, inf of none), and whose."""
        least, who = math.inf, None
        bounds = self.bounds(pairs, poses)
        # The nearest boxes first, so that most pairs need not be asked.
        for k in np.argsort(bounds):
            if bounds[k] > least:
                break
            found = self.gap(pairs[int(k)], poses)
            if found < least:
                least, who = found, pairs[int(k)]
        return least, who

    def travel(self, pair: Duo, a: Sequence[Pose], b: Sequence[Pose]) -> float:
        """Furthest any corner of either's box moves in the other between two stands (mm)."""
        return float(self.travels([pair], a, b)[0])

    def travels(self, pairs: Sequence[Duo], a: Sequence[Pose], b: Sequence[Pose]) -> Floats:
        """The same of many pairs."""
        if not pairs:
            return np.zeros(0)
        first, second = self._arrays(a), self._arrays(b)
        i, j = np.array(pairs).T
        found = np.full(len(pairs), np.inf)
        # What turns about its own middle moves least as it is seen from the other.
        for own, other in ((i, j), (j, i)):
            seen = [_seen(own, other, stand) for stand in (first, second)]
            (r1, p1), (r2, p2) = seen
            moved = self._all_corners[own] @ np.swapaxes(r1 - r2, 1, 2) + (p1 - p2)[:, None]
            found = np.minimum(found, np.linalg.norm(moved, axis=2).max(axis=1))
        return found

    def _arrays(self, poses: Sequence[Pose]) -> tuple[Floats, Floats]:
        """How the leaves' members stand: rotations (n, 3, 3) and places (n, 3)."""
        return (
            np.array([poses[r.member].rotation for r in self.runners]),
            np.array([poses[r.member].p for r in self.runners]),
        )

    def parted(self, pair: Duo, a: Sequence[Pose], b: Sequence[Pose]) -> bool:
        """Whether a plane parts two leaves all the way between two stands: what slides along another,
        however near, does not meet it."""
        for k, solid in zip(pair, (self._solids[pair[0]], self._solids[pair[1]]), strict=True):
            self._put(solid, k, a)
        p, q = nearest_places(self._solids[pair[0]], self._solids[pair[1]])
        way = a[self.runners[pair[1]].member].rotation.T @ (q - p)
        length = float(np.linalg.norm(way))
        return length > 1e-9 and self._parted_by(pair, a, b, way / length, -self.unsure(pair))

    def kept_off(self, pair: Duo, a: Sequence[Pose], b: Sequence[Pose], way: float) -> bool:
        """Whether two leaves that are clear at a stand cannot meet on the way to another, on which they
        move by `way` (mm): all that is in reach of one of them lies in surfaces of the other that the
        motion leaves as they are, as a drum's vanes turn in a round housing."""
        for own, other in (pair, pair[::-1]):
            runner = self.runners[own]
            if runner.topology is None or runner.inner is None or runner.faces is None:
                continue
            i, j = runner.member, self.runners[other].member
            one, two = a[i].inverse() @ a[j], b[i].inverse() @ b[j]
            move = two @ one.inverse() @ runner.inner
            kept = self._surfaces(own).kept(runner.inner, move)
            rest = frozenset(np.flatnonzero(~kept).tolist())
            if len(rest) == len(runner.topology.faces):
                continue
            piece = self._piece(own, rest)
            if piece is None:
                return True
            room = 0.0
            for stand in (a, b):
                self._put(piece, own, stand)
                self._put(self._solids[other], other, stand)
                room += max(gap(piece, self._solids[other]) - self.unsure(pair), 0.0)
            if room > way:
                return True
        return False

    def lies_on(
        self, pair: Duo, faces: tuple[set[int], set[int]], a: Sequence[Pose], b: Sequence[Pose]
    ) -> bool:
        """Whether one of some flat faces parts two leaves all the way between two stands: they lie on
        each other there, and go on to."""
        for (own, other), which in ((pair[::-1], faces[0]), (pair, faces[1])):
            runner = self.runners[other]
            if runner.topology is None or runner.inner is None:
                continue
            for f in which:
                info = runner.topology.faces[f]
                if info.kind != "plane" or info.direction is None:
                    continue
                way = -(runner.inner.rotation @ np.array(info.direction))
                if self._parted_by((own, other), a, b, way, 1e-6 - self._round(own)):
                    return True
        return False

    def _round(self, k: int) -> float:
        """By how much a leaf may reach beyond its triangles: not at all where all its faces are flat."""
        runner = self.runners[k]
        flat = runner.topology is not None and all(f.kind == "plane" for f in runner.topology.faces)
        return 0.0 if flat else runner.deflection

    def _parted_by(
        self, pair: Duo, a: Sequence[Pose], b: Sequence[Pose], way: Floats, slack: float
    ) -> bool:
        """Whether the first of a pair stays on its side of a plane square to a way (in the second's
        coordinates) that touches the second, between two stands; by `slack` (mm) beyond it or less."""
        own, other = (self.runners[k] for k in pair)
        stands = [s[other.member].inverse() @ s[own.member] for s in (a, b)]
        reach = max(float((own.points @ (s.rotation.T @ way)).max() + s.p @ way) for s in stands)
        turn = stands[0].inverse() @ stands[1]
        sine = float(np.linalg.norm(turn.q[1:]))
        bulge = 0.0
        if sine > 1e-12:
            # Between two stands places run on arcs about the axis: off their chords by no more.
            axis = stands[0].rotation @ (turn.q[1:] / sine)
            angle = 2 * math.asin(min(1.0, sine))
            across = math.sqrt(max(0.0, 1.0 - float(axis @ way) ** 2))
            bulge = self.travel(pair, a, b) * angle / 8 * across * 1.1
        return reach + bulge <= float((other.points @ way).min()) + slack

    def moving(self, pairs: Sequence[Duo], *frames: Sequence[Pose]) -> list[Duo]:
        """The pairs that change their place to each other over some stands."""
        if not pairs:
            return []
        first, *rest = (self._arrays(poses) for poses in frames)
        i, j = np.array(pairs).T
        r0, p0 = _seen(j, i, first)
        moves = np.zeros(len(pairs), dtype=bool)
        for stand in rest:
            r, p = _seen(j, i, stand)
            moves |= np.linalg.norm(p - p0, axis=1) > 1e-6
            moves |= np.abs(r - r0).max(axis=(1, 2)) > 1e-6
        return [pair for pair, moved in zip(pairs, moves, strict=True) if moved]

    def enclosed(self, pair: Duo, poses: Sequence[Pose]) -> bool:
        """Whether the box of either lies within that of the other: it may be wholly inside."""
        boxes = []
        for k in pair:
            pose = poses[self.runners[k].member]
            every = self._all_corners[k] @ pose.rotation.T + pose.p
            boxes.append((every.min(axis=0), every.max(axis=0)))
        return any(
            bool((one[0] >= two[0]).all() and (one[1] <= two[1]).all())
            for one, two in (boxes, boxes[::-1])
        )

    def beside(self, pair: Duo, poses: Sequence[Pose], reach: float) -> tuple[set[int], set[int]]:
        """The faces of either that lie within `reach` (mm) of the other."""
        found: list[set[int]] = []
        for k, other in (pair, pair[::-1]):
            faces = self.runners[k].faces
            numbers = set() if faces is None else set(faces.tolist())
            self._put(self._solids[other], other, poses)
            near = set()
            for f in numbers:
                piece = self._piece(k, frozenset({f}))
                if piece is not None:
                    self._put(piece, k, poses)
                    if gap(piece, self._solids[other]) <= reach:
                        near.add(f)
            found.append(near)
        return found[0], found[1]

    def gap_but(self, pair: Duo, poses: Sequence[Pose], but: tuple[set[int], set[int]]) -> float:
        """Gap of two leaves where some faces of each are left out of account towards each other (mm,
        inf when nothing is left)."""
        least = math.inf
        for k, other, left in ((*pair, but[0]), (*pair[::-1], but[1])):
            faces = self.runners[k].faces
            if faces is None:
                continue
            rest = self._piece(k, frozenset(set(faces.tolist()) - left))
            if rest is None:
                continue
            self._put(rest, k, poses)
            self._put(self._solids[other], other, poses)
            least = min(least, gap(rest, self._solids[other]))
        return least

    def slides_in_itself(
        self, pair: Duo, faces: tuple[set[int], set[int]], a: Sequence[Pose], b: Sequence[Pose]
    ) -> bool:
        """Whether all of some faces lie, between two stands, in the surfaces they lay in: a pin that
        turns in its bore, a slide on its rail. Their contact cannot change then."""
        for k, other, which in ((*pair, faces[0]), (*pair[::-1], faces[1])):
            runner = self.runners[k]
            if runner.topology is None or runner.inner is None:
                return False
            i, j = runner.member, self.runners[other].member
            one, two = a[j].inverse() @ a[i], b[j].inverse() @ b[i]
            kept = self._surfaces(k).kept(one @ runner.inner, two @ runner.inner)
            if not kept[list(which)].all():
                return False
        return True

    def _surfaces(self, k: int) -> Surfaces:
        """The surfaces the faces of a leaf lie in."""
        topology = self.runners[k].topology
        if k not in self._lie_in:
            self._lie_in[k] = Surfaces(topology.faces if topology is not None else ())
        return self._lie_in[k]

    def _piece(self, k: int, faces: frozenset[int]) -> Soup | None:
        """Some faces of a leaf as a mesh of their own; None for none at all."""
        key = (k, faces)
        if key not in self._pieces:
            runner = self.runners[k]
            assert runner.faces is not None
            mine = np.isin(runner.faces, list(faces))
            self._pieces[key] = Soup(runner.points, runner.triangles[mine]) if mine.any() else None
        return self._pieces[key]

    def _put(self, solid: Soup, k: int, poses: Sequence[Pose]) -> None:
        pose = poses[self.runners[k].member]
        solid.place(pose.rotation, pose.p)


def _seen(
    own: NDArray[np.int64], other: NDArray[np.int64], stand: tuple[Floats, Floats]
) -> tuple[Floats, Floats]:
    """How things stand as seen from others: rotations (n, 3, 3) and places (n, 3)."""
    turns, places = stand
    back = np.swapaxes(turns[other], 1, 2)
    at = np.einsum("nij,nj->ni", back, places[own] - places[other])
    return back @ turns[own], at


def _corners(points: Floats) -> Floats:
    low, high = points.min(axis=0), points.max(axis=0)
    return np.array([[(low, high)[(k >> i) & 1][i] for i in range(3)] for k in range(8)])
