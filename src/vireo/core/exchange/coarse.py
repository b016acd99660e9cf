"""Closed meshes made coarser, and how far their surface moved."""

from __future__ import annotations

import fast_simplification
import numpy as np
import scipy
from numpy.typing import NDArray

from vireo.core.exchange.meshfile import Triangles
from vireo.core.trouble import BadInput

Floats = NDArray[np.float64]

#: Places on every triangle that say which triangles lie near a point (barycentric).
_PLACES = np.array(
    [(a, b, 4 - a - b) for a in range(5) for b in range(5 - a)], dtype=np.float64
) / 4  # fmt: skip
_NEAR = 8
#: Points measured at once: memory stays small.
_CHUNK = 20_000
#: Points measured against every triangle at once, those that may be farthest first.
_BATCH = 16
#: One round of collapses does not always come down to the wanted count.
_ROUNDS = 6


def coarser(mesh: Triangles, most: int) -> tuple[Triangles, float]:
    """The mesh with `most` triangles or a few less, and how far its surface moved (mm), as seen
    from the old points and from fifteen places on every new triangle.

    Edges are collapsed in the order of the squared distances to the planes they were part of
    (M. Garland and P. Heckbert, Surface Simplification Using Quadric Error Metrics, 1997).
    Raises BadInput where it cannot be had with so few.
    """
    middle = mesh.points.mean(axis=0)
    points, corners = mesh.points - middle, mesh.corners
    for _ in range(_ROUNDS):
        if len(corners) <= most:
            break
        points, corners = fast_simplification.simplify(
            np.ascontiguousarray(points), np.ascontiguousarray(corners, np.int32), target_count=most
        )
    if len(corners) > most:
        raise BadInput(f"this mesh cannot be had with {most} triangles: with {len(corners)} it can")
    made = Triangles(
        np.asarray(points, dtype=np.float64) + middle, np.asarray(corners, dtype=np.int64)
    )
    # Places all over the new triangles, larger than the old: one may bridge what it left out.
    return made, max(farthest(mesh.points, made), farthest(_places(made), mesh))


def farthest(points: Floats, mesh: Triangles) -> float:
    """How far (mm) the one of `points` (n, 3) is that is farthest from the surface of a mesh."""
    t = mesh.points[mesh.corners]
    bound = _bounds(points, mesh)
    worst = 0.0
    order = np.argsort(-bound)
    for k in range(0, len(order), _BATCH):
        if bound[order[k]] <= worst:
            break
        some = points[order[k : k + _BATCH], None]
        gaps = _gaps(some, t[None, :, 0], t[None, :, 1], t[None, :, 2])
        worst = max(worst, float(gaps.min(axis=1).max()))
    return worst


def _places(mesh: Triangles) -> Floats:
    """Places on every triangle, one triangle after another."""
    return np.asarray(np.einsum("pk,tkc->tpc", _PLACES, mesh.points[mesh.corners]).reshape(-1, 3))


def _bounds(points: Floats, mesh: Triangles) -> Floats:
    """Distances from points to the nearest of the triangles found close by: no less than those
    to the nearest of all."""
    t, places = mesh.points[mesh.corners], _places(mesh)
    tree = scipy.spatial.cKDTree(places)
    near = min(_NEAR, len(places))
    bound = np.empty(len(points))
    for k in range(0, len(points), _CHUNK):
        some = points[k : k + _CHUNK]
        _, found = tree.query(some, k=near)
        found = found.reshape(len(some), near) // len(_PLACES)
        gaps = _gaps(some[:, None], t[found, 0], t[found, 1], t[found, 2])
        bound[k : k + _CHUNK] = gaps.min(axis=1)
    return bound


def _gaps(p: Floats, a: Floats, b: Floats, c: Floats) -> Floats:
    """Distances of points from triangles, broadcast over all but the last axis (C. Ericson,
    Real-Time Collision Detection, 2005, 5.1.5, with the borders taken as segments)."""
    ab, ac = b - a, c - a
    n = np.cross(ab, ac)
    area = np.einsum("...i,...i->...", n, n)
    flat = np.where(area > 0, area, 1.0)
    v = np.einsum("...i,...i->...", np.cross(p - a, ac), n) / flat
    w = np.einsum("...i,...i->...", np.cross(ab, p - a), n) / flat
    height = np.abs(np.einsum("...i,...i->...", p - a, n)) / np.sqrt(flat)
    border = np.minimum(np.minimum(_gap(p, a, b), _gap(p, b, c)), _gap(p, c, a))
    return np.asarray(np.where((area > 0) & (v >= 0) & (w >= 0) & (v + w <= 1), height, border))


def _gap(p: Floats, a: Floats, b: Floats) -> Floats:
    """Distances of points from segments."""
    d = b - a
    long = np.einsum("...i,...i->...", d, d)
    t = np.einsum("...i,...i->...", p - a, d) / np.where(long > 0, long, 1.0)
    return np.asarray(np.linalg.norm(p - a - np.clip(t, 0, 1)[..., None] * d, axis=-1))
