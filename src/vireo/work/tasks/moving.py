"""An assembly ready to be moved by one of its joints: what moves, and what its parts truly share."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

import numpy as np

from vireo.core.assembly.build import Leaf
from vireo.core.assembly.mechanism import Mechanism, Pair
from vireo.core.assembly.pose import Floats, Pose
from vireo.core.declared.joint import Coordinate, driven
from vireo.core.fit.classes import allowed_in, stands_under
from vireo.core.fit.pairs import relative_of
from vireo.core.fit.verdict import Verdict, overlap_of, overlaps
from vireo.core.geometry import Triple
from vireo.core.kernel.mesh import Mesh, tessellate
from vireo.core.kernel.nearest import nearest
from vireo.core.kernel.place import located
from vireo.core.lately import Lately
from vireo.core.motion.course import Course, one
from vireo.core.motion.dragging import Dragging
from vireo.core.motion.envelope import Skin
from vireo.core.motion.scene import Duo, Scene
from vireo.core.motion.sweep import FIT, Runner, Shared, Sweep, sweep
from vireo.core.quantity import Quantity, evaluate_parameters
from vireo.core.trouble import BadInput
from vireo.work.tasks.assembly import put_together, topology_of_key
from vireo.work.tasks.fit import Looker
from vireo.work.worker import Bench

_MESHES = Lately[str, Mesh](512)
_Stand = tuple[str, str, tuple[float, ...]]


class Movers:
    """All of an assembly that may move, and what its parts are to each other then."""

    def __init__(self, bench: Bench, request: dict[str, Any]) -> None:
        self.built = built = put_together(bench, request)
        self._looker = Looker(bench)
        self.mechanism = built.mechanism.with_poses(built.solution.poses)
        self._leaves = {leaf.id: leaf for leaf in built.leaves if leaf.solid.form == "solid"}
        member = {m.id: i for i, m in enumerate(self.mechanism.members)}
        self._copies = [leaf for leaf in self._leaves.values() if leaf.carried]
        # A copy goes by what it was made of and by what it is about: a thing of its own to the sweep.
        self._moves = {leaf.id: member[leaf.member] for leaf in self._leaves.values()}
        self._moves |= {leaf.id: len(member) + k for k, leaf in enumerate(self._copies)}
        self._inner: dict[str, Pose] = {}
        base = self.spread(built.solution.poses)
        self._runners = [self._runner(bench, leaf, base) for leaf in self._leaves.values()]
        self.scene = Scene(self._runners, self.spread)
        self._joined = {frozenset((p.a, p.b)) for p in self.mechanism.pairs}
        self.values: dict[str, Quantity] = {
            n: e.value
            for n, e in evaluate_parameters(built.document.parameters).items()
            if e.value is not None
        }
        self._meant = allowed_in(built.document, self.values)
        self._known: dict[_Stand, Verdict | None] = {}
        self._quick: dict[_Stand, tuple[float, float] | None] = {}

    def _runner(self, bench: Bench, leaf: Leaf, base: Sequence[Pose]) -> Runner:
        i = self._moves[leaf.id]
        inner = self._inner[leaf.id] = base[i].inverse() @ leaf.pose
        key = leaf.solid.key
        m = _MESHES.get(key, lambda: tessellate(bench.cache.body(key), None, 0.3))
        points = m.points @ inner.rotation.T + inner.p
        counts = np.diff(m.face_starts)
        faces = np.repeat(np.arange(len(counts), dtype=np.int32), counts)
        top = topology_of_key(bench, key)
        return Runner(leaf.id, i, points, m.triangles, faces, m.deflection, top, inner)

    def spread(self, poses: Sequence[Pose]) -> list[Pose]:
        """Poses of all that moves: of the members, and of copies."""
        return [*poses, *(self.built.stand(leaf, poses) for leaf in self._copies)]

    def frame(self, poses: Sequence[Pose]) -> dict[str, Any]:
        """A stand as the screen gets it."""
        placed = self.built.mechanism.placements(poses)
        return {id: p.to_json() for id, p in placed.items()}

    def _standing(self, a: str, b: str, poses: Mapping[int, Pose]) -> tuple[_Stand, Pose, Pose]:
        one, two = (poses[self._moves[k]] @ self._inner[k] for k in (a, b))
        relative, rounded = relative_of(one, two)
        return (self._leaves[a].solid.key, self._leaves[b].solid.key, rounded), relative, one

    def overlap(self, a: str, b: str, poses: Mapping[int, Pose]) -> tuple[Verdict | None, Pose]:
        """What two leaves share at poses of all that moves, and where the first stands."""
        key, relative, one = self._standing(a, b, poses)
        if key not in self._known:
            self._known[key] = overlap_of(
                self._looker.shaped(key[0]), self._looker.shaped(key[1]), relative
            )
        return self._known[key], one

    def _truth(self, a: str, b: str, poses: Mapping[int, Pose], closely: bool) -> Shared | None:
        if closely:
            found, _ = self.overlap(a, b, poses)
            return Shared(found.volume, found.depth) if found is not None else None
        key, relative, _ = self._standing(a, b, poses)
        if key not in self._quick:
            self._quick[key] = overlaps(
                self._looker.shaped(key[0]), self._looker.shaped(key[1]), relative
            )
        both = self._quick[key]
        return Shared(*both) if both is not None else None

    def _fits(self, a: str, b: str) -> float | None:
        mine = next((m.depth for m in self._meant if m.speaks_of(a, b)), None)
        together = frozenset((self._moves[a], self._moves[b])) in self._joined
        return FIT if mine is None and together else mine

    def followed(
        self, course: Course, start: float, end: float, steps: int, *, on: bool,
        progress: Callable[[float, str], None],
    ) -> Sweep:  # fmt: skip
        """A course with what clashes on it (see `sweep`)."""
        return sweep(
            course, self._runners, start, end, steps,
            truth=self._truth, fits=self._fits, spread=self.spread, on=on, progress=progress,
        )  # fmt: skip

    def dragging(self) -> Dragging:
        """The assembly as it stands, to be dragged as far as nothing is met."""
        return Dragging(
            self.mechanism, self._runners, self.built.solution.poses,
            truth=self._truth, fits=self._fits, spread=self.spread,
        )  # fmt: skip

    def faces(self, a: str, b: str, poses: Sequence[Pose]) -> tuple[list[str], list[str]]:
        """The faces by which two leaves are nearest to each other at poses of the members."""
        every = self.spread(poses)
        number = {r.id: k for k, r in enumerate(self._runners)}
        pair = (number[a], number[b])
        reach = self.scene.gap(pair, every) + self.scene.unsure(pair)
        found = self.scene.beside(pair, every, reach + 0.02)
        names = []
        for k, faces in zip(pair, found, strict=True):
            top = self._runners[k].topology
            names.append([top.faces[f].name for f in sorted(faces)] if top else [])
        return names[0], names[1]

    def under(self, path: str) -> list[str]:
        """The leaves of what stands at a path of component ids. Raises BadInput where nothing does."""
        found = [id for id in self._leaves if stands_under(id, path)]
        if not found:
            raise BadInput("a component that is followed has no solid body here, or is gone")
        return found

    def skins(self, ids: Sequence[str]) -> list[Skin]:
        """The triangles of leaves in what they move with."""
        of = {r.id: r for r in self._runners}
        return [Skin(of[i].points, of[i].triangles, of[i].deflection) for i in ids]

    def carriers(self, ids: Sequence[str], poses: Sequence[Pose]) -> list[Pose]:
        """Where what leaves move with stands at poses of the members."""
        every = self.spread(poses)
        return [every[self._moves[i]] for i in ids]

    def rough_gap(
        self, ones: Sequence[str], others: Sequence[str], poses: Sequence[Pose]
    ) -> tuple[float, float]:
        """The least distance of the triangles of some leaves to those of others at poses of the members, and
        by how much that of the true faces may be less (mm). Quick."""
        every = self.spread(poses)
        found = self._roughly(ones, others, every)
        least = found[0][0]
        sure = min(
            self.scene.surely(pair, every, closely=True) for gap, pair in found
            if gap - self.scene.unsure(pair) <= least
        )  # fmt: skip
        if any(self.scene.enclosed(pair, every) for _, pair in found):
            return least, np.inf
        return least, least - min(sure, least)

    def _roughly(
        self, ones: Sequence[str], others: Sequence[str], every: Sequence[Pose]
    ) -> list[tuple[float, Duo]]:
        """Pairs by the gaps of their triangles, least first, but for those that are surely further."""
        number = {r.id: k for k, r in enumerate(self._runners)}
        pairs = [(number[a], number[b]) for a in ones for b in others]
        bounds = self.scene.bounds(pairs, every)
        found: list[tuple[float, Duo]] = []
        least = np.inf
        for k in np.argsort(bounds):
            pair = pairs[int(k)]
            if bounds[k] > least + 2 * self.scene.unsure(pair):
                break
            gap = self.scene.gap(pair, every)
            found.append((gap, pair))
            least = min(least, gap)
        return sorted(found)

    def gap(
        self, ones: Sequence[str], others: Sequence[str], poses: Sequence[Pose]
    ) -> tuple[float, tuple[Triple, Triple] | None]:
        """The least distance (mm) of the true faces of some leaves to those of others at poses of the
        members, and where it is; nothing where they overlap."""
        every = self.spread(poses)
        standing = dict(enumerate(every))
        least, where = np.inf, None
        for rough, pair in self._roughly(ones, others, every):
            unsure = self.scene.unsure(pair)
            if rough - unsure > least:
                break
            a, b = (self._runners[i].id for i in pair)
            inside = rough <= unsure or self.scene.enclosed(pair, every)
            if inside and self._truth(a, b, standing, False) is not None:
                return 0.0, None
            key, relative, pose = self._standing(a, b, standing)
            one, two = (self._looker.shaped(x).body.shape for x in key[:2])
            found = nearest(one, located(two, relative.rotation, relative.p))
            if found.distance < least:
                p, q = (pose.out(np.array(x)) for x in (found.a, found.b))
                least, where = found.distance, (_triple(p), _triple(q))
        return float(least), where


class Moving(Movers):
    """A coordinate of a joint of an assembly, to be driven; its first when none is named. Raises BadInput
    for a joint that cannot be."""

    def __init__(
        self, bench: Bench, request: dict[str, Any], joint: str, coordinate: str | None
    ) -> None:
        super().__init__(bench, request)
        self.pair, self.coordinate = coordinate_of(self.mechanism, joint, coordinate)
        self.mechanism = self.mechanism.with_value(self.pair.id, self.coordinate.name, None)

    @property
    def now(self) -> float:
        """Where the coordinate stands: rad or mm."""
        return self.built.mechanism.coordinates(self.pair, self.built.solution.poses)[
            self.coordinate.name
        ]

    def swept(
        self, start: float, end: float, steps: int, *, on: bool,
        progress: Callable[[float, str], None],
    ) -> Sweep:  # fmt: skip
        """The coordinate driven from one value to another."""
        course = one(self.mechanism, self.pair.id, self.coordinate.name)
        return self.followed(course, start, end, steps, on=on, progress=progress)


def coordinate_of(
    mechanism: Mechanism, joint: str, coordinate: str | None
) -> tuple[Pair, Coordinate]:
    """A joint and its coordinate, the first when none is named. Raises BadInput."""
    pair = mechanism.pair(joint)
    if pair is None:
        raise BadInput("this joint cannot be driven: it is asleep or its ends are lost")
    return pair, driven(pair.joint, pair.kind, coordinate)


def _triple(p: Floats) -> Triple:
    return (float(p[0]), float(p[1]), float(p[2]))
