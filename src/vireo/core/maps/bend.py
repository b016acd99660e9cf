"""Curvature: how hard the skin bends, and its stripes."""

from __future__ import annotations

import numpy as np

from vireo.core.geometry import Triple
from vireo.core.kernel.curvature import bends
from vireo.core.kernel.shape import Body
from vireo.core.maps.kind import FieldMap, MapKind, Place, add


def curvature(body: Body, way: Triple = (0.0, 0.0, 1.0)) -> FieldMap:
    """Principal curvatures in 1/mm, largest and least: positive where the skin bulges outwards,
    negative where it is hollow. The place is the tightest hollow, the least radius a ball cutter
    meets, with its radius in mm."""
    mesh, values = bends(body)
    places: tuple[Place, ...] = ()
    hollow = float(np.nanmin(values[:, 1])) if len(values) else 0.0
    if hollow < -1e-9:
        i = int(np.nanargmin(values[:, 1]))
        at = mesh.points[i]
        places = (Place(-1.0 / hollow, (float(at[0]), float(at[1]), float(at[2]))),)
    bulge = float(np.nanmax(values[:, 0])) if len(values) else 0.0
    told = {
        "least_hollow": -1.0 / hollow if hollow < -1e-9 else None,
        "least_bulge": 1.0 / bulge if bulge > 1e-9 else None,
        "unit": "1/mm",
    }
    return FieldMap(mesh.points, mesh.normals, mesh.triangles, values, places, told)


add(MapKind("curvature", "How hard the skin bends, hollow or bulging", curvature))
