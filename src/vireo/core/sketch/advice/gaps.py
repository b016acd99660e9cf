"""What keeps an outline from closing: ends that meet nothing, overhangs, doubles, loops."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from vireo.core.curves import (
    Arc2,
    Circle2,
    Curve2,
    Line2,
    Pair,
    Spline2,
    crossings,
    self_crossing,
)
from vireo.core.sketch.model import Drawing
from vireo.core.sketch.solved import curves_of

#: An end sticking out by less than this share of its curve is meant to end where it crosses.
_OVERHANG = 0.2

Named = Sequence[tuple[str, Curve2]]


@dataclass(frozen=True)
class Gap:
    """A place that wants a look, at an end of `curve` or on it.

    `gap`: an open end, `size` mm from the nearest other one `to` (None when it is alone);
    `overhang`: an end sticking out by `size` over what it crosses at `to`; `double`: `size` mm
    that lie on another curve; `loop`: the curve crosses itself in a loop `size` mm long.
    """

    curve: str
    at: Pair
    size: float | None
    to: Pair | None
    kind: Literal["gap", "overhang", "double", "loop"] = "gap"


def gaps(drawing: Drawing, join: float = 1e-6) -> list[Gap]:
    """What keeps curves that are no construction from closing regions, smallest first."""
    # Outlines of text are closed by themselves.
    every = [(id, c) for id, c in curves_of(drawing) if "." not in id]
    found = [*_open_ends(every, join), *_doubles(every, join)]
    for id, c in every:
        loop = self_crossing(c)
        if loop is not None:
            found.append(Gap(id, loop[0], loop[1], None, "loop"))
    return sorted(found, key=lambda g: g.size if g.size is not None else math.inf)


def _open_ends(every: Named, join: float) -> list[Gap]:
    curves = [(id, c) for id, c in every if math.dist(*c.ends) > join]
    ends = [(id, c, k) for id, c in curves for k in (0, 1)]
    cells: dict[tuple[int, int], list[Pair]] = {}
    size = 4 * join

    def cell(p: Pair) -> tuple[int, int]:
        return (math.floor(p[0] / size), math.floor(p[1] / size))

    for _, c, k in ends:
        cells.setdefault(cell(c.ends[k]), []).append(c.ends[k])

    def met(at: Pair) -> bool:
        i, j = cell(at)
        near = [p for a in (-1, 0, 1) for b in (-1, 0, 1) for p in cells.get((i + a, j + b), ())]
        return sum(math.dist(at, p) <= join for p in near) > 1

    lone: list[tuple[str, Pair]] = []
    found: list[Gap] = []
    for id, c, k in ends:
        at = c.ends[k]
        # An end that lies on another curve closes there.
        if met(at) or any(other != id and _on(o, at, join) for other, o in every):
            continue
        over = _overhang(id, c, k, every)
        if over is None:
            lone.append((id, at))
        else:
            found.append(Gap(id, at, over[0], over[1], "overhang"))
    told: set[tuple[Pair, Pair]] = set()
    for k, (id, at) in enumerate(lone):
        others = [p for j, (_, p) in enumerate(lone) if j != k]
        to = min(others, key=lambda p: math.dist(at, p)) if others else None
        if to is not None and (to, at) in told:
            continue  # told from the other side already
        if to is not None:
            told.add((at, to))
        found.append(Gap(id, at, math.dist(at, to) if to else None, to))
    return found


def _on(curve: Curve2, at: Pair, join: float) -> bool:
    low, high = curve.range
    return math.dist(curve.at(min(max(curve.parameter(at), low), high)), at) <= join


def _overhang(id: str, curve: Curve2, end: int, every: Named) -> tuple[float, Pair] | None:
    """How far an end sticks out over the last curve it crosses, and where that is."""
    low, high = curve.range
    cuts = [
        (abs(t - (low, high)[end]), at)
        for other, o in every
        if other != id
        for t, _, at in crossings(curve, o)
    ]
    if not cuts:
        return None
    share, at = min(cuts)
    share /= high - low
    return (share * curve.length, at) if share < _OVERHANG else None


def _doubles(every: Named, join: float) -> list[Gap]:
    """Lines and circles that lie on others of their kind, free curves that are there twice."""
    alike: dict[tuple[object, ...], list[tuple[str, Curve2]]] = {}
    for id, c in every:
        alike.setdefault(_carrier(c), []).append((id, c))
    found = []
    for group in alike.values():
        for n, (id, c) in enumerate(group):
            for _, other in group[:n]:
                shared = _shared(c, other)
                if shared > 10 * join:
                    low, high = c.range
                    found.append(Gap(id, c.at(0.5 * (low + high)), shared, None, "double"))
                    break
    return found


def _carrier(c: Curve2) -> tuple[object, ...]:
    """The same for curves that may lie on one another."""

    def r(v: float) -> float:
        return round(v, 5) + 0.0

    if isinstance(c, Line2):
        angle = math.atan2(c.b[1] - c.a[1], c.b[0] - c.a[0]) % math.pi
        angle = 0.0 if math.pi - angle < 1e-6 else angle
        off = -math.sin(angle) * c.a[0] + math.cos(angle) * c.a[1]
        return ("line", r(angle), r(off))
    if isinstance(c, Circle2 | Arc2):
        return ("circle", r(c.centre[0]), r(c.centre[1]), r(c.radius))
    ends = sorted((r(x), r(y)) for x, y in c.ends)
    return (c.form, *ends, round(c.length, 4))


def _shared(one: Curve2, two: Curve2) -> float:
    """Length (mm) two curves of one carrier have in common."""
    if isinstance(one, Line2) and isinstance(two, Line2):
        ts = sorted(one.parameter(p) for p in two.ends)
        return max(0.0, min(1.0, ts[1]) - max(0.0, ts[0])) * one.length
    if isinstance(one, Circle2) or isinstance(two, Circle2):
        return min(one.length, two.length)
    if isinstance(one, Arc2) and isinstance(two, Arc2):
        shared = 0.0
        for turn in (-2 * math.pi, 0.0, 2 * math.pi):
            shared += max(0.0, min(one.end, two.end + turn) - max(one.start, two.start + turn))
        return shared * one.radius
    if isinstance(one, Spline2):
        low, high = one.range
        marks = [one.at(low + k * (high - low) / 4) for k in range(1, 4)]
        same = all(_on(two, p, 1e-5) for p in marks)
        return one.length if same else 0.0
    return one.length
