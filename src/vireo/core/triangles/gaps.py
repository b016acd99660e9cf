"""Least gaps and meetings of placed triangle meshes, by bounding volumes."""

from __future__ import annotations

from typing import Any

import fcl
import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


class Soup:
    """A mesh (mm) that can be asked about beside others; placed anew as often as wanted."""

    def __init__(self, points: Floats, triangles: NDArray[np.int32]) -> None:
        model = fcl.BVHModel()
        model.beginModel(len(points), len(triangles))
        model.addSubModel(points, triangles)
        model.endModel()
        self._model = model
        self.object: Any = fcl.CollisionObject(model, fcl.Transform())

    def again(self) -> Soup:
        """The same mesh, to be placed elsewhere at the same time."""
        made = Soup.__new__(Soup)
        made._model = self._model
        made.object = fcl.CollisionObject(self._model, fcl.Transform())
        return made

    def place(self, rotation: Floats, position: Floats) -> None:
        self.object.setTransform(fcl.Transform(rotation, position))


def gap(a: Soup, b: Soup) -> float:
    """Least gap of two placed meshes in mm, 0 where they meet. Meshes are skins: one inside another
    has a gap."""
    found = fcl.distance(a.object, b.object, fcl.DistanceRequest(), fcl.DistanceResult())
    return max(float(found), 0.0)


def nearest_places(a: Soup, b: Soup) -> tuple[Floats, Floats]:
    """Where two placed meshes that are apart come nearest, on each."""
    asked, found = fcl.DistanceRequest(enable_nearest_points=True), fcl.DistanceResult()
    fcl.distance(a.object, b.object, asked, found)
    return np.asarray(found.nearest_points[0]), np.asarray(found.nearest_points[1])
