"""Putting components where their joints want them: damped Gauss-Newton on poses.

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
Redundant but consistent rows need no care because of the damping.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any

import numpy as np
import scipy.linalg
import scipy.sparse
import scipy.sparse.linalg

from vireo.core.assembly.mechanism import Mechanism, Mirror, Pair
from vireo.core.assembly.parts import merged, split
from vireo.core.assembly.pose import Floats, Pose, quaternion_of, rotation_of, rotations_of, turned
from vireo.core.declared.joint import AXES, OFFSET, Row, Turn
from vireo.core.ways import Foot, Way

#: A solved joint is nowhere further off than this share of the mechanism's size.
GOOD = 1e-9
_ACCEPT = 1e-7
_DENSE = 180
#: How often a joint that stands against its sense is turned over and all solved anew.
_TURNS = 4
_RANK = 1e-7
#: What stands this near a limit (mm or rad) stands at it: no solution is nearer.
_AT = 1e-6


@dataclass
class Solution:
    """Poses and what is known of them. `freedom` counts all that is left to move.

    `loose` gives the number of independent motions per free member; `redundant` counts rows
    that say nothing new; `broken` are joints that do not hold, worst first.
    """

    poses: list[Pose]
    holds: bool
    worst: float
    freedom: int = 0
    loose: dict[str, int] = field(default_factory=dict)
    redundant: int = 0
    repeats: list[str] = field(default_factory=list)
    broken: list[str] = field(default_factory=list)
    #: By how much those do not hold in the best compromise: mm, or rad where only an angle is off.
    gaps: dict[str, tuple[float, bool]] = field(default_factory=dict)
    #: Joints of linkages that stand at a change point: there they may go on in two ways.
    turning: set[str] = field(default_factory=set)
    #: Coordinates of each joint by name: rad or mm.
    coordinates: dict[str, dict[str, float]] = field(default_factory=dict)


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


class _System:
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
        #: Whether a row counts lengths (in units of the size), or angles.
        self.lengths: list[bool] = []
        gathered = _Gathered()
        for pair in mechanism.pairs:
            for row, value in _rows(pair, driven):
                gathered.add(pair, row, value, len(self.owners))
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


def _rows(pair: Pair, driven: bool) -> list[tuple[tuple[str, ...], float]]:
    rows = [(row, 0.0) for row in pair.joint.rows]
    if driven or pair.firm:
        rows += [
            (c.row, pair.values[c.name]) for c in pair.joint.coordinates if c.name in pair.values
        ]
    # Both the rows and the coordinates of z count from the offset.
    return [
        (row, at + pair.offset if row in OFFSET or row == ("screw",) else at) for row, at in rows
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


def _solve_step(J: Floats, r: Floats, damping: float) -> Floats:
    n = J.shape[1]
    if n <= _DENSE:
        # The upper half is all that a symmetric matrix has to say.
        A = scipy.linalg.blas.dsyrk(1.0, J.T)
        A[np.diag_indices_from(A)] += damping
        _, step, failed = scipy.linalg.lapack.dposv(A, -(J.T @ r), overwrite_a=True)
        if failed:
            raise np.linalg.LinAlgError("the damped equations are not positive")
        return np.asarray(step).ravel()
    S = scipy.sparse.csr_matrix(J)
    A2 = scipy.sparse.csc_matrix(S.T @ S + damping * scipy.sparse.identity(n))
    lu = scipy.sparse.linalg.splu(
        A2, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True}
    )
    return np.asarray(lu.solve(-np.asarray(S.T @ r)))


def _moved(system: _System, p: Floats, q: Floats, step: Floats) -> tuple[Floats, Floats]:
    p, q = p.copy(), q.copy()
    d = step.reshape(-1, 6)
    p[system.free] += d[:, :3] * system.size
    q[system.free] = _turned(q[system.free], d[:, 3:])
    return p, q


def _turned(q: Floats, spin: Floats) -> Floats:
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


def _iterate(system: _System, p: Floats, q: Floats, most: int = 60) -> tuple[Floats, Floats, float]:
    if not system.owners or not system.free:
        r = system.evaluate(p, q)[0] if system.owners else np.zeros(0)
        return p, q, float(np.abs(r).max(initial=0.0))
    damping = 1e-9
    r, J = system.evaluate(p, q)
    cost = float(r @ r)
    for _ in range(most):
        if np.abs(r).max(initial=0.0) < GOOD * 0.1:
            break
        step = _solve_step(J, r, damping)
        biggest = float(np.abs(step).max())
        if biggest > 1.0:
            step = step / biggest  # large turns overshoot: at most one radian at a time
        p2, q2 = _moved(system, p, q, step)
        r2, J2 = system.evaluate(p2, q2)
        cost2 = float(r2 @ r2)
        if np.isfinite(cost2) and cost2 < cost:
            stalled = cost2 > cost * (1 - 1e-10)
            p, q, r, J, cost = p2, q2, r2, J2, cost2
            damping = max(damping * 0.2, 1e-10)
            if stalled:
                break
        else:
            damping *= 12.0
            if damping > 1e4:
                break
    return p, q, float(np.abs(r).max(initial=0.0))


def _arrays(poses: Sequence[Pose]) -> tuple[Floats, Floats]:
    return np.array([x.p for x in poses]).reshape(-1, 3), np.array([x.q for x in poses]).reshape(
        -1, 4
    )


def _poses(p: Floats, q: Floats) -> list[Pose]:
    return [Pose(p[i], q[i]) for i in range(len(p))]


def prealigned(mechanism: Mechanism) -> list[Pose]:
    """Start poses with every member carried to its joint, outwards from what is anchored.

    Keeps each joint's present angle or length where it has one, so that little moves.
    """
    poses = [m.pose for m in mechanism.members]
    placed = {i for i, m in enumerate(mechanism.members) if m.anchored} or {0}
    waiting = list(mechanism.pairs)
    while waiting:
        ready = next((x for x in waiting if (x.a in placed) != (x.b in placed)), None)
        if ready is None:
            done = [x for x in waiting if x.a in placed and x.b in placed]
            waiting = [x for x in waiting if x not in done]
            if waiting:
                placed.add(waiting[0].a)
            continue
        waiting.remove(ready)
        values = {
            name: ready.values.get(name, _within(ready, name, now))
            for name, now in mechanism.coordinates(ready, poses).items()
        }
        relative = _between(ready, values, poses) if ready.joint.complete else _leaned(ready, poses)
        if ready.a in placed:
            poses[ready.b] = poses[ready.a] @ relative
            placed.add(ready.b)
        else:
            poses[ready.a] = poses[ready.b] @ relative.inverse()
            placed.add(ready.a)
    return poses


def _within(pair: Pair, name: str, value: float) -> float:
    """A coordinate brought between its limits."""
    least, most = pair.least(name), pair.most(name)
    value = value if least is None else max(value, least)
    return value if most is None else min(value, most)


def _between(pair: Pair, values: Mapping[str, float], poses: Sequence[Pose]) -> Pose:
    """Pose of b in a when the joint holds at its coordinates; turns that none describes stay."""
    shift, turn = np.array([0.0, 0.0, pair.offset]), 0.0
    for coordinate in pair.joint.coordinates:
        along, about = coordinate.motion(values[coordinate.name], pair.pitch)
        shift, turn = shift + along, turn + about
    c, s = np.cos(turn), np.sin(turn)
    spun = pair.axes_a @ np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])
    rotation = spun @ pair.axes_b.T
    if pair.joint.free_turn:
        rotation = poses[pair.a].rotation.T @ poses[pair.b].rotation
    origin = pair.origin_a + pair.axes_a @ shift
    return Pose(origin - rotation @ pair.origin_b, quaternion_of(rotation))


def _leaned(pair: Pair, poses: Sequence[Pose]) -> Pose:
    """Pose of b in a as they stand, but for the least turn about the point of b that brings axes
    which are to be parallel into one sense."""
    a, b = poses[pair.a], poses[pair.b]
    if pair.joint.aligned:
        z_a, z_b = a.rotation @ pair.axes_a[:, 2], b.rotation @ pair.axes_b[:, 2]
        if pair.mirror is not None:
            z_a = pair.mirror.image(poses[pair.mirror.member].rotation, z_a)
        axis, lean = np.cross(z_b, z_a), float(z_a @ z_b)
        length = float(np.linalg.norm(axis))
        about = axis / length if length > 1e-9 else b.rotation @ pair.axes_b[:, 0]
        through = b.out(pair.origin_b)
        q = turned(np.array([1.0, 0.0, 0.0, 0.0]), about * np.arctan2(length, lean))
        b = Pose(through - rotation_of(q) @ through, q) @ b
    return a.inverse() @ b


def solve(mechanism: Mechanism, diagnose: bool = True) -> Solution:
    """Poses that hold all joints, from where the members stand now.

    Never raises for joints that cannot hold: `holds` is False, `broken` names them, and the
    poses are those given.
    """
    small = merged(mechanism)
    poses = [m.pose for m in small.mechanism.members]
    whole = Solution([m.pose for m in mechanism.members], True, 0.0)
    loose = dict.fromkeys((m.id for m in small.mechanism.members if not m.anchored), 6)
    for part in split(small.mechanism):
        found = _solve_part(part.mechanism, diagnose)
        whole.holds = whole.holds and found.holds
        whole.worst = max(whole.worst, found.worst)
        whole.redundant += found.redundant
        whole.repeats += found.repeats
        whole.broken += found.broken
        whole.gaps |= found.gaps
        whole.turning |= found.turning
        loose |= found.loose
        whole.freedom += found.freedom
        for i, pose in zip(part.members, found.poses, strict=True):
            poses[i] = pose
    if diagnose:
        ids = [m.id for m in small.mechanism.members]
        whole.loose = {
            m.id: loose[ids[g]]
            for m, g in zip(mechanism.members, small.group, strict=True)
            if not small.mechanism.members[g].anchored and not m.anchored
        }
        whole.loose |= {
            m.id: 0 for m, g in zip(mechanism.members, small.group, strict=True)
            if small.mechanism.members[g].anchored and not m.anchored
        }  # fmt: skip
        order = {p.id: k for k, p in enumerate(mechanism.pairs)}
        whole.repeats.sort(key=lambda id: order.get(id, len(order)))
    if whole.holds:
        whole.poses = small.out(poses)
    elif len(small.mechanism.members) < len(mechanism.members):
        _name_all(mechanism, whole)
    for pair in mechanism.pairs:
        whole.coordinates[pair.id] = mechanism.coordinates(pair, whole.poses)
    return whole


def _name_all(mechanism: Mechanism, whole: Solution) -> None:
    """Who fights, fixed joints among them: those were taken for granted in what was solved."""
    whole.broken, whole.gaps = [], {}
    for part in split(merged(mechanism, fixed=False).mechanism):
        found = _solve_part(part.mechanism, diagnose=False)
        whole.broken += found.broken
        whole.gaps |= found.gaps


def _solve_part(mechanism: Mechanism, diagnose: bool, system: _System | None = None) -> Solution:
    # Put together anew (and not dragged) something stands still, and nothing turns that need not.
    system = system or _System(_steady(mechanism) if diagnose else mechanism)
    start = [m.pose for m in mechanism.members]
    found = _shifted(system, start) if diagnose else None
    p, q, worst = found or _iterate(system, *_arrays(start))
    flipped = _flipped(mechanism, q)
    if worst > _ACCEPT or flipped:
        p2, q2, worst2 = _iterate(system, *_arrays(prealigned(mechanism)))
        flipped2 = _flipped(mechanism, q2)
        if (len(flipped2), worst2) < (len(flipped), worst) or (not flipped2 and worst2 <= _ACCEPT):
            p, q, worst, flipped = p2, q2, worst2, flipped2
    # While something is dragged or driven it does not go over to the other side by a leap.
    for _ in range(_TURNS if diagnose else 0):
        if not flipped:
            break
        p2, q2, worst2 = _iterate(system, *_turned_over(mechanism, system, p, q, flipped))
        flipped2 = _flipped(mechanism, q2)
        if (len(flipped2), worst2 > _ACCEPT) > (len(flipped), worst > _ACCEPT):
            break
        p, q, worst, flipped = p2, q2, worst2, flipped2
    holds = worst <= _ACCEPT and not flipped
    solution = Solution(_poses(p, q) if holds else start, holds, worst * system.size)
    if not holds:
        r, _ = system.evaluate(p, q)
        order = np.argsort(-np.abs(r))
        names = [system.owners[i] for i in order if abs(r[i]) > max(_ACCEPT, 0.05 * worst)]
        solution.broken = list(dict.fromkeys([*flipped, *names]))
        solution.gaps = _gaps(system, r)
    if diagnose:
        _diagnose(mechanism, p, q, solution)
    return solution


def _steady(mechanism: Mechanism) -> Mechanism:
    """The same with the first member held where nothing is: wherever that stands the rest can be."""
    first, *rest = mechanism.members
    if any(m.anchored for m in mechanism.members):
        return mechanism
    return replace(mechanism, members=(replace(first, anchored=True), *rest))


def _shifted(system: _System, start: Sequence[Pose]) -> tuple[Floats, Floats, float] | None:
    """Poses that hold all joints with nothing turned; None where there are none near by."""
    p, q, worst = _iterate(_System(system.mechanism, turns=False), *_arrays(start))
    return None if worst > _ACCEPT or _flipped(system.mechanism, q) else (p, q, worst)


def _gaps(system: _System, r: Floats) -> dict[str, tuple[float, bool]]:
    """How far off each joint is at the worst, and whether that is a length: lengths first."""
    found: dict[str, tuple[float, bool]] = {}
    for owner, off, length in zip(system.owners, np.abs(r), system.lengths, strict=True):
        if off <= _ACCEPT:
            continue
        size = float(off) * (system.size if length else 1.0)
        known = found.get(owner)
        if known is None or (length, size) > (known[1], known[0] if known[1] == length else -1.0):
            found[owner] = (size, length)
    return found


def _turned_over(
    mechanism: Mechanism, system: _System, p: Floats, q: Floats, flipped: list[str]
) -> tuple[Floats, Floats]:
    """The same with the first joint that stands against its sense turned over: the side of it that is
    free, half a turn about the joint's own x."""
    pair = next(x for x in mechanism.pairs if x.id == flipped[0])
    i, origin, axes = pair.b, pair.origin_b, pair.axes_b
    if i not in system.free:
        i, origin, axes = pair.a, pair.origin_a, pair.axes_a
    pose = Pose(p[i], q[i])
    through, about = pose.out(origin), pose.rotation @ axes[:, 0]
    over = turned(np.array([1.0, 0.0, 0.0, 0.0]), np.pi * about)
    made = Pose(through - rotation_of(over) @ through, over) @ pose
    p, q = p.copy(), q.copy()
    p[i], q[i] = made.p, made.q
    return p, q


def _flipped(mechanism: Mechanism, q: Floats) -> list[str]:
    """Joints whose axes point against each other: the rows of parallel axes hold both ways."""
    R = rotations_of(q)
    return [x.id for x in mechanism.pairs if x.joint.aligned and x.sense(R) < 0.0]


def _diagnose(mechanism: Mechanism, p: Floats, q: Floats, solution: Solution) -> None:
    """Freedoms with nothing driven. Where a linkage stands at a change point the rank drops for
    that one pose only: what it has a little further on counts, and the point is told."""
    system = _System(mechanism, driven=False)
    n = 6 * len(system.free)
    if n == 0:
        solution.redundant = len(system.owners)
        solution.repeats = list(dict.fromkeys(system.owners))
        return
    if not system.owners:
        solution.freedom = n
        solution.loose = {mechanism.members[i].id: 6 for i in system.free}
        return
    _, J = system.evaluate(p, q)
    rank, null = _null(J)
    closed = len(system.owners) - rank > 0
    if closed and rank < n and solution.holds:
        moved = _further(system, p, q, null)
        if moved is not None:
            J2 = system.evaluate(*moved)[1]
            rank2, null2 = _null(J2)
            if rank2 > rank:
                solution.turning = set(system.owners)
                J, rank, null = J2, rank2, null2
    solution.freedom = n - rank
    solution.redundant = len(system.owners) - rank
    for k, i in enumerate(system.free):
        part = null[:, 6 * k : 6 * k + 6]
        loose = int((np.linalg.svd(part, compute_uv=False) > 1e-6).sum()) if part.size else 0
        solution.loose[mechanism.members[i].id] = loose
    if solution.redundant:
        solution.repeats = _repeats(J, system.owners)


def _null(J: Floats) -> tuple[int, Floats]:
    """Rank of a matrix and an orthonormal basis (rows) of what it takes to nothing."""
    n = J.shape[1]
    if n <= 300:
        _, s, vt = np.linalg.svd(J, full_matrices=True)
        rank = int((s > _RANK * max(s[0], 1e-12)).sum()) if s.size else 0
        return rank, vt[rank:]
    # Eigenvalues of the square: half the digits, a third of the time.
    values, vectors = scipy.linalg.eigh(J.T @ J, check_finite=False)
    free = values < max(_RANK**2, 4e-16 * n) * max(float(values[-1]), 1e-24)
    return n - int(free.sum()), vectors[:, free].T


def _further(system: _System, p: Floats, q: Floats, null: Floats) -> tuple[Floats, Floats] | None:
    """A pose a hair along a motion that is free here, if there is one that holds."""
    way = np.random.default_rng(1).normal(size=len(null)) @ null
    p2, q2 = _moved(system, p, q, 3e-3 * way / max(float(np.abs(way).max()), 1e-12))
    p2, q2, worst = _iterate(system, p2, q2)
    return (p2, q2) if worst <= _ACCEPT else None


def _repeats(J: Floats, owners: list[str]) -> list[str]:
    """Joints all or part of which older joints already say, in order of making."""
    basis = np.zeros((min(J.shape), J.shape[1]))
    count = 0
    found = []
    for row, owner in zip(J, owners, strict=True):
        rest = row
        for _ in range(2):
            rest = rest - (basis[:count] @ rest) @ basis[:count]
        norm = np.linalg.norm(rest)
        if count == len(basis) or norm < 1e-7 * max(1.0, float(np.linalg.norm(row))):
            found.append(owner)
        else:
            basis[count] = rest / norm
            count += 1
    return list(dict.fromkeys(found))


def drag(
    mechanism: Mechanism, member: int, grip: Floats, target: Floats, weight: float = 0.03
) -> Solution:
    """Pull a point of a member (`grip`, its own coordinates) towards `target` (outer, mm).

    The joints hold; limits of joint coordinates stop it. Only what hangs together with the member
    is solved.
    """
    small = merged(mechanism)
    group = small.group[member]
    poses = [m.pose for m in small.mechanism.members]
    part = next((x for x in split(small.mechanism) if group in x.members), None)
    if part is None or small.mechanism.members[group].anchored:
        return solve(mechanism, diagnose=False)
    inner = small.inner[member].out(grip)
    found = _drag_part(part.mechanism, part.members.index(group), inner, target, weight)
    for i, pose in zip(part.members, found.poses, strict=True):
        poses[i] = pose
    whole = Solution(small.out(poses), found.holds, found.worst, broken=found.broken)
    for pair in mechanism.pairs:
        whole.coordinates[pair.id] = mechanism.coordinates(pair, whole.poses)
    return whole


def _drag_part(
    mechanism: Mechanism, member: int, grip: Floats, target: Floats, weight: float
) -> Solution:
    system = _System(mechanism)
    p, q = _arrays([m.pose for m in mechanism.members])
    column = int(system.column[member])
    for _ in range(6):
        r, J = system.evaluate(p, q)
        arm = rotations_of(q[member : member + 1])[0] @ grip
        gap = (p[member] + arm - target) / system.size
        extra = np.zeros((3, J.shape[1]))
        extra[:, column : column + 3] = weight * np.eye(3)
        x, y, z = arm / system.size
        extra[:, column + 3 : column + 6] = weight * np.array(
            [[0.0, z, -y], [-z, 0.0, x], [y, -x, 0.0]]
        )
        step = _solve_step(np.vstack([J, extra]), np.concatenate([r, weight * gap]), 1e-8)
        biggest = float(np.abs(step).max())
        p, q = _moved(system, p, q, step / max(1.0, biggest / 0.5))
        # The joints are settled to the end afterwards; what is pulled follows the hand well enough.
        if biggest < 1e-4:
            break
    pulled = mechanism.with_poses(_poses(p, q))
    found = _solve_part(pulled, diagnose=False, system=system)
    for pair in mechanism.pairs:
        if pair.limits:
            found.coordinates[pair.id] = mechanism.coordinates(pair, found.poses)
    over = beyond(mechanism, found.coordinates)
    if over:
        held = mechanism.with_poses(found.poses)
        for (id, name), limit in over.items():
            held = held.with_value(id, name, limit)
        found = _solve_part(held, diagnose=False)
    return found


#: The largest turn between two looks at what is coupled (rad): beyond half a turn its sense is lost.
_LOOK = np.pi / 3
#: In how many steps a whole way is gone along.
_STRETCHES = 48


def driven_to(
    mechanism: Mechanism, pair: str, coordinate: str, value: float
) -> tuple[Mechanism, Solution]:
    """A coordinate driven to a value, the short way round, in steps where others are coupled to it:
    the mechanism with it held there, and its solution. Where a step does not hold it stays before
    that."""
    found = mechanism.pair(pair)
    if found is None or not (mechanism.couplings or found.way):
        held = mechanism.with_value(pair, coordinate, value)
        return held, solve(held, diagnose=False)
    now = mechanism.coordinates(found, [m.pose for m in mechanism.members])[coordinate]
    step = value - now
    if found.way is not None and found.way.closed:
        step -= found.way.length * round(step / found.way.length)
    turns = isinstance(found.joint.coordinate(coordinate), Turn)
    if turns and coordinate not in found.limits:
        step = float(np.remainder(step + np.pi, 2 * np.pi) - np.pi)
    count = int(np.ceil(mechanism.turned_by(pair, coordinate, step) / _LOOK))
    if found.way is not None:
        # A long leap along a bent way may land on another stretch of it.
        count = max(count, int(np.ceil(abs(step) / found.way.length * _STRETCHES)))
    count = min(max(count, 1), 5000)
    here = mechanism
    for k in range(1, count + 1):
        held = here.with_value(pair, coordinate, now + step * k / count)
        moved = solve(held, diagnose=False)
        if not moved.holds:
            return held, moved
        here = held.with_poses(moved.poses)
    return held, moved


def driven_within(
    mechanism: Mechanism, pair: str, coordinate: str, value: float
) -> tuple[Solution, str | None]:
    """The same, as far as the limits of all joints let it go; with the joint that stopped it.

    What is held elsewhere follows where it is tied to this one.
    """
    _, found = driven_to(mechanism, pair, coordinate, value)
    if not found.holds:
        mechanism = mechanism.loosened(pair)
        _, found = driven_to(mechanism, pair, coordinate, value)
    poses = [m.pose for m in mechanism.members]
    before = {p.id: mechanism.coordinates(p, poses) for p in mechanism.pairs}
    # What stands beyond its limit already bars nothing: it may be driven back.
    already = {id for id, _ in beyond(mechanism, before)}

    def over(tried: Solution) -> set[str]:
        return {id for id, _ in beyond(mechanism, tried.coordinates)} - already

    passed = over(found) if found.holds else set()
    if pair not in before or not passed:
        return found, None
    low = before[pair][coordinate]
    best, stopped = None, next(iter(passed))
    high = value
    for _ in range(14):
        middle = 0.5 * (low + high)
        _, tried = driven_to(mechanism, pair, coordinate, middle)
        if tried.holds and not over(tried):
            low, best = middle, tried
        else:
            high = middle
    if best is None:
        best = solve(mechanism, diagnose=False)
    return best, stopped


def driven_home(mechanism: Mechanism) -> Mechanism:
    """Members where held values lead by way of all that is coupled to them: at once some would
    turn by more than can be told apart. As it was where that cannot be."""
    if not mechanism.couplings:
        return mechanism
    held = [(p.id, n, v) for p in mechanism.pairs if not p.firm for n, v in p.values.items()]
    loose = mechanism.loosened("")
    start = solve(loose, diagnose=False)
    if not start.holds:
        return mechanism
    here = loose.with_poses(start.poses)
    for id, name, value in held:
        here, found = driven_to(here, id, name, value)
        if not found.holds:
            return mechanism
        here = replace(here.with_poses(found.poses), reference=None)
    return mechanism.with_poses([m.pose for m in here.members])


def within_limits(mechanism: Mechanism, found: Solution, of: Collection[str]) -> Solution:
    """The same with some joints brought to the limits they stand beyond; as it was where that
    cannot hold."""
    now = found
    for _ in range(4):
        over = {k: v for k, v in beyond(mechanism, now.coordinates).items() if k[0] in of}
        if not over or not now.holds:
            break
        held = mechanism.with_poses(now.poses)
        for (id, name), limit in over.items():
            held = held.with_value(id, name, limit)
        moved = solve(held, diagnose=False)
        if not moved.holds:
            return found
        now = replace(found, poses=moved.poses, coordinates=moved.coordinates)
    return now


def droppable(mechanism: Mechanism, broken: Sequence[str], most: int = 8) -> list[str]:
    """Which of some joints that cannot hold together the others would hold without, each tried."""
    found = []
    for id in broken[:most]:
        rest = replace(
            mechanism,
            pairs=tuple(p for p in mechanism.pairs if p.id != id),
            couplings=tuple(c for c in mechanism.couplings if c.id != id),
        )
        if solve(rest, diagnose=False).holds:
            found.append(id)
    return found


def beyond(
    mechanism: Mechanism, coordinates: Mapping[str, Mapping[str, float]]
) -> dict[tuple[str, str], float]:
    """Coordinates outside their limits, by joint and name, with the limit they passed."""
    found = {}
    for pair in mechanism.pairs:
        for name, value in coordinates.get(pair.id, {}).items():
            least, most = pair.least(name), pair.most(name)
            if least is not None and value < least - _AT:
                found[pair.id, name] = least
            elif most is not None and value > most + _AT:
                found[pair.id, name] = most
    return found
