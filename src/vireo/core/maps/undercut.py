"""Undercut: what a straight pull and the pull against it can reach, and what neither can."""

from __future__ import annotations

import numpy as np

from vireo.core.geometry import Triple
from vireo.core.kernel.mesh import tessellate
from vireo.core.kernel.shape import Body
from vireo.core.maps.kind import FieldMap, MapKind, Place, add
from vireo.core.maps.sampling import sampled
from vireo.core.triangles.rays import Rays

#: Values of the map.
NEITHER, ALONG, AGAINST, BOTH = 0.0, 1.0, 2.0, 3.0
#: How far over a face may lean and still count as standing along the pull (sine).
_UPRIGHT = 1e-3


def undercut(body: Body, way: Triple) -> FieldMap:
    """Which half of a mould parted across `way` forms each place: 0 neither (an undercut), 1 the
    half pulled along it, 2 the other, 3 either (upright walls open both ways)."""
    mesh = tessellate(body)
    found = sampled(mesh)
    rays = Rays(mesh.points, mesh.triangles)
    pull = np.array(way)
    # Off the skin, so that a wall along the pull does not shade itself.
    starts = found.inset() + 2e-4 * rays.size * found.normals
    lean = found.normals @ pull
    reach = []
    for sign in (1.0, -1.0):
        free = ~rays.blocked(starts, np.tile(sign * pull, (len(starts), 1)))
        reach.append(free & (sign * lean > -_UPRIGHT))
    values = reach[0] * ALONG + reach[1] * AGAINST
    corners = found.points[found.triangles]
    area = 0.5 * np.linalg.norm(
        np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1
    )
    shut = (values[found.triangles] == NEITHER).sum(axis=1) >= 2
    by_face = np.bincount(found.faces, weights=area * shut, minlength=len(body.faces))
    places = []
    for face in np.argsort(-by_face)[:8]:
        own = np.flatnonzero(shut & (found.faces == face))
        if by_face[face] <= 0.0:
            break
        at = corners[own[int(area[own].argmax())]].mean(axis=0)
        places.append(Place(float(by_face[face]), (float(at[0]), float(at[1]), float(at[2]))))
    told = {"area": float(area[shut].sum()), "unit": "mm²"}
    return FieldMap(
        found.points, found.normals, found.triangles, values[:, None], tuple(places), told
    )


add(MapKind("undercut", "What a mould parted across a direction cannot let go", undercut, True))
