"""Where panels and bends hang together: found from their outlines, never stored.

Pieces of a panel's outline on the bend's line are laid against pieces of the zone on its edge: an interval both
have is a joint, what one has alone is a wall. So holes, reliefs, mitres and slots through bends need no
book-keeping."""

from __future__ import annotations

import itertools
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from vireo.core.curves import Line2, Pair
from vireo.core.panels.loops import SAME, Loop, Seg, grouped, line
from vireo.core.panels.model import Bend, Sheet

Side = Literal["in", "out"]
#: A patch, one of its loops, a piece of that.
Where = tuple[str, int, int]


class Joint(NamedTuple):
    """The `n`-th interval in which a bend's zone hangs on its parent (``in``) or its child (``out``)."""

    bend: str
    side: Side
    n: int


@dataclass(frozen=True)
class Patch:
    """A panel, or the zone of a `bend`, with its loops split where joints begin and end; `joints` by loop and
    piece, `whole` which piece of the loop as it is stored each is of."""

    id: str
    bend: Bend | None
    loops: tuple[Loop, ...]
    joints: Mapping[tuple[int, int], Joint]
    whole: Mapping[tuple[int, int], int]

    @property
    def walls(self) -> Iterator[tuple[tuple[int, int], str]]:
        """What is no joint, by loop and piece, with what the wall on it is called: the second of a name and
        all after it carry their number."""
        often: Counter[str] = Counter()
        for n, loop in enumerate(self.loops):
            for i, seg in enumerate(loop):
                if (n, i) in self.joints:
                    continue
                often[seg.name] += 1
                count = often[seg.name]
                name = f"{self.id}/side/{seg.name}"
                yield (n, i), name if count == 1 else f"{name}.{count}"


@dataclass(frozen=True)
class _Edge:
    """The line a joint lies on in the coordinates of one of its patches."""

    p: Pair
    d: Pair

    def at(self, s: float) -> Pair:
        return (self.p[0] + self.d[0] * s, self.p[1] + self.d[1] * s)

    def along(self, x: Pair) -> float:
        """How far along the line a place on it is."""
        return (x[0] - self.p[0]) * self.d[0] + (x[1] - self.p[1]) * self.d[1]

    def span(self, seg: Seg) -> tuple[float, float]:
        """From where to where a piece on the line runs along it."""
        return self.along(seg.a), self.along(seg.b)


class _Straight:
    """The straight pieces of a patch, to be laid against lines all at once."""

    def __init__(self, id: str, loops: tuple[Loop, ...]) -> None:
        found = [
            ((id, n, i), seg) for n, loop in enumerate(loops) for i, seg in enumerate(loop)
            if isinstance(seg.curve, Line2)
        ]  # fmt: skip
        self.where = [w for w, _ in found]
        self.a = np.array([seg.a for _, seg in found]).reshape(-1, 2)
        self.b = np.array([seg.b for _, seg in found]).reshape(-1, 2)

    def on(self, edge: _Edge, way: float) -> list[tuple[Where, tuple[float, float]]]:
        """Pieces that run one way along a line, and from where to where."""
        p, (dx, dy) = np.array(edge.p), edge.d
        u, v = self.a - p, self.b - p
        off = np.maximum(np.abs(u[:, 1] * dx - u[:, 0] * dy), np.abs(v[:, 1] * dx - v[:, 0] * dy))
        s0, s1 = u[:, 0] * dx + u[:, 1] * dy, v[:, 0] * dx + v[:, 1] * dy
        return [
            (self.where[k], (float(s0[k]), float(s1[k])))
            for k in np.flatnonzero((off <= SAME) & ((s1 - s0) * way > SAME))
        ]


@dataclass(frozen=True)
class _Met:
    """What a piece meets: stops along a line, and the joints between some of them."""

    edge: _Edge
    joints: tuple[tuple[float, float, Joint], ...]


def patches(sheet: Sheet) -> dict[str, Patch]:
    """Panels and zones by id, with their joints."""
    loops: dict[str, tuple[Loop, ...]] = {p.id: p.loops for p in sheet.panels.values()}
    loops |= {b.id: b.loops for b in sheet.bends.values()}
    met: dict[Where, list[_Met]] = defaultdict(list)
    straight = {id: _Straight(id, own) for id, own in loops.items()}
    for bend in sheet.bends.values():
        for side in ("in", "out"):
            for where, found in _meeting(bend, side, straight):
                met[where].append(found)
    made = {}
    for id, own in loops.items():
        split: list[Loop] = []
        joints: dict[tuple[int, int], Joint] = {}
        whole: dict[tuple[int, int], int] = {}
        for n, loop in enumerate(own):
            pieces: list[Seg] = []
            for i, seg in enumerate(loop):
                for piece, joint in _split(seg, met.get((id, n, i), [])):
                    if joint is not None:
                        joints[n, len(pieces)] = joint
                    whole[n, len(pieces)] = i
                    pieces.append(piece)
            split.append(tuple(pieces))
        made[id] = Patch(id, sheet.bends.get(id), tuple(split), joints, whole)
    return made


def in_pieces(parts: Mapping[str, Patch]) -> int:
    """Into how many pieces a sheet falls: what hangs together by joints is one."""
    outers = {id: grouped(patch.loops) for id, patch in parts.items()}
    home: dict[tuple[str, int], tuple[str, int]] = {}
    for id, patch in parts.items():
        for k, (outer, holes) in enumerate(outers[id]):
            for loop in (outer, *holes):
                n = next(n for n, lp in enumerate(patch.loops) if lp is loop)
                home[id, n] = (id, k)
    met: dict[Joint, list[tuple[str, int]]] = defaultdict(list)
    for id, patch in parts.items():
        for (n, _), joint in patch.joints.items():
            met[joint].append(home[id, n])
    number = {region: k for k, region in enumerate(dict.fromkeys(home.values()))}
    ends = np.array([(number[a], number[b]) for a, b in met.values()], dtype=int).reshape(-1, 2)
    graph = coo_matrix((np.ones(len(ends)), (ends[:, 0], ends[:, 1])), shape=(len(number),) * 2)
    return int(connected_components(graph, directed=False)[0])


def _meeting(
    bend: Bend, side: Side, straight: Mapping[str, _Straight]
) -> Iterator[tuple[Where, _Met]]:
    """What pieces of a panel and of a bend's zone have in common along one edge of the zone."""
    panel = bend.parent if side == "in" else bend.child
    here = _Edge(bend.p, bend.d) if side == "in" else _Edge((0.0, 0.0), (1.0, 0.0))
    zone = _Edge((0.0, 0.0 if side == "in" else bend.allowance), (1.0, 0.0))
    # The panel runs against d at the near edge, along it at the far one; the zone the other way.
    way = -1.0 if side == "in" else 1.0
    mine = straight[bend.id].on(zone, -way)
    theirs = [
        # Bends on one line must not see each other's joints.
        (where, span) for where, span in straight[panel].on(here, way)
        if any(min(max(span), max(z)) - max(min(span), min(z)) > SAME for _, z in mine)
    ]  # fmt: skip
    stops: list[float] = []
    for s in sorted(s for _, span in (*mine, *theirs) for s in span):
        if not stops or s - stops[-1] > SAME:
            stops.append(s)
    both = [
        (x, y) for x, y in itertools.pairwise(stops)
        if all(any(min(s) - SAME < x and y < max(s) + SAME for _, s in found) for found in (mine, theirs))
    ]  # fmt: skip
    joints = tuple((x, y, Joint(bend.id, side, n)) for n, (x, y) in enumerate(both))
    for where, _ in mine:
        yield where, _Met(zone, joints)
    for where, _ in theirs:
        yield where, _Met(here, joints)


def _split(seg: Seg, met: list[_Met]) -> Iterator[tuple[Seg, Joint | None]]:
    """A piece split where joints begin and end, with the joint each part is."""
    parts: list[tuple[float, float, Pair, Pair, Joint]] = []
    for found in met:
        span = found.edge.span(seg)
        s0, whole = span[0], span[1] - span[0]
        for low, high, joint in found.joints:
            begin, end = (low, high) if whole > 0 else (high, low)
            u, v = (begin - s0) / whole, (end - s0) / whole
            slack = SAME / abs(whole)
            if u > 1.0 - slack or v < slack:
                continue
            parts.append((
                u, v,
                seg.a if u < slack else found.edge.at(begin), seg.b if v > 1.0 - slack else found.edge.at(end),
                joint,
            ))  # fmt: skip
    at, slack = seg.a, SAME / max(seg.curve.length, SAME)
    done = 0.0
    for u, v, a, b, joint in sorted(parts):
        if u > done + slack:
            yield line(at, a, seg.name), None
        yield line(a, b, seg.name), joint
        at, done = b, v
    if not parts:
        yield seg, None
    elif done < 1.0 - slack:
        yield line(at, seg.b, seg.name), None
