"""An assembly taken apart along its joints: which way and how far each component comes off what it is
joined to, outermost first."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np

from vireo.core.assembly.build import Built
from vireo.core.assembly.pose import Floats
from vireo.core.naming.grammar import top_of

#: Between two things that came apart (share of the size of the whole).
_GAP = 0.04


@dataclass(frozen=True)
class Apart:
    """Components that come off together, and by how much in all (mm)."""

    components: tuple[str, ...]
    by: tuple[float, float, float]


@dataclass(frozen=True)
class _Hold:
    """How a component hangs on another: the line it comes off along, and how far out it sits."""

    parent: str
    child: str
    way: Floats
    through: Floats
    seat: float


def taken_apart(built: Built) -> list[Apart]:
    """Every component off what holds it, along the axis of its joint, clear of that and of what comes off
    along the same line before it. What is not joined stays; copies go as their originals do."""
    boxes = _boxes(built)
    holds = _tree(built, set(boxes))
    if not boxes or not holds:
        return []
    corners = np.concatenate(list(boxes.values()))
    gap = _GAP * float(np.linalg.norm(corners.max(axis=0) - corners.min(axis=0)))
    off: dict[str, Floats] = defaultdict(lambda: np.zeros(3))
    depth: dict[str, int] = defaultdict(int)
    # Along each line off each parent the next begins where the last one ends.
    reach: dict[tuple[object, ...], float] = {}
    for hold in holds:
        parent, child = boxes.get(hold.parent), boxes.get(hold.child)
        depth[hold.child] = depth[hold.parent] + 1
        off[hold.child] = off[hold.parent].copy()
        if parent is None or child is None:
            continue
        line = (hold.parent, *np.round(hold.way, 3) + 0.0, *np.round(_foot(hold), 2) + 0.0)
        begin = reach.get(line, float((parent @ hold.way).max()))
        move = max(begin + gap - float((child @ hold.way).min()), 0.0)
        reach[line] = float((child @ hold.way).max()) + move
        off[hold.child] = off[hold.parent] + move * hold.way
    order = sorted({h.child for h in holds}, key=lambda c: -depth[c])
    found: dict[tuple[float, ...], list[str]] = {}
    for id in order:
        by = tuple(float(v) for v in np.round(off[id], 4) + 0.0)
        if any(by):
            found.setdefault((depth[id], *by), []).append(id)
    return [Apart(tuple(ids), (k[1], k[2], k[3])) for k, ids in found.items()]


def _foot(hold: _Hold) -> Floats:
    """Where the line passes nearest to the origin: tells lines of one direction apart."""
    return np.asarray(hold.through - (hold.through @ hold.way) * hold.way)


def _boxes(built: Built) -> dict[str, Floats]:
    """Corners of the boxes of what each component of the top level holds, as it stands."""
    found: dict[str, list[Floats]] = defaultdict(list)
    for leaf in built.leaves:
        if leaf.carried:
            continue
        low, high = np.array(leaf.solid.low), np.array(leaf.solid.high)
        box = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1])
                        for z in (low[2], high[2])])  # fmt: skip
        found[leaf.path[0]].append(box @ leaf.pose.rotation.T + leaf.pose.p)
    return {id: np.concatenate(all_) for id, all_ in found.items()}


def _tree(built: Built, there: set[str]) -> list[_Hold]:
    """What hangs on what, outwards from what is anchored; of what sits along one line the nearer first."""
    members, poses = built.mechanism.members, built.solution.poses
    links: dict[str, list[tuple[str, Floats, Floats, float]]] = defaultdict(list)
    for pair in built.mechanism.pairs:
        a, b = top_of(members[pair.a].id), top_of(members[pair.b].id)
        if a == b:
            continue
        pose = poses[pair.a]
        z, at = pose.rotation @ pair.axes_a[:, 2], pose.out(pair.origin_a)
        links[a].append((b, z, at, pair.offset))
        links[b].append((a, -z, at, pair.offset))
    tops = list(dict.fromkeys(top_of(m.id) for m in members if top_of(m.id) in there))
    anchored = [top_of(m.id) for m in members if m.anchored]
    roots = [t for t in dict.fromkeys(anchored) if t in there] or tops[:1]
    seen, front, found = set(roots), list(roots), []
    while True:
        while front:
            here = front.pop(0)
            for other, way, at, seat in sorted(links[here], key=lambda x: x[3]):
                if other in seen:
                    continue
                seen.add(other)
                front.append(other)
                found.append(_Hold(here, other, way, at, seat))
        # What hangs together and on nothing anchored comes off what holds the most of it.
        loose = [t for t in tops if t not in seen and links[t]]
        if not loose:
            return found
        front = [max(loose, key=lambda t: len(links[t]))]
        seen.add(front[0])
