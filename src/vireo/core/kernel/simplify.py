"""Free surfaces that are really flat made flat: exact areas, and room for shells and drafts that
the kernel loses its way in otherwise."""

from __future__ import annotations

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepTools import BRepTools, BRepTools_ReShape
from OCP.Geom import Geom_BSplineSurface
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
from OCP.TopAbs import TopAbs_FORWARD, TopAbs_REVERSED
from OCP.TopoDS import TopoDS, TopoDS_Face

from vireo.core.geometry import Vector
from vireo.core.kernel.gate import checked
from vireo.core.kernel.measure import describe_face
from vireo.core.kernel.profile import wires_of
from vireo.core.kernel.shape import Body, Key, faces_of

#: How far poles may lie off their plane, as a share of their spread.
_FLAT = 1e-10


def _plane_of(face: TopoDS_Face) -> tuple[Vector, Vector] | None:
    """Middle and normal of the plane all poles of a free surface lie in: then so does it."""
    surface = BRep_Tool.Surface_s(face)
    if not isinstance(surface, Geom_BSplineSurface):
        return None
    poles = [
        surface.Pole(i, j)
        for i in range(1, surface.NbUPoles() + 1)
        for j in range(1, surface.NbVPoles() + 1)
    ]
    p = np.array([(q.X(), q.Y(), q.Z()) for q in poles])
    middle = p.mean(axis=0)
    _, spread, ways = np.linalg.svd(p - middle, full_matrices=False)
    if spread[1] < 1e-9 * spread[0] or np.abs((p - middle) @ ways[2]).max() > _FLAT * spread[0]:
        return None
    return middle, ways[2]


def flattened(body: Body) -> Body:
    """The body with free faces that are flat lying on planes; names stay."""
    swap = BRepTools_ReShape()
    made: dict[Key, str] = {}
    for face, name in body.named_faces():
        plane = _plane_of(face)
        if plane is None:
            continue
        at, normal = plane
        out = np.array(describe_face(face)[2])
        way = normal if float(normal @ out) > 0 else -normal
        reversed_ = face.Orientation() == TopAbs_REVERSED
        way = -way if reversed_ else way  # the surface's own side
        own = TopoDS.Face(face.Oriented(TopAbs_FORWARD))
        surface = gp_Pln(gp_Pnt(*map(float, at)), gp_Dir(*map(float, way)))
        outer, *holes = wires_of(own)
        maker = BRepBuilderAPI_MakeFace(surface, outer, True)
        for hole in holes:
            maker.Add(hole)
        flat = maker.Face()
        if flat.Orientation() == TopAbs_REVERSED:
            return body  # its border runs the other way round: better left alone
        made[Key(flat)] = name
        swap.Replace(own, flat)
    if not made:
        return body
    shape = swap.Apply(body.shape)
    BRepTools.RemoveUnusedPCurves_s(shape)
    shape = checked("the skin", shape)
    old = {Key(f): n for f, n in body.named_faces()}
    return Body(shape, tuple(made.get(Key(f)) or old[Key(f)] for f in faces_of(shape)))
