"""Which places lie on which faces: asked of the true faces, near ones found by boxes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.TopoDS import TopoDS_Face

from vireo.core.geometry import Vector
from vireo.core.kernel.locate import foot_on
from vireo.core.kernel.measure import box_of
from vireo.core.kernel.mesh import read_triangles, tessellate
from vireo.core.kernel.place import located, point
from vireo.core.kernel.shape import Body
from vireo.core.kernel.trouble import KernelTrouble

#: On a face: within this of it (mm).
_ON = 1e-3


class Surroundings:
    """Faces where they stand, to be asked what lies on them."""

    def __init__(self, faces: Sequence[tuple[TopoDS_Face, Vector, Vector]]) -> None:
        self._faces = [located(f, r, p) for f, r, p in faces]
        boxes = np.array([box_of(f) for f in self._faces]).reshape(-1, 2, 3)
        self._low, self._high = boxes[:, 0] - _ON, boxes[:, 1] + _ON

    def holds(self, at: Vector) -> bool:
        """Whether a place (mm) lies on one of the faces."""
        near = np.flatnonzero(np.all((self._low <= at) & (at <= self._high), axis=1))
        vertex = BRepBuilderAPI_MakeVertex(point(at.tolist())).Vertex()
        return any(BRepExtrema_DistShapeShape(vertex, self._faces[k]).Value() < _ON for k in near)


def places_on(body: Body, index: int, most: int = 5) -> list[Vector]:
    """Places inside a face of a body (mm), on the true face: middles of its largest triangles."""
    tessellate(body)
    face = body.faces[index]
    points, triangles = read_triangles(face)
    corners = points[triangles]
    areas = np.linalg.norm(
        np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1
    )
    found = []
    for k in np.argsort(-areas)[:most]:
        middle = corners[k].mean(axis=0)
        try:
            found.append(np.array(foot_on(face, tuple(middle.tolist()))[0]))
        except KernelTrouble:
            found.append(middle)
    return found
