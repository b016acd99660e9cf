"""What is still free in a solved sketch, and which constraints repeat or contradict."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy.linalg
import scipy.sparse
import scipy.sparse.csgraph
import scipy.sparse.linalg

from vireo.core.sketch.residuals import Array
from vireo.core.sketch.system import System

_RANK = 1e-8
_FREE = 1e-5


@dataclass(frozen=True)
class Diagnosis:
    """`freedom` counts what is left; `loose` marks free variables; `culprits` are dependent
    constraints, newest first, each with the loop it belongs to."""

    freedom: int
    loose: frozenset[int]
    culprits: tuple[str, ...]
    loop: tuple[str, ...]


def _projection(A: Array | scipy.sparse.csr_matrix, count: int) -> Array:
    """Random vectors projected on the null space of AᵀA; a row is zero where nothing is free."""
    n = A.shape[1]
    eps = 1e-11
    z = np.random.default_rng(7).standard_normal((n, count))
    if isinstance(A, np.ndarray):
        M = A.T @ A
        M[np.diag_indices_from(M)] += eps
        factor = scipy.linalg.lu_factor(M, check_finite=False)
        for _ in range(3):
            z = eps * scipy.linalg.lu_solve(factor, z, check_finite=False)
        return np.asarray(z)
    S = scipy.sparse.csc_matrix(A.T @ A + eps * scipy.sparse.identity(n))
    lu = scipy.sparse.linalg.splu(
        S, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True}
    )
    for _ in range(3):
        z = eps * lu.solve(z)
    return np.asarray(z)


def _rank(J: Array | scipy.sparse.csr_matrix) -> int:
    """Rank, part by unconnected part: a sketch of thousands of loose pieces stays quick."""
    if isinstance(J, np.ndarray):
        return int((np.linalg.svd(J, compute_uv=False) > _RANK).sum())
    rows = J.shape[0]
    entries = J.tocoo()
    size = sum(J.shape)
    graph = scipy.sparse.coo_matrix(
        (np.ones(entries.nnz), (entries.row, entries.col + rows)), shape=(size, size)
    )
    count, label = scipy.sparse.csgraph.connected_components(graph, directed=False)
    row_order = np.argsort(label[:rows], kind="stable")
    column_order = np.argsort(label[rows:], kind="stable")
    row_ends = np.searchsorted(label[:rows][row_order], np.arange(count + 1))
    column_ends = np.searchsorted(label[rows:][column_order], np.arange(count + 1))
    rank = 0
    for k in range(count):
        r = row_order[row_ends[k] : row_ends[k + 1]]
        c = column_order[column_ends[k] : column_ends[k + 1]]
        if len(r) and len(c):
            dense = J[r][:, c].toarray()
            rank += int((np.linalg.svd(dense, compute_uv=False) > _RANK).sum())
    return rank


def _normalised(J: Array | scipy.sparse.csr_matrix) -> Array | scipy.sparse.csr_matrix:
    if isinstance(J, np.ndarray):
        norm = np.linalg.norm(J, axis=1)
        return J / np.where(norm > 1e-12, norm, 1.0)[:, None]
    norm = np.sqrt(np.asarray(J.multiply(J).sum(axis=1)).ravel())
    scaling = scipy.sparse.diags(1.0 / np.where(norm > 1e-12, norm, 1.0))
    return scipy.sparse.csr_matrix(scaling @ J)


def diagnose(system: System, z: Array) -> Diagnosis:
    """Freedom per variable and dependent constraints at a solution."""
    if system.unknowns == 0:
        return Diagnosis(0, frozenset(), tuple(system.repeated + system.empty), ())
    J = _normalised(system.evaluate(z)[1])
    n = system.unknowns
    if J.shape[0] == 0:
        return Diagnosis(n, frozenset(range(n)), tuple(system.repeated), ())
    spread = np.abs(_projection(J, 3)).max(axis=1)
    loose = np.flatnonzero(spread > _FREE)
    freedom = 0
    if loose.size:
        freedom = len(loose) - _rank(J[:, loose])
    dependent = np.flatnonzero(
        np.abs(
            _projection(J.T if isinstance(J, np.ndarray) else scipy.sparse.csr_matrix(J.T), 3)
        ).max(axis=1)
        > _FREE
    )
    # Rows inside arcs and links may repeat each other; only what a person put is named.
    culprits, loop = _culprits(J, dependent, system.row_owner)
    culprits = [c for c in culprits if c not in system.lenient]
    named = [*system.repeated, *culprits]
    return Diagnosis(
        freedom,
        frozenset(int(i) for i in loose),
        tuple(dict.fromkeys(named)),
        tuple(dict.fromkeys(loop)),
    )


def _culprits(
    J: Array | scipy.sparse.csr_matrix, dependent: np.ndarray, owners: list[str]
) -> tuple[list[str], list[str]]:
    """Rows in creation order, orthogonalised: one with no remainder depends on older ones."""
    basis: list[Array] = []
    found: list[str] = []
    for i in dependent:
        row = J[int(i)] if isinstance(J, np.ndarray) else J[int(i)].toarray().ravel()
        rest = row.copy()
        for _ in range(2):
            for b in basis:
                rest = rest - (rest @ b) * b
        norm = float(np.linalg.norm(rest))
        if norm < 1e-7:
            found.append(owners[int(i)])
        else:
            basis.append(rest / norm)
    return found[::-1], [owners[int(i)] for i in dependent]
