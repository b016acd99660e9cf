"""The independent motions a sketch has left, to be shown by moving it a little."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from vireo.core.quantity import Quantity
from vireo.core.sketch.model import Drawing
from vireo.core.sketch.solved import dimension_values, with_senses
from vireo.core.sketch.system import assemble, solve


@dataclass(frozen=True)
class Motion:
    """One way to move: by how much each point shifts and each radius grows (largest 1)."""

    points: dict[str, tuple[float, float]]
    radii: dict[str, float]


def motions(
    drawing: Drawing, names: Mapping[str, Quantity] | None = None, most: int = 12
) -> list[Motion]:
    """Independent motions at the solution, each as local as it can be: a basis of the null
    space brought to echelon form, so that unconnected parts move on their own."""
    drawing = with_senses(drawing)
    values, _ = dimension_values(drawing, names or {})
    system = assemble(drawing, values)
    if system.unknowns == 0:
        return []
    z, _ = solve(system)
    J = system.evaluate(z)[1]
    dense = J if isinstance(J, np.ndarray) else J.toarray()
    if dense.shape[0]:
        norm = np.linalg.norm(dense, axis=1)
        dense = dense / np.where(norm > 1e-12, norm, 1.0)[:, None]
        _, s, vt = np.linalg.svd(dense)
        null = vt[int((s > 1e-8).sum()) :]
    else:
        null = np.eye(system.unknowns)
    found = []
    for row in _echelon(null)[:most]:
        p = np.zeros(len(system.base))
        p[system.free] = row[system.of]
        seats = system.seats
        points = {
            id: (float(p[i]), float(p[j])) for id, (i, j) in seats.points.items()
            if abs(p[i]) + abs(p[j]) > 1e-6
        }  # fmt: skip
        radii = {
            id: float(p[r]) for id, r in seats.radii.items()
            if abs(p[r]) > 1e-6 and id not in seats.arc_ends
        }  # fmt: skip
        radii |= {id: float(p[n]) for (id, _), n in seats.numbers.items() if abs(p[n]) > 1e-6}
        found.append(Motion(points, radii))
    return found


def _echelon(rows: np.ndarray) -> np.ndarray:
    """Reduced row echelon form with the largest pivots, rows scaled to a largest entry of 1."""
    A = rows.copy()
    for k in range(len(A)):
        i, j = (int(v) for v in np.unravel_index(int(np.argmax(np.abs(A[k:]))), A[k:].shape))
        A[[k, k + i]] = A[[k + i, k]]
        A[k] /= A[k, j]
        for other in range(len(A)):
            if other != k:
                A[other] -= A[other, j] * A[k]
    return np.asarray(A / np.maximum(np.abs(A).max(axis=1, keepdims=True), 1e-12))
