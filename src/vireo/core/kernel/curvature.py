"""Principal curvatures of the skin of a body at the points of its mesh."""

from __future__ import annotations

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepLProp import BRepLProp_SLProps
from OCP.GeomAbs import GeomAbs_SurfaceType as SurfaceType
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Face

from vireo.core.kernel.mesh import Floats, Mesh, preview_deflection, tessellate
from vireo.core.kernel.shape import Body


def bends(body: Body) -> tuple[Mesh, Floats]:
    """A fine mesh of a body and the curvatures (n, 2) at its points, largest first, in 1/mm;
    positive bulges outwards. NaN where a face has no curvature, as at the tip of a cone."""
    mesh = tessellate(body, 0.2 * preview_deflection(body), angle=0.12)
    return mesh, np.concatenate([_of_face(face) for face in body.faces])


def _of_face(face: TopoDS_Face) -> Floats:
    t = BRep_Tool.Triangulation_s(face, TopLoc_Location())
    count = t.NbNodes()
    surface = BRepAdaptor_Surface(face)
    if surface.GetType() == SurfaceType.GeomAbs_Plane:
        return np.zeros((count, 2))
    # The kernel counts towards the normal of the surface, which looks inwards on reversed faces.
    sign = 1.0 if face.Orientation() == TopAbs_REVERSED else -1.0
    props = BRepLProp_SLProps(surface, 2, 1e-9)
    found = np.full((count, 2), np.nan)
    for i in range(count):
        uv = t.UVNode(i + 1)
        props.SetParameters(uv.X(), uv.Y())
        if props.IsCurvatureDefined():
            pair = (sign * props.MaxCurvature(), sign * props.MinCurvature())
            found[i] = max(pair), min(pair)
    return found
