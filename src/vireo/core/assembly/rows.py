"""What joints ask of poses, as rows with their gradients: the equations every solver works on.

Unknown per free member: a step of its position and a small turn, both in outer coordinates.
Rows and gradients as in the row types of `declared.joint` (world: w = R a, P = p + w, d = R u):
along  (P2 - P1).d1 - c : -d1 ; d1x(P2-P1) - w1xd1 ; d1 ; w2xd1
square d1.e2            : 0 ; d1xe2 ; 0 ; -(d1xe2)
turn   atan2(x2.y1, x2.x1) - t : 0 ; -z1 ; 0 ; z1   (holds for parallel z)
lean   atan2(|z1xz2|, z1.z2) - t : 0 ; -n ; 0 ; n    (n along z1xz2)
apart  |P2 - P1| - c    : -u ; -(w1xu) ; u ; w2xu
reach  |across| - c     : -n ; -(w1xn) - s z1xn ; n ; w2xn   (across z1, s along it)
screw  along z - p/2pi turn, by whole pitches
Mirrored in a plane (o = P3, n; s = n.(P1 - o), e' = e2 - 2(n.e2)n, d' = d1 - 2(n.d1)n), k = n.e2:
across (P1 - 2sn - P2).e2 : e' ; w1xe' ; -e2 ; -w2xe2 + e2x(P1-2sn-P2) ; 2kn ;
                            2k(w3xn) - 2k(nx(P1-o)) - 2s(nxe2)
Along a way in the axes of a, its foot F of P2 there, t the way it runs, n1 and n2 across that:
beside (P2 - F).n1      : as along, with n1 for d1 (exact where it holds)
travel length up to F   : as along, with t for d1 (exact where it holds)
mirrored d'.e2          : 0 ; d1xe' ; 0 ; e2xd' ; 0 ; -2(nxd1)k - 2(n.d1)(nxe2)
A coupling is a sum of turns and slides of several joints, counted from where they stood.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import numpy as np

from vireo.core.assembly.mechanism import Mechanism, Mirror, Pair
from vireo.core.assembly.pose import Floats, Pose, rotations_of
from vireo.core.declared.joint import AXES, OFFSET, Row
from vireo.core.ways import Foot, Way

#: Which gradient, which of its rows, and where they go: rows and columns (n, 3).
_Block = tuple[int, np.ndarray, np.ndarray, np.ndarray]


@dataclass
class _Rows:
    """Rows of one type, gathered: members, local vectors, constants, row numbers, owners. `c` holds
    the mirror of those that have one."""

    type: str
    a: np.ndarray
    b: np.ndarray
    c: np.ndarray
    u: Floats
    v: Floats
    n: Floats
    point_a: Floats
    point_b: Floats
    point_c: Floats
    value: Floats
    pitch: Floats
    way: np.ndarray
    row: np.ndarray

    def blocks(self, column: np.ndarray) -> list[_Block]:
        """Where the gradients go that count: of a and b, and of the mirror where there is one, by
        shift, then by turn."""
        found = []
        for k, (members, at) in enumerate(itertools.product((self.a, self.b, self.c), (0, 3))):
            live = column[members] >= 0
            if live.any():
                rows = np.repeat(self.row[live][:, None], 3, axis=1)
                found.append((k, live, rows, (column[members[live]] + at)[:, None] + np.arange(3)))
        return found


#: Rows that ask for all axes of both ends.
_WHOLE = frozenset({"turn", "lean", "upright", "reach", "screw", "beside", "travel"})


class System:
    """`turns` lets members turn, and not only shift."""

    def __init__(self, mechanism: Mechanism, driven: bool = True, turns: bool = True) -> None:
        self.mechanism = mechanism
        self.turns = turns
        self.size = max([m.size for m in mechanism.members] or [1.0])
        free = [i for i, m in enumerate(mechanism.members) if not m.anchored]
        self.free = free
        self.column = np.full(len(mechanism.members), -1)
        self.column[free] = np.arange(len(free)) * 6
        self.owners: list[str] = []
        #: The coordinate a row holds; none of what its kind takes away.
        self.held: list[str | None] = []
        #: Whether a row counts lengths (in units of the size), or angles.
        self.lengths: list[bool] = []
        gathered = _Gathered()
        for pair in mechanism.pairs:
            for row, value, name in _rows(pair, driven):
                gathered.add(pair, row, value, len(self.owners))
                self.held.append(name)
                self.owners.append(pair.id)
                self.lengths.append(row[0] not in _ANGLES)
        self.rows = [(g, g.blocks(self.column)) for g in gathered.rows()]
        self.own = len(self.owners)
        self._couple(mechanism)

    def _couple(self, mechanism: Mechanism) -> None:
        """Rows of couplings: sums of what joints have moved since the reference."""
        stood = mechanism.reference or tuple(m.pose for m in mechanism.members)
        pairs = {p.id: p for p in mechanism.pairs}
        gathered = _Gathered()
        shares: list[tuple[int, int, float]] = []
        for coupling in mechanism.couplings:
            if any(t.pair not in pairs for t in coupling.terms):
                continue
            used = [pairs[t.pair] for t in coupling.terms]
            rows = [
                c.row for t, p in zip(coupling.terms, used, strict=True)
                if (c := p.joint.coordinate(t.coordinate)) is not None
            ]  # fmt: skip
            if len(rows) != len(used):
                continue
            length = any(row[0] == "along" for row in rows)
            for term, pair, row in zip(coupling.terms, used, rows, strict=True):
                now = mechanism.coordinates(pair, stood)[term.coordinate]
                slide = row[0] == "along"
                # Slides are counted in units of the size already.
                factor = (
                    term.factor * (self.size if slide else 1.0) / (self.size if length else 1.0)
                )
                shares.append((len(self.owners), len(shares), factor))
                offset = pair.offset if row in OFFSET else 0.0
                gathered.add(pair, row, now + offset, len(shares) - 1)
            self.owners.append(coupling.id)
            self.held.append(None)
            self.lengths.append(length)
        self.terms = [(g, g.blocks(self.column)) for g in gathered.rows()]
        self.shares = np.zeros((len(self.owners) - self.own, len(shares)))
        for at, term_at, factor in shares:
            self.shares[at - self.own, term_at] = factor

    def evaluate(self, p: Floats, q: Floats) -> tuple[Floats, Floats]:
        """Residuals (in units of the mechanism's size) and dense Jacobian."""
        R = rotations_of(q)
        r, J = self._put(self.rows, self.own, p, R)
        if self.terms:
            r2, J2 = self._put(self.terms, self.shares.shape[1], p, R)
            r, J = np.concatenate([r, self.shares @ r2]), np.vstack([J, self.shares @ J2])
        if not self.turns:
            J.reshape(len(r), len(self.free), 6)[:, :, 3:] = 0.0
        return r, J

    def _put(
        self, rows: Sequence[tuple[_Rows, list[_Block]]], count: int, p: Floats, R: Floats
    ) -> tuple[Floats, Floats]:
        r = np.zeros(count)
        J = np.zeros((count, 6 * len(self.free)))
        for g, blocks in rows:
            value, grads = _TYPES[g.type](g, p, R, self.size)
            r[g.row] = value
            for k, live, at_row, at_column in blocks:
                if k < len(grads):
                    J[at_row, at_column] += grads[k][live]
        return r, J


_NO_MIRROR = Mirror(0, np.zeros(3), np.zeros(3))


class _Gathered:
    """Rows put down one by one, then all of one type together."""

    def __init__(self) -> None:
        self._items: dict[str, list[tuple[Any, ...]]] = {}

    def add(self, pair: Pair, row: Row, value: float, at: int) -> None:
        if row[0] in _WHOLE:
            u, v = pair.axes_a.ravel(), pair.axes_b.ravel()
        else:
            u = pair.axes_a[:, AXES[row[1]]] if len(row) > 1 else pair.axes_a[:, 0]
            v = pair.axes_b[:, AXES[row[-1]]] if len(row) > 1 else pair.axes_b[:, 0]
        mirror = pair.mirror or _NO_MIRROR
        # Beside a way each of the two directions across it is a type of its own.
        kind = " ".join(row) if row[0] == "beside" else row[0]
        self._items.setdefault(kind, []).append((
            pair.a, pair.b, mirror.member, u, v, mirror.normal, pair.origin_a, pair.origin_b,
            mirror.origin, value, pair.pitch, pair.way, at,
        ))  # fmt: skip

    def rows(self) -> list[_Rows]:
        return [
            _Rows(kind, *(_column(x) for x in zip(*items, strict=True)))
            for kind, items in self._items.items()
        ]


def _column(values: Sequence[Any]) -> np.ndarray:
    """Numbers as they are, ways as things."""
    if not isinstance(values[0], Way):
        return np.array(values)
    found = np.empty(len(values), dtype=object)
    found[:] = values
    return found


def _rows(pair: Pair, driven: bool) -> list[tuple[Row, float, str | None]]:
    """Rows with what they hold at which value."""
    rows: list[tuple[Row, float, str | None]] = [(row, 0.0, None) for row in pair.joint.rows]
    if driven or pair.firm:
        rows += [
            (c.row, pair.values[c.name], c.name)
            for c in pair.joint.coordinates
            if c.name in pair.values
        ]
    # Both the rows and the coordinates of z count from the offset.
    return [
        (row, at + pair.offset if row in OFFSET or row == ("screw",) else at, name)
        for row, at, name in rows
    ]


def _cross(a: Floats, b: Floats) -> Floats:
    """Cross products row by row; numpy's own takes three times as long for few rows."""
    a0, a1, a2 = a.T
    b0, b1, b2 = b.T
    return np.stack([a1 * b2 - a2 * b1, a2 * b0 - a0 * b2, a0 * b1 - a1 * b0], axis=1)


def _apply(R: Floats, v: Floats) -> Floats:
    return np.asarray(np.einsum("nij,nj->ni", R, v))


def _along(g: _Rows, p: Floats, R: Floats, size: float) -> tuple[Floats, list[Floats]]:
    d1 = _apply(R[g.a], g.u)
    w1, w2 = _apply(R[g.a], g.point_a), _apply(R[g.b], g.point_b)
    between = p[g.b] + w2 - p[g.a] - w1
    value = (np.einsum("ni,ni->n", between, d1) - g.value) / size
    turn_a = _cross(d1, between) - _cross(w1, d1)
    # Positions are stepped in units of the size, so their gradients are pure numbers.
    return value, [-d1, turn_a / size, d1, _cross(w2, d1) / size]


def _square(g: _Rows, p: Floats, R: Floats, size: float) -> tuple[Floats, list[Floats]]:
    d1, e2 = _apply(R[g.a], g.u), _apply(R[g.b], g.v)
    turn = _cross(d1, e2)
    none = np.zeros_like(turn)
    return np.einsum("ni,ni->n", d1, e2), [none, turn, none, -turn]


def _turn(g: _Rows, p: Floats, R: Floats, size: float) -> tuple[Floats, list[Floats]]:
    A = R[g.a] @ g.u.reshape(-1, 3, 3)
    B = R[g.b] @ g.v.reshape(-1, 3, 3)
    x2 = B[:, :, 0]
    found = np.arctan2(np.einsum("ni,ni->n", x2, A[:, :, 1]), np.einsum("ni,ni->n", x2, A[:, :, 0]))
    value = np.remainder(found - g.value + np.pi, 2 * np.pi) - np.pi
    z1 = A[:, :, 2]
    none = np.zeros_like(z1)
    return value, [none, -z1, none, z1]


def _lean(g: _Rows, p: Floats, R: Floats, size: float) -> tuple[Floats, list[Floats]]:
    z1 = (R[g.a] @ g.u.reshape(-1, 3, 3))[:, :, 2]
    z2 = (R[g.b] @ g.v.reshape(-1, 3, 3))[:, :, 2]
    across = _cross(z1, z2)
    sine = np.linalg.norm(across, axis=1)
    # Where the axes are in line any turn leads away from it: one square to them is taken.
    spare = np.cross(z1, np.where(np.abs(z1[:, :1]) < 0.9, [[1.0, 0, 0]], [[0, 1.0, 0]]))
    n = np.where(sine[:, None] > 1e-9, across, spare)
    n /= np.linalg.norm(n, axis=1)[:, None]
    value = np.arctan2(sine, np.einsum("ni,ni->n", z1, z2)) - g.value
    none = np.zeros_like(n)
    return value, [none, -n, none, n]


def _upright(g: _Rows, p: Floats, R: Floats, size: float) -> tuple[Floats, list[Floats]]:
    # As an angle: the product of the axes has no slope where they are parallel.
    return _lean(replace(g, value=np.full_like(g.value, np.pi / 2)), p, R, size)


def _between_points(g: _Rows, p: Floats, R: Floats) -> tuple[Floats, Floats, Floats]:
    w1, w2 = _apply(R[g.a], g.point_a), _apply(R[g.b], g.point_b)
    return p[g.b] + w2 - p[g.a] - w1, w1, w2


def _unit(v: Floats, spare: Floats) -> tuple[Floats, Floats]:
    """Lengths and directions; `spare` where there is no length."""
    length = np.linalg.norm(v, axis=1)
    return length, np.where(length[:, None] > 1e-12, v / np.maximum(length, 1e-12)[:, None], spare)


def _apart(g: _Rows, p: Floats, R: Floats, size: float) -> tuple[Floats, list[Floats]]:
    between, w1, w2 = _between_points(g, p, R)
    length, u = _unit(between, _apply(R[g.a], g.u))
    return (length - g.value) / size, [-u, -_cross(w1, u) / size, u, _cross(w2, u) / size]


def _reach(g: _Rows, p: Floats, R: Floats, size: float) -> tuple[Floats, list[Floats]]:
    axes = R[g.a] @ g.u.reshape(-1, 3, 3)
    z = axes[:, :, 2]
    between, w1, w2 = _between_points(g, p, R)
    along = np.einsum("ni,ni->n", between, z)
    length, n = _unit(between - along[:, None] * z, axes[:, :, 0])
    turn_a = -_cross(w1, n) - along[:, None] * _cross(z, n)
    return (length - g.value) / size, [-n, turn_a / size, n, _cross(w2, n) / size]


def _screw(g: _Rows, p: Floats, R: Floats, size: float) -> tuple[Floats, list[Floats]]:
    slide, slides = _along(replace(g, u=g.u.reshape(-1, 3, 3)[:, :, 2]), p, R, size)
    turn, turns = _turn(replace(g, value=np.zeros_like(g.value)), p, R, size)
    per = g.pitch / (2 * np.pi * size)
    whole = np.abs(g.pitch) / size
    off = slide - per * turn
    return off - whole * np.round(off / whole), [
        s - per[:, None] * t for s, t in zip(slides, turns, strict=True)
    ]


def _across(g: _Rows, p: Floats, R: Floats, size: float) -> tuple[Floats, list[Floats]]:
    e, n = _apply(R[g.b], g.v), _apply(R[g.c], g.n)
    w1, w2, w3 = _apply(R[g.a], g.point_a), _apply(R[g.b], g.point_b), _apply(R[g.c], g.point_c)
    there = p[g.a] + w1 - p[g.c] - w3
    s, k = np.einsum("ni,ni->n", there, n)[:, None], np.einsum("ni,ni->n", n, e)[:, None]
    between = p[g.a] + w1 - 2 * s * n - p[g.b] - w2
    image = e - 2 * k * n
    turn_c = 2 * k * (_cross(w3, n) - _cross(n, there)) - 2 * s * _cross(n, e)
    return np.einsum("ni,ni->n", between, e) / size, [
        image, _cross(w1, image) / size, -e, (_cross(e, between) - _cross(w2, e)) / size,
        2 * k * n, turn_c / size,
    ]  # fmt: skip


def _mirrored(g: _Rows, p: Floats, R: Floats, size: float) -> tuple[Floats, list[Floats]]:
    d, e, n = _apply(R[g.a], g.u), _apply(R[g.b], g.v), _apply(R[g.c], g.n)
    t, k = np.einsum("ni,ni->n", n, d)[:, None], np.einsum("ni,ni->n", n, e)[:, None]
    seen, image = d - 2 * t * n, e - 2 * k * n
    none = np.zeros_like(n)
    turn_c = -2 * k * _cross(n, d) - 2 * t * _cross(n, e)
    return np.einsum("ni,ni->n", seen, e), [
        none, _cross(d, image), none, _cross(e, seen), none, turn_c,
    ]  # fmt: skip


def _feet(g: _Rows, p: Floats, R: Floats) -> list[tuple[Way, Floats, Foot]]:
    """The way of each row, where the point of b is in the axes of it, and its foot."""
    A = R[g.a] @ g.u.reshape(-1, 3, 3)
    between, _, _ = _between_points(g, p, R)
    local = np.einsum("nji,nj->ni", A, between)
    return [(way, x, way.foot(x)) for way, x in zip(g.way, local, strict=True)]


def _along_way(g: _Rows, p: Floats, R: Floats, size: float, across: Floats) -> list[Floats]:
    """Gradients of going along directions that are given in the axes of a."""
    u = np.einsum("nij,nj->ni", g.u.reshape(-1, 3, 3), across)
    return _along(replace(g, u=u), p, R, size)[1]


def _beside(axis: int, g: _Rows, p: Floats, R: Floats, size: float) -> tuple[Floats, list[Floats]]:
    found = [(x - f.at, np.array(_square_to(f.way))[axis]) for _, x, f in _feet(g, p, R)]
    off = np.array([float(d @ n) for d, n in found])
    return off / size, _along_way(g, p, R, size, np.array([n for _, n in found]))


def _square_to(way: Floats) -> tuple[Floats, Floats]:
    """Two directions square to one and to each other."""
    guide = np.eye(3)[int(np.argmin(np.abs(way)))]
    x = np.cross(guide, way)
    x /= np.linalg.norm(x)
    return x, np.cross(way, x)


def _travel(g: _Rows, p: Floats, R: Floats, size: float) -> tuple[Floats, list[Floats]]:
    feet = _feet(g, p, R)
    off = np.array([f.travel for _, _, f in feet]) - g.value
    whole = np.array([way.length for way, _, _ in feet])
    closed = np.array([way.closed for way, _, _ in feet])
    off = np.where(closed, off - whole * np.round(off / whole), off)
    return off / size, _along_way(g, p, R, size, np.array([f.way for _, _, f in feet]))


_TYPES: dict[str, Callable[[_Rows, Floats, Floats, float], tuple[Floats, list[Floats]]]] = {
    "along": _along, "square": _square, "turn": _turn, "lean": _lean, "apart": _apart,
    "reach": _reach, "screw": _screw, "upright": _upright, "across": _across, "mirrored": _mirrored,
    "beside x": partial(_beside, 0), "beside y": partial(_beside, 1), "travel": _travel,
}  # fmt: skip
_ANGLES = frozenset({"square", "turn", "lean", "upright", "mirrored"})


def stepped(system: System, p: Floats, q: Floats, step: Floats) -> tuple[Floats, Floats]:
    p, q = p.copy(), q.copy()
    d = step.reshape(-1, 6)
    p[system.free] += d[:, :3] * system.size
    q[system.free] = turned_all(q[system.free], d[:, 3:])
    return p, q


def turned_all(q: Floats, spin: Floats) -> Floats:
    """Quaternions (n, 4) followed by small rotation vectors (n, 3) in outer coordinates."""
    angle = np.linalg.norm(spin, axis=1)
    half = 0.5 * angle
    share = np.where(angle > 1e-12, np.sin(half) / np.maximum(angle, 1e-12), 0.5)
    w1, (x1, y1, z1) = np.cos(half), (share[:, None] * spin).T
    w2, x2, y2, z2 = q.T
    made = np.stack(
        [
            w1 * w2 - x1 * x2 - y1 * y2 - z1 * z2,
            w1 * x2 + x1 * w2 + y1 * z2 - z1 * y2,
            w1 * y2 - x1 * z2 + y1 * w2 + z1 * x2,
            w1 * z2 + x1 * y2 - y1 * x2 + z1 * w2,
        ],
        axis=1,
    )
    return np.asarray(made / np.linalg.norm(made, axis=1)[:, None])


def arrays(poses: Sequence[Pose]) -> tuple[Floats, Floats]:
    return np.array([x.p for x in poses]).reshape(-1, 3), np.array([x.q for x in poses]).reshape(
        -1, 4
    )


def poses_of(p: Floats, q: Floats) -> list[Pose]:
    return [Pose(p[i], q[i]) for i in range(len(p))]
