"""The equations of one sketch assembled for solving: aliases taken out, rows grouped by type.

A drag step on a hundred entities has to fit in a frame, so rows of one type are evaluated
together and the pattern of the Jacobian is worked out once per drawing.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import scipy.linalg
import scipy.sparse
import scipy.sparse.linalg
from numpy.typing import NDArray

from vireo.core.sketch.constraints import kind_of
from vireo.core.sketch.model import Drawing
from vireo.core.sketch.residuals import RESIDUALS, Array, Residual
from vireo.core.sketch.seats import Equations, Row, Seats

Ints = NDArray[np.intp]

#: Largest residual of a solved sketch of size 1.
CONVERGED = 1e-10
#: Above this many unknowns the sparse factorisation is faster (measured, see benchmarks).
DENSE = 150


class _Classes:
    """Union-find over variables, with the constraint that made each join."""

    def __init__(self, count: int) -> None:
        self.parent = list(range(count))

    def find(self, i: int) -> int:
        while self.parent[i] != i:
            self.parent[i] = self.parent[self.parent[i]]
            i = self.parent[i]
        return i

    def join(self, i: int, j: int) -> bool:
        a, b = self.find(i), self.find(j)
        if a == b:
            return False
        self.parent[max(a, b)] = min(a, b)
        return True


@dataclass
class _Group:
    residual: Residual
    index: Ints
    values: Array
    rows: Ints
    owners: list[str]


@dataclass
class System:
    """Unknowns z (one per free class of variables), with p = base, p[free] = z[of]."""

    seats: Seats
    scale: float
    base: Array
    free: Ints
    of: Ints
    start: Array
    groups: list[_Group]
    row_owner: list[str]
    repeated: list[str]
    clashing: list[str]
    empty: list[str]
    column: Ints = field(repr=False)
    #: Owners whose rows may repeat others without being a fault.
    lenient: frozenset[str] = frozenset()

    @property
    def unknowns(self) -> int:
        return len(self.start)

    def expand(self, z: Array) -> Array:
        p = self.base.copy()
        p[self.free] = z[self.of]
        return p

    def evaluate(self, z: Array) -> tuple[Array, Array | scipy.sparse.csr_matrix]:
        """Residuals and their Jacobian with respect to z (dense when small)."""
        p = self.expand(z)
        rows, n = len(self.row_owner), self.unknowns
        r = np.zeros(rows)
        flat: list[Array] = []
        for g in self.groups:
            R, J = g.residual(p[g.index], g.values)
            r[g.rows.ravel()] = R.ravel()
            flat.append(np.broadcast_to(J, (g.rows.shape[0], *g.index.shape)).ravel())
        data = np.concatenate(flat) if flat else np.zeros(0)
        where, keep = self._pattern()
        if n <= DENSE:
            dense = np.bincount(where, weights=data[keep], minlength=rows * n)[: rows * n]
            return r, np.asarray(dense, dtype=np.float64).reshape(rows, n)
        at_row, at_column = np.divmod(where, n)
        return r, scipy.sparse.csr_matrix((data[keep], (at_row, at_column)), shape=(rows, n))

    _where: tuple[Ints, Ints] | None = field(default=None, repr=False)

    def _pattern(self) -> tuple[Ints, Ints]:
        """Flat places of all Jacobian entries and which entries belong to unknowns."""
        if self._where is None:
            places = []
            for g in self.groups:
                columns = self.column[g.index]
                rows = np.broadcast_to(g.rows[:, None, :], (g.rows.shape[0], *columns.shape))
                flat = rows * self.unknowns + columns[None]
                places.append(np.where(columns[None] >= 0, flat, -1).ravel())
            where = np.concatenate(places) if places else np.zeros(0, dtype=np.intp)
            keep = np.flatnonzero(where >= 0)
            self._where = where[keep].astype(np.intp), keep
        return self._where


def assemble(
    drawing: Drawing, values: dict[str, float], skip: frozenset[str] = frozenset()
) -> System:
    """Build the equations. `values` gives driving dimensions in mm or rad by constraint id.

    Reference dimensions, and those in `skip`, put no equation.
    """
    seats = Seats.of(drawing)
    scale = seats.scale
    found: list[tuple[str, Equations]] = [(e.id, e.inner(seats)) for e in drawing.entities]
    found += [
        (c.id, kind_of(c, seats).equations(seats, c, values.get(c.id, 0.0)))
        for c in drawing.constraints
        if not c.reference and c.id not in skip
    ]
    lenient = frozenset(e.id for e in drawing.entities)
    lenient |= {c.id for c in drawing.constraints if c.linked}
    # Constraints may have brought variables of their own.
    p = np.array(seats.start)
    classes = _Classes(len(p))
    constant = dict(seats.constant)
    repeated, clashing, rows, owners = [], [], list[Row](), list[str]()
    for owner, equations in found:
        known = 0
        for i, j in equations.aliases:
            known += 0 if classes.join(i, j) else 1
        if equations.aliases and known == len(equations.aliases) and not equations.rows:
            repeated.append(owner)
        for i in equations.fixed:
            constant[i] = float(p[i])
        rows += equations.rows
        owners += [owner] * len(equations.rows)

    fixed: dict[int, float] = {}
    for i, value in constant.items():
        root = classes.find(i)
        if root in fixed and abs(fixed[root] - value) > 1e-9 * scale:
            clashing += [c.id for c in drawing.constraints if c.type == "coincident"][-1:]
        fixed.setdefault(root, value)
    roots = np.array([classes.find(i) for i in range(len(p))])
    free_roots = [int(r) for r in np.unique(roots) if int(r) not in fixed]
    column_of = {root: k for k, root in enumerate(free_roots)}
    column = np.array([column_of.get(int(r), -1) for r in roots], dtype=np.intp)
    base = p / scale
    for i, root in enumerate(roots):
        if int(root) in fixed:
            base[i] = fixed[int(root)] / scale
    free = np.flatnonzero(column >= 0)
    of = column[free]
    counts = np.bincount(of, minlength=len(free_roots))
    start = np.bincount(of, weights=p[free] / scale, minlength=len(free_roots)) / np.maximum(
        counts, 1
    )
    groups, row_owner, empty = _grouped(rows, owners, scale, column)
    return System(
        seats, scale, base, free, of, start, groups, row_owner,
        [r for r in repeated if r not in lenient], clashing, empty, column, lenient=lenient,
    )  # fmt: skip


def _grouped(
    rows: list[Row], owners: list[str], scale: float, column: Ints
) -> tuple[list[_Group], list[str], list[str]]:
    """Rows gathered by type, in creation order within the whole."""
    row_owner: list[str] = []
    first: list[int] = []
    empty: list[str] = []
    for row, owner in zip(rows, owners, strict=True):
        first.append(len(row_owner))
        row_owner += [owner] * row.count
        if not any(column[v] >= 0 for v in row.variables):
            empty.append(owner)
    groups = []
    alike: dict[tuple[str | Residual, int], list[int]] = {}
    for i, row in enumerate(rows):
        alike.setdefault((row.residual, len(row.values)), []).append(i)
    for (name, _), members in alike.items():
        residual = RESIDUALS[name] if isinstance(name, str) else name
        index = np.array([rows[i].variables for i in members], dtype=np.intp).T
        values = np.array(
            [[v / scale if rows[i].scaled else v for v in rows[i].values] for i in members]
        ).T
        at = np.array(
            [[first[i] + k for i in members] for k in range(rows[members[0]].count)], dtype=np.intp
        )
        groups.append(_Group(residual, index, values, at, [owners[i] for i in members]))
    return groups, row_owner, empty


def _step(J: Array | scipy.sparse.csr_matrix, r: Array, damping: float) -> Array:
    """Solve (JᵀJ + λI) dx = -Jᵀ r."""
    g = -(J.T @ r)
    A = J.T @ J
    if isinstance(A, np.ndarray):
        A[np.diag_indices_from(A)] += damping
        try:
            factor = scipy.linalg.cho_factor(A, check_finite=False, overwrite_a=True)
        except np.linalg.LinAlgError:
            A[np.diag_indices_from(A)] += 1e-6
            factor = scipy.linalg.cho_factor(A, check_finite=False)
        return np.asarray(scipy.linalg.cho_solve(factor, g, check_finite=False))
    A = scipy.sparse.csc_matrix(A + damping * scipy.sparse.identity(A.shape[0], format="csr"))
    lu = scipy.sparse.linalg.splu(
        A, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True}
    )
    return np.asarray(lu.solve(g))


def solve(system: System, start: Array | None = None, most: int = 60) -> tuple[Array, float]:
    """Damped Gauss-Newton from the drawn position: (z, largest residual)."""
    z = system.start.copy() if start is None else start.copy()
    if system.unknowns == 0 or not system.row_owner:
        return z, _largest(system.evaluate(z)[0]) if system.row_owner else 0.0
    damping = 1e-8
    r, J = system.evaluate(z)
    cost = float(r @ r)
    for _ in range(most):
        if _largest(r) < CONVERGED:
            break
        trial = z + _step(J, r, damping)
        r2, J2 = system.evaluate(trial)
        cost2 = float(r2 @ r2)
        if np.isfinite(cost2) and cost2 < cost:
            stalled = cost2 > cost * (1.0 - 1e-9)
            z, r, J, cost = trial, r2, J2, cost2
            damping = max(damping * 0.1, 1e-12)
            if stalled:
                break
        else:
            damping *= 10.0
            if damping > 1e6:
                break
    return z, _largest(r)


def drag(
    system: System, z: Array, targets: dict[int, float], weight: float = 0.03
) -> tuple[Array, float]:
    """Pull variables towards targets (mm) as far as the constraints allow, staying close.

    Soft rows first, then the constraints alone, so that the pointer is followed exactly
    where that is possible and the geometry keeps its branch.
    """
    soft = [(int(system.column[v]), t / system.scale) for v, t in targets.items()]
    soft = [(c, t) for c, t in soft if c >= 0]
    if soft and system.unknowns:
        columns = np.array([c for c, _ in soft])
        wanted = np.array([t for _, t in soft])
        for _ in range(4):
            r, J = system.evaluate(z)
            extra = np.zeros((len(soft), system.unknowns))
            extra[np.arange(len(soft)), columns] = weight
            pull = weight * (z[columns] - wanted)
            if isinstance(J, np.ndarray):
                J = np.vstack([J, extra])
            else:
                J = scipy.sparse.vstack([J, scipy.sparse.csr_matrix(extra)], format="csr")
            dz = _step(J, np.concatenate([r, pull]), 1e-9)
            z = z + dz
            if float(np.abs(dz).max()) < 1e-7:
                break
    return solve(system, z, most=12)


def _largest(r: Array) -> float:
    return float(np.abs(r).max()) if r.size else 0.0
