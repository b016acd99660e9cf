"""How near two things come along a course: at every stand, and at the least between them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import minimize_scalar

from vireo.core.assembly.pose import Pose
from vireo.core.geometry import Triple
from vireo.core.motion.course import Course, Stand, stood

#: The gap (mm) of two things at poses of the members, and the nearest places; no places where they overlap.
Measure = Callable[[Sequence[Pose]], tuple[float, tuple[Triple, Triple] | None]]
#: So many of the lowest places of the curve are looked at closely.
_DIPS = 3
#: And each to this share of a step.
_CLOSE = 1e-4


@dataclass(frozen=True)
class Clearance:
    """Gaps (mm) at the stands, and the least of all: where on the course, how near, between which places."""

    gaps: list[float]
    least: float
    value: float
    poses: list[Pose]
    where: tuple[Triple, Triple] | None


def clearance(course: Course, stands: Sequence[Stand], measure: Measure) -> Clearance:
    """The gap along a course, its least refined between the stands: what is least there is not at a
    stand. Where things overlap the gap is nothing."""
    found = [measure(poses) for _, poses in stands]
    gaps = np.array([g for g, _ in found])
    k = int(np.argmin(gaps))
    best = Clearance(gaps.tolist(), float(gaps[k]), stands[k][0], list(stands[k][1]), found[k][1])
    dips = [
        i for i in range(len(gaps))
        if gaps[i] <= gaps[max(i - 1, 0)] and gaps[i] <= gaps[min(i + 1, len(gaps) - 1)]
    ]  # fmt: skip
    for i in sorted(dips, key=lambda i: gaps[i])[:_DIPS]:
        if best.least <= 0.0 or len(stands) < 2:
            break
        low, high = stands[max(i - 1, 0)][0], stands[min(i + 1, len(stands) - 1)][0]

        def at(value: float, i: int = i) -> float:
            nonlocal best
            there = stood(course, value, stands[i])
            if there is None:
                return float(gaps[i])
            gap, where = measure(there[1])
            if gap < best.least:
                best = Clearance(best.gaps, gap, value, there[1], where)
            return gap

        minimize_scalar(
            at, bounds=(min(low, high), max(low, high)), method="bounded",
            options={"xatol": _CLOSE * abs(high - low), "maxiter": 40},
        )  # fmt: skip
    return best
