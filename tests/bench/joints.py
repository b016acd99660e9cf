"""Benches of the joint solver, in the core: settling what is joined, dragging a linkage."""

from __future__ import annotations

import time
from statistics import median

import numpy as np

from vireo.core.assembly import Mechanism, Pair, drag, solve

AXES = np.eye(3)


def _joined(count: int) -> Mechanism:
    """Components joined to earlier ones, three in four of them fast, all standing anywhere."""
    from tests.core.test_joints import member

    rng = np.random.default_rng(1)
    members, pairs = [member("g", anchored=True)], []
    for k in range(count):
        members.append(member(f"m{k}", tuple(rng.uniform(-5, 5, 3))))
        kind = "revolute" if k % 4 == 3 else "fixed"
        to = int(rng.integers(0, k + 1))
        a, b = rng.uniform(-3, 3, (2, 3))
        pairs.append(Pair(f"j{k}", kind, to, k + 1, a, AXES, b, AXES))
    return Mechanism(tuple(members), tuple(pairs))


def settle_joined() -> str:
    """From anywhere to where all joints hold, with the freedoms of every component."""
    said = []
    for count in (100, 300):
        m = _joined(count)
        began = time.perf_counter()
        found = solve(m)
        said.append(f"{1e3 * (time.perf_counter() - began):.0f} ms for {count}")
        assert found.holds
        assert found.freedom == count // 4
    return ", ".join(said) + ", freedoms counted"


def drag_a_scissor() -> str:
    from tests.core.test_joints import at, scissor

    m = scissor(12)
    m = m.with_poses(solve(m).poses)
    times = []
    for k in range(40):
        grip = m.members[23].pose.out(at(1))
        began = time.perf_counter()
        found = drag(m, 23, at(1), grip + at(0.05, 0.1 * (-1) ** (k // 10)))
        times.append(1e3 * (time.perf_counter() - began))
        assert found.holds
        m = m.with_poses(found.poses)
    return f"{median(times):.1f} ms median of {len(times)} places"


ROWS = [
    ("joined components settle, core", "at most 200 ms for 100", settle_joined),
    ("a drag step of a 12-cell scissor, core", "at most 15 ms", drag_a_scissor),
]
