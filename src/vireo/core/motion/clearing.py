"""How near two things come along a course: at every stand, and at the least between them."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import minimize_scalar

from vireo.core.assembly.pose import Pose
from vireo.core.geometry import Triple
from vireo.core.motion.course import Course, Stand, stood

#: The gap (mm) of two things at poses of the members, and the nearest places; no places where they overlap.
Measure = Callable[[Sequence[Pose]], tuple[float, tuple[Triple, Triple] | None]]
#: The same by triangles, and by how much that may be off (mm).
Rough = Callable[[Sequence[Pose]], tuple[float, float]]
#: So many of the lowest places of the curve are looked at closely.
_DIPS = 3
#: And each to this share of a step.
_CLOSE = 1e-4
#: Triangles do where they are off by no more than this (mm), or this share of the gap.
_FINE, _SHARE = 2e-3, 5e-3
#: Where they do not, true faces are asked, but for no longer than this (s) on the way.
_LONG = 12.0


@dataclass(frozen=True)
class Clearance:
    """Gaps (mm) at the stands, true to `within`; and the least of all, of the true faces: where on the
    course, how near, between which places."""

    gaps: list[float]
    within: float
    least: float
    value: float
    poses: list[Pose]
    where: tuple[Triple, Triple] | None


class _Asking:
    """Gaps along a course, as closely as there is time for."""

    def __init__(self, course: Course, measure: Measure, rough: Rough) -> None:
        self.course, self.measure, self.rough = course, measure, rough
        self.spent = self.within = 0.0
        self.best: Clearance | None = None

    def gap(self, value: float, poses: Sequence[Pose]) -> float:
        bare, off = self.rough(poses)
        if off <= max(_FINE, _SHARE * bare):
            return bare
        if self.spent > _LONG:
            self.within = max(self.within, off)
            return bare
        begun = time.process_time()
        found = self.closely(value, poses)
        self.spent += time.process_time() - begun
        return found

    def closely(self, value: float, poses: Sequence[Pose]) -> float:
        gap, where = self.measure(poses)
        if self.best is None or gap < self.best.least:
            self.best = Clearance([], 0.0, gap, value, list(poses), where)
        return gap

    def between(self, value: float, near: Stand, otherwise: float) -> float:
        there = stood(self.course, value, near)
        return otherwise if there is None else self.gap(value, there[1])


def clearance(course: Course, stands: Sequence[Stand], measure: Measure, rough: Rough) -> Clearance:
    """The gap along a course, its least refined between the stands: what is least there is not at a
    stand. Where things overlap the gap is nothing. Triangles tell it where they are close enough, else
    the true faces; the least of all is always that of the true faces."""
    asking = _Asking(course, measure, rough)
    gaps = np.array([asking.gap(*stand) for stand in stands])
    for i in _dips(gaps):
        if gaps[i] <= 0.0 or len(stands) < 2:
            break
        low, high = stands[max(i - 1, 0)][0], stands[min(i + 1, len(stands) - 1)][0]
        lowest = minimize_scalar(
            asking.between, bounds=(min(low, high), max(low, high)), method="bounded",
            args=(stands[i], float(gaps[i])),
            options={"xatol": _CLOSE * abs(high - low), "maxiter": 40},
        )  # fmt: skip
        asking.closely(*stands[i])
        there = stood(course, float(lowest.x), stands[i])
        if there is not None:
            asking.closely(*there)
    if asking.best is None or gaps.min() <= 0.0:
        asking.closely(*stands[int(np.argmin(gaps))])
    assert asking.best is not None
    return replace(asking.best, gaps=gaps.tolist(), within=asking.within)


def _dips(gaps: np.ndarray) -> list[int]:
    """The lowest of the places where a curve goes down before and up behind: of a level stretch one."""
    found = [
        i for i in range(len(gaps))
        if gaps[i] <= gaps[min(i + 1, len(gaps) - 1)] and (i == 0 or gaps[i] < gaps[i - 1])
    ]  # fmt: skip
    return sorted(found, key=lambda i: float(gaps[i]))[:_DIPS]
