"""Areas of a sketch taken as wholes: everything inside an outline, whatever is drawn within it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from vireo.core.curves import Curve2, Pair
from vireo.core.kernel.locate import inner_point
from vireo.core.kernel.profile import (
    JOIN,
    Arrangement,
    Region,
    arrange,
    arrange_anew,
    holds,
    merged,
    wires_of,
)
from vireo.core.kernel.shape import Key, edges_of

Curves = tuple[tuple[str, Curve2], ...]

#: What areas of the parts of a region may miss of it, relative.
_AREA = 1e-6


@dataclass(frozen=True, eq=False)
class Whole:
    """The area inside an outline, and the ids of the regions that make it up."""

    area: Region
    covers: tuple[str, ...]


def bounded_by(curves: Curves, bounds: Iterable[str], id: str) -> list[Region] | None:
    """The regions that together are what only the curves `bounds` part off as region `id`,
    whatever else is drawn across it. None when they do not bound such a region any more."""
    wanted = set(bounds)
    chosen = tuple(c for c in curves if c[0] in wanted)
    if not wanted or len(chosen) < len(wanted):
        return None
    area = arrange_anew(chosen).region(id)
    return None if area is None else within(arrange(curves), area)


def within(found: Arrangement, area: Region) -> list[Region] | None:
    """The regions of an arrangement that make up an area, None when they do not fill it."""
    if area.face is None:
        return None
    low, high = np.min(area.outer, axis=0), np.max(area.outer, axis=0)
    # Borders are polygons here, which round curves bulge out of.
    bulge = 0.1 * (high - low) + JOIN
    low, high = low - bulge, high + bulge
    parts = [
        r
        for r in found.regions
        if r.face is not None
        and all(low[k] <= r.outer[0][k] <= high[k] for k in (0, 1))
        and holds(area.face, inner_point(r.face))
    ]
    filled = math.isclose(sum(r.area for r in parts), area.area, rel_tol=_AREA)
    return parts if filled else None


@lru_cache(maxsize=64)
def wholes(curves: Curves) -> tuple[Whole, ...]:
    """All that can be taken as everything inside an outline, the smallest first: chains that
    close end to end, and the outer borders of regions that hang together."""
    found = arrange(curves)
    order = [id for id, _ in curves]
    sets = {frozenset(c) for c in (*_closed_chains(curves), *_borders(found))}
    made: dict[tuple[str, ...], Whole] = {}
    for chosen in sorted(sets, key=lambda s: sorted(order.index(c) for c in s)):
        alone = arrange_anew(tuple(c for c in curves if c[0] in chosen))
        outer = [r for r in alone.regions if r.depth == 0]
        if len(outer) != 1 or set(outer[0].curves) != chosen or outer[0].holes:
            continue
        parts = within(found, outer[0])
        if parts is not None:
            made[outer[0].bounds] = Whole(outer[0], tuple(r.id for r in parts))
    return tuple(sorted(made.values(), key=lambda w: w.area.area))


def _closed_chains(curves: Curves) -> list[list[str]]:
    """Curves that close by themselves, and chains in which at every corner two ends meet."""
    chains, corners = [], dict[Pair, list[str]]()
    for id, curve in curves:
        start, end = curve.ends
        if math.dist(start, end) < JOIN:
            chains.append([id])
            continue
        for p in (start, end):
            corners.setdefault((round(p[0] / JOIN), round(p[1] / JOIN)), []).append(id)
    runs = _hanging_together(corners.values())
    odd = {id for ids in corners.values() if len(ids) != 2 for id in ids}
    return [*chains, *(run for run in runs if not odd & set(run))]


def _borders(found: Arrangement) -> list[list[str]]:
    """Curves of the outer border of each group of regions that share edges."""
    faces = {r.id: r.face for r in found.regions if r.face is not None}
    sides: dict[Key, list[str]] = {}
    for id, face in faces.items():
        for e in edges_of(face):
            sides.setdefault(Key(e), []).append(id)
    return [
        sorted({found.source[k] for e in edges_of(wires_of(whole)[0]) if (k := Key(e)) in found.source})
        for group in _hanging_together(sides.values())
        for whole in merged([faces[id] for id in group])
    ]  # fmt: skip


def _hanging_together(links: Iterable[Sequence[str]]) -> list[list[str]]:
    """Names that hang together by links, each group sorted."""
    beside: dict[str, set[str]] = {}
    for ids in links:
        for id in ids:
            beside.setdefault(id, set()).update(ids)
    left, groups = set(beside), []
    while left:
        group, todo = set[str](), [left.pop()]
        while todo:
            id = todo.pop()
            if id not in group:
                group.add(id)
                todo += beside[id] - group
        left -= group
        groups.append(sorted(group))
    return groups
