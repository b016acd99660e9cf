"""How near two things come along a course: at every stand, and at the least between them."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass

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
#: True faces are asked at every stand where that takes no longer (s).
_LONG = 0.1


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


def clearance(course: Course, stands: Sequence[Stand], measure: Measure, rough: Rough) -> Clearance:
    """The gap along a course, its least refined between the stands: what is least there is not at a
    stand. Where things overlap the gap is nothing. Where true faces take long to ask, triangles lead to
    the lowest places and the true faces are asked there."""
    begun = time.process_time()
    first = measure(stands[0][1])
    quick = time.process_time() - begun <= _LONG
    if quick:
        found = [first, *(measure(poses) for _, poses in stands[1:])]
        gaps, within = np.array([g for g, _ in found]), 0.0
        k = int(np.argmin(gaps))
        best = Clearance([], 0.0, float(gaps[k]), stands[k][0], list(stands[k][1]), found[k][1])
    else:
        told = [rough(poses) for _, poses in stands]
        gaps, within = np.array([g for g, _ in told]), max(u for _, u in told)
        best = Clearance([], 0.0, first[0], stands[0][0], list(stands[0][1]), first[1])

    def asked(value: float, poses: list[Pose]) -> float:
        nonlocal best
        gap, where = measure(poses)
        if gap < best.least:
            best = Clearance([], 0.0, gap, value, poses, where)
        return gap

    for i in _dips(gaps):
        if best.least <= 0.0 or len(stands) < 2:
            break
        low, high = stands[max(i - 1, 0)][0], stands[min(i + 1, len(stands) - 1)][0]

        def at(value: float, i: int = i) -> float:
            there = stood(course, value, stands[i])
            if there is None:
                return float(gaps[i])
            return asked(value, there[1]) if quick else rough(there[1])[0]

        lowest = minimize_scalar(
            at, bounds=(min(low, high), max(low, high)), method="bounded",
            options={"xatol": _CLOSE * abs(high - low), "maxiter": 40},
        )  # fmt: skip
        if not quick:
            asked(stands[i][0], list(stands[i][1]))
            there = stood(course, float(lowest.x), stands[i])
            if there is not None:
                asked(float(lowest.x), there[1])
    return Clearance(gaps.tolist(), within, best.least, best.value, best.poses, best.where)


def _dips(gaps: np.ndarray) -> list[int]:
    """The lowest of the places where a curve goes down before and up behind: of a level stretch one."""
    found = [
        i for i in range(len(gaps))
        if gaps[i] <= gaps[min(i + 1, len(gaps) - 1)] and (i == 0 or gaps[i] < gaps[i - 1])
    ]  # fmt: skip
    return sorted(found, key=lambda i: float(gaps[i]))[:_DIPS]
