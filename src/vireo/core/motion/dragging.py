"""Dragging that stops where things meet: from one stand to the next, as far as nothing comes into
anything that it was not in when the dragging began."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from vireo.core.assembly.mechanism import Mechanism
from vireo.core.assembly.parts import merged
from vireo.core.assembly.pose import Pose, multiply
from vireo.core.assembly.solver import solve
from vireo.core.motion.course import WIDEST, Key
from vireo.core.motion.scene import Duo, Runner, Spread
from vireo.core.motion.sweep import Fits, Shared, Stand, Sweeping, Truth

#: What has met is tried so far ahead (mm) first: it mostly still does.
_AHEAD = 0.05


@dataclass(frozen=True)
class Dragged:
    """Where dragging came to: the poses of the members; the pair that met, or what is nearest to each
    other now and by how much (mm; inf of nothing)."""

    poses: list[Pose]
    met: tuple[str, str] | None
    nearest: tuple[str, str] | None
    gap: float


class _Between:
    """The way from one stand to another, joints held all along."""

    close = 1e-6

    def __init__(self, mechanism: Mechanism, here: Sequence[Pose], there: Sequence[Pose]) -> None:
        self._mechanism, self.here, self.there = mechanism, list(here), list(there)

    @property
    def mechanism(self) -> Mechanism:
        return self._mechanism

    @property
    def driven(self) -> frozenset[Key]:
        return frozenset()

    def begin(self, value: float) -> list[Pose] | None:
        return self.here

    def poses(
        self, value: float, here: Sequence[Pose], guess: Sequence[Pose] | None = None
    ) -> list[Pose] | None:
        if value >= 1.0:
            return self.there
        between = [_mixed(a, b, value) for a, b in zip(self.here, self.there, strict=True)]
        found = solve(self._mechanism.with_poses(between), diagnose=False)
        return found.poses if found.holds else None

    def count(self, start: float, end: float, steps: int) -> int:
        return steps


def _turned(here: Sequence[Pose], there: Sequence[Pose]) -> float:
    """The largest turn of a member between two stands (rad)."""
    cosines = [min(1.0, abs(float(a.q @ b.q))) for a, b in zip(here, there, strict=True)]
    return max((2 * math.acos(c) for c in cosines), default=0.0)


def _mixed(a: Pose, b: Pose, share: float) -> Pose:
    """A pose between two, the short way round."""
    turn = multiply(b.q, a.q * np.array([1.0, -1.0, -1.0, -1.0]))
    turn = turn if turn[0] >= 0 else -turn
    length = float(np.linalg.norm(turn[1:]))
    if length < 1e-12:
        return Pose(a.p + share * (b.p - a.p), a.q)
    half = math.atan2(length, float(turn[0])) * share
    step = np.array([math.cos(half), *(math.sin(half) * turn[1:] / length)])
    return Pose(a.p + share * (b.p - a.p), multiply(step, a.q))


class Dragging:
    """A mechanism being dragged, its couplings and held values left as they are; what touches or
    overlaps as it begins goes on to."""

    def __init__(
        self, mechanism: Mechanism, runners: Sequence[Runner], poses: Sequence[Pose], *,
        truth: Truth, fits: Fits, spread: Spread,
    ) -> None:  # fmt: skip
        self.mechanism = mechanism.loosened("")
        way = _Between(self.mechanism, poses, poses)
        self._sweeping = Sweeping(way, runners, truth, fits, spread)
        self._sweeping.onward = False
        group = merged(mechanism).group
        still = {g for m, g in zip(mechanism.members, group, strict=True) if m.anchored}
        scene = self._sweeping.scene

        def apart(pair: Duo) -> bool:
            """Whether two leaves can move to each other at all. Copies go by several members."""
            a, b = (runners[k].member for k in pair)
            if a >= len(group) or b >= len(group):
                return True
            one, two = group[a], group[b]
            return one != two and not (one in still and two in still)

        self._pairs = [p for p in scene.pairs if apart(p)]
        self._sweeping.moving = self._pairs
        self._sweeping.begin(self._sweeping.stand(0.0, list(poses)))
        self._last: Duo | None = None
        self._stood: Stand | None = None

    def to(self, here: Sequence[Pose], there: Sequence[Pose]) -> Dragged:
        """As far from one stand towards another as nothing is met."""
        s = self._sweeping
        s.course = way = _Between(self.mechanism, here, there)
        a, b = self._again(here), s.stand(1.0, list(there))
        s.moving = s.scene.moving(self._pairs, a.all, b.all)
        if self._last is not None and self._last in s.moving:
            far = s.scene.travel(self._last, a.all, b.all)
            tried = way.poses(min(1.0, _AHEAD / max(far, 1e-9)), here)
            if tried is not None and s.overlaps(self._last, s.stand(0.5, tried)) is not None:
                return self._told(list(here), self._last)
        self._last = None
        pieces = max(1, math.ceil(_turned(here, there) / WIDEST))
        found: dict[Duo, tuple[Stand, Shared]] = {}
        for k in range(1, pieces + 1):
            reached = b.poses if k == pieces else way.poses(k / pieces, a.poses)
            if reached is None:
                break
            stand = s.stand(k / pieces, reached)
            found = s.search(a, stand, s.near_pairs(a, stand), 0)
            if found:
                break
            a = stand
        if not found:
            self._stood = a
            return self._told(a.poses, None)
        pair = min(found, key=lambda p: found[p][0].value)
        # A hair before they are in each other.
        far = s.scene.travel(pair, a.all, b.all)
        back = max(0.0, found[pair][0].value - 0.003 / max(far, 1e-9))
        poses = way.poses(back, here) or list(here)
        self._last = pair
        return self._told(poses, pair)

    def _again(self, here: Sequence[Pose]) -> Stand:
        """The stand one is at, with what was found of it when one came there."""
        known = self._stood
        if known is not None and all(
            np.abs(a.p - b.p).max() < 1e-9 and np.abs(a.q - b.q).max() < 1e-12
            for a, b in zip(known.poses, here, strict=True)
        ):
            return replace(known, value=0.0)
        return self._sweeping.stand(0.0, list(here))

    def _told(self, poses: list[Pose], met: Duo | None) -> Dragged:
        s = self._sweeping
        if met is not None:
            return Dragged(poses, self._names(met), None, 0.0)
        movers = [p for p in s.moving if not s.by_design(p) and p not in s.meeting]
        gap, who = s.scene.least(movers, s.spread(poses))
        return Dragged(poses, None, self._names(who) if who else None, gap)

    def _names(self, pair: Duo) -> tuple[str, str]:
        one, two = (self._sweeping.runners[k].id for k in pair)
        return one, two
