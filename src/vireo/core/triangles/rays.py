"""Rays against the triangles of a body, by Embree (single precision)."""

from __future__ import annotations

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int32]

_NOTHING = 1e30


class Rays:
    """What rays meet of a set of triangles. Lengths in mm.

    The triangles are put round the origin first, so that single precision is relative to their
    own size, not to where they lie.
    """

    def __init__(self, points: Floats, triangles: Ints) -> None:
        low, high = points.min(axis=0), points.max(axis=0)
        self.centre = 0.5 * (low + high)
        self.size = float(np.linalg.norm(high - low))
        self._scene = EmbreeScene()
        # The scene holds no reference to its mesh.
        self._mesh = TriangleMesh(
            self._scene,
            np.ascontiguousarray(points - self.centre, dtype=np.float32),
            np.ascontiguousarray(triangles, dtype=np.int32),
        )

    def first(self, origins: Floats, ways: Floats) -> tuple[Floats, Ints, Floats]:
        """How far each ray goes before it meets a triangle (inf for none), which one (-1), and
        that triangle's unit normal by its winding."""
        found = self._scene.run(
            self._plain(origins, self.centre), self._plain(ways), query="INTERSECT", output=True
        )
        met = found["primID"] >= 0
        far = np.where(met, found["tfar"].astype(float), np.inf)
        normals = found["Ng"].astype(float)
        length = np.linalg.norm(normals, axis=1, keepdims=True)
        normals = np.divide(normals, length, out=np.zeros_like(normals), where=length > 0)
        return far, found["primID"].astype(np.int32), normals

    def blocked(self, origins: Floats, ways: Floats) -> NDArray[np.bool_]:
        """Which rays meet anything."""
        far, _, _ = self.first(origins, ways)
        return far < _NOTHING

    @staticmethod
    def _plain(v: Floats, less: Floats | float = 0.0) -> NDArray[np.float32]:
        return np.ascontiguousarray(v - less, dtype=np.float32)
