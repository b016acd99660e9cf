"""A 2D file as read: curves by key and layer, and following them into a newer file."""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass, field
from functools import cached_property
from typing import Protocol

import numpy as np
import scipy

from vireo.core.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Pair, Spline2
from vireo.core.trouble import BadInput

MOST_CURVES = 20_000
#: Places nearer than this (mm) are the same.
_SAME = 1e-6


@dataclass(frozen=True)
class Item:
    """One curve or point (mm). `key` stays with it as long as the program that wrote the file
    keeps its ids."""

    key: str
    layer: str
    curve: Curve2 | Pair

    @property
    def form(self) -> str:
        return "point" if isinstance(self.curve, tuple) else self.curve.form

    @cached_property
    def ends(self) -> tuple[Pair, Pair]:
        c = self.curve
        return (c, c) if isinstance(c, tuple) else c.ends

    @cached_property
    def at(self) -> Pair:
        """Half-way along it; the centre of a whole round."""
        c = self.curve
        if isinstance(c, tuple):
            return c
        if isinstance(c, Circle2) or (isinstance(c, Ellipse2) and c.closed):
            return c.centre
        low, high = c.range
        return c.at(0.5 * (low + high))

    @cached_property
    def length(self) -> float:
        return 0.0 if isinstance(self.curve, tuple) else self.curve.length

    def same_as(self, other: Item) -> bool:
        """Whether it lies where the other lies, whatever it is called."""
        near = [(self.at, other.at), *zip(self.ends, other.ends, strict=True)]
        back = [(self.at, other.at), *zip(self.ends, other.ends[::-1], strict=True)]
        return (
            self.form == other.form
            and abs(self.length - other.length) < 10 * _SAME
            and any(all(math.dist(a, b) < _SAME for a, b in way) for way in (near, back))
        )


@dataclass(frozen=True)
class Sheet:
    """What a 2D file holds, and how many things of which kind could not be taken."""

    items: tuple[Item, ...]
    left: dict[str, int] = field(default_factory=dict)

    @cached_property
    def by_key(self) -> dict[str, Item]:
        return {i.key: i for i in self.items}

    @property
    def layers(self) -> list[str]:
        return sorted({i.layer for i in self.items})


class Collected:
    """Items as a reader finds them: keys made different, numbers checked, the count limited."""

    def __init__(self) -> None:
        self.items: list[Item] = []
        self.left: dict[str, int] = {}
        self._keys: Counter[str] = Counter()

    def skip(self, kind: str) -> None:
        self.left[kind] = self.left.get(kind, 0) + 1

    def add(self, key: str, layer: str, curve: Curve2 | Pair, kind: str) -> None:
        numbers = curve if isinstance(curve, tuple) else [c for p in curve.ends for c in p]
        if not all(math.isfinite(v) and abs(v) < 1e6 for v in numbers):
            raise BadInput(
                f"a {kind} of this file has numbers that are not finite or beyond 1000 m"
            )
        self._keys[key] += 1
        n = self._keys[key]
        self.items.append(Item(key if n == 1 else f"{key}~{n}", layer[:80], curve))
        if len(self.items) > MOST_CURVES:
            raise BadInput(f"this file holds more than {MOST_CURVES} curves")

    def sheet(self) -> Sheet:
        if not self.items:
            raise BadInput("this file holds no lines, arcs, circles, ellipses or splines")
        return Sheet(tuple(self.items), self.left)


@dataclass(frozen=True)
class Difference:
    """What became of the items of an older file, by key. `changed` maps to the new key; those
    in `guessed` were found by their likeness alone."""

    same: dict[str, str]
    changed: dict[str, str]
    guessed: frozenset[str]
    gone: tuple[str, ...]
    new: tuple[str, ...]

    def follow(self, key: str) -> str | None:
        return self.same.get(key) or self.changed.get(key)


def difference(old: Sheet, new: Sheet) -> Difference:
    """Compare two states of a file.

    What lies where it lay is the same, whatever its key. Keys of the rest are believed when
    most of what stayed kept its own (programs that write all ids anew are common); else, and
    for keys that are gone, the most alike of the same form is taken, when both take each other.
    """
    same = _unmoved(old, new)
    taken = set(same.values())
    kept = sum(1 for a, b in same.items() if a == b)
    trusted = not same or kept >= 0.5 * len(same)
    changed: dict[str, str] = {}
    for item in old.items:
        match = new.by_key.get(item.key) if trusted else None
        if item.key in same or match is None or match.key in taken or match.form != item.form:
            continue
        changed[item.key] = match.key
        taken.add(match.key)
    rest = [i for i in old.items if i.key not in same and i.key not in changed]
    free = [i for i in new.items if i.key not in taken]
    guessed = _alike(rest, free)
    changed |= guessed
    taken |= set(guessed.values())
    return Difference(
        same, changed, frozenset(guessed),
        tuple(i.key for i in rest if i.key not in guessed),
        tuple(i.key for i in new.items if i.key not in taken),
    )  # fmt: skip


def _unmoved(old: Sheet, new: Sheet) -> dict[str, str]:
    tree = scipy.spatial.cKDTree(np.array([i.at for i in new.items]))
    found: dict[str, str] = {}
    taken: set[str] = set()
    for item in old.items:
        near = [new.items[k] for k in tree.query_ball_point(item.at, 10 * _SAME)]
        # Of several in one place the one of the same name comes first.
        for other in sorted(near, key=lambda o: o.key != item.key):
            if other.key not in taken and other.same_as(item):
                found[item.key] = other.key
                taken.add(other.key)
                break
    return found


def _alike(old: list[Item], new: list[Item]) -> dict[str, str]:
    """Pairs that are each other's most alike, and alike enough."""
    if not old or not new:
        return {}
    places = np.array([i.at for i in (*old, *new)])
    size = float(np.ptp(places, axis=0).max()) or 1.0
    best_new = {o.key: max(new, key=lambda n: likeness(o, n, size)) for o in old}
    best_old = {n.key: max(old, key=lambda o: likeness(o, n, size)) for n in new}
    return {
        o.key: n.key
        for o in old
        if best_old[(n := best_new[o.key]).key] is o and likeness(o, n, size) > 0.7
    }


class Looks(Protocol):
    """What an item looked like: enough to compare it."""

    @property
    def form(self) -> str: ...

    @property
    def layer(self) -> str: ...

    @property
    def at(self) -> Pair: ...

    @property
    def length(self) -> float: ...


def likeness(one: Looks, two: Looks, size: float) -> float:
    """How alike two items are, 0 to 1: form, layer, place against the size of the whole, length."""
    if one.form != two.form:
        return 0.0
    near = math.exp(-4.0 * math.dist(one.at, two.at) / size)
    top = max(one.length, two.length)
    long = 1.0 - abs(one.length - two.length) / top if top > 0 else 1.0
    return 0.2 + 0.15 * (one.layer == two.layer) + 0.4 * near + 0.25 * long


def mapped(curve: Curve2 | Pair, at: Pair, turn: float, scale: float) -> Curve2 | Pair:
    """A curve scaled, turned by `turn` (rad) about the origin, then shifted to `at`."""
    c, s = math.cos(turn) * scale, math.sin(turn) * scale

    def p(v: Pair) -> Pair:
        return (at[0] + c * v[0] - s * v[1], at[1] + s * v[0] + c * v[1])

    if isinstance(curve, tuple):
        return p(curve)
    if isinstance(curve, Line2):
        return Line2(p(curve.a), p(curve.b))
    if isinstance(curve, Circle2):
        return Circle2(p(curve.centre), curve.radius * scale)
    if isinstance(curve, Arc2):
        return Arc2(p(curve.centre), curve.radius * scale, curve.start + turn, curve.end + turn)
    if isinstance(curve, Ellipse2):
        mx, my = curve.major
        major = (c * mx - s * my, s * mx + c * my)
        return Ellipse2(p(curve.centre), major, curve.minor * scale, curve.start, curve.end)
    return Spline2(curve.degree, curve.knots, tuple(p(v) for v in curve.poles), curve.weights)
