"""Outlines laid onto faces: straight onto flat ones, wound onto cylinders, raised or sunk."""

from __future__ import annotations

from collections.abc import Callable

from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepFill import BRepFill
from OCP.BRepLib import BRepLib
from OCP.collections import Array1_double, Array1_gp_Pnt2d, Array1_int
from OCP.Geom import Geom_CylindricalSurface
from OCP.Geom2d import Geom2d_BSplineCurve, Geom2d_Curve
from OCP.Geom2dAPI import Geom2dAPI_PointsToBSpline
from OCP.GeomAbs import GeomAbs_CurveType as CurveType
from OCP.gp import gp_Ax3, gp_Pnt2d
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Wire

from vireo.core.geometry import Frame, Pair, Triple, cross, dot
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.place import direction, point
from vireo.core.kernel.profile import Outline, wires_of
from vireo.core.kernel.sections import closed_body, ordered
from vireo.core.kernel.shape import Body, Key
from vireo.core.naming.grammar import face_name


def cylinder_of(face: TopoDS_Face) -> tuple[Triple, Triple, float]:
    """A place on the axis, the axis and the radius (mm) of a cylindrical face."""
    c = BRepAdaptor_Surface(face).Cylinder()
    o, d = c.Axis().Location(), c.Axis().Direction()
    return (o.X(), o.Y(), o.Z()), (d.X(), d.Y(), d.Z()), float(c.Radius())


#: From a place on the drawing to angle and height on the cylinder.
Roll = Callable[[Pair], Pair]


def _rolled(edge: TopoDS_Edge, roll: Roll) -> Geom2d_Curve:
    """An edge drawn flat, as a curve in angle and height.

    Straight edges stay exact; others go through 65 points (better than 1e-5 of their size).
    """
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    if edge.Orientation() == TopAbs_REVERSED:
        first, last = last, first
    straight = curve.GetType() == CurveType.GeomAbs_Line
    count = 2 if straight else 65
    points = Array1_gp_Pnt2d(1, count)
    for k in range(count):
        p = curve.Value(first + (last - first) * k / (count - 1))
        points.SetValue(k + 1, gp_Pnt2d(*roll((p.X(), p.Y()))))
    if not straight:
        return Geom2dAPI_PointsToBSpline(points).Curve()
    knots, counts = Array1_double(1, 2), Array1_int(1, 2)
    for i, t in ((1, 0.0), (2, 1.0)):
        knots.SetValue(i, t)
        counts.SetValue(i, 2)
    return Geom2d_BSplineCurve(points, knots, counts, 1)


def wound(
    outline: Outline, frame: Frame, axis: tuple[Triple, Triple], radius: float, low: float,
    high: float, step: str,
) -> Body:  # fmt: skip
    """An outline wound onto a cylinder and filled between two radii (mm).

    The outline's frame stands beside the cylinder; it goes onto the side the frame's z looks to,
    lengths kept on `radius`. Faces are named ``<step>/side/<role>`` and
    ``<step>/cap/inner|outer``.
    """
    if low <= 0.0:
        raise KernelTrouble("the outline would reach the axis of the cylinder")
    named: list[tuple[TopoDS_Face, str]] = []
    base, way = axis
    place = gp_Ax3(point(base), direction(way), direction(frame.z))
    around = cross(way, frame.z)

    def roll(p: Pair) -> Pair:
        q = frame.out(p)
        off = (q[0] - base[0], q[1] - base[1], q[2] - base[2])
        return dot(off, around) / radius, dot(off, way)

    # The curves on them and the caps must share one surface each.
    skins = {r: Geom_CylindricalSurface(place, r) for r in (low, high)}
    for face in outline.faces:
        rims: dict[float, list[TopoDS_Wire]] = {low: [], high: []}
        for wire in wires_of(face):
            built: dict[float, list[TopoDS_Edge]] = {}
            for r in (low, high):
                built[r] = []
                for edge in ordered(wire):
                    made = BRepBuilderAPI_MakeEdge(_rolled(edge, roll), skins[r]).Edge()
                    BRepLib.BuildCurve3d_s(made, 1e-6)
                    built[r].append(made)
                maker = BRepBuilderAPI_MakeWire()
                for made in built[r]:
                    maker.Add(made)
                if not maker.IsDone():
                    raise KernelTrouble("the wound outline does not close")
                rims[r].append(maker.Wire())
            for edge, a, b in zip(ordered(wire), built[low], built[high], strict=True):
                role = outline.roles.get(Key(edge), "edge")
                named.append((BRepFill.Face_s(a, b), face_name(step, "side", role)))
        for r, word in ((low, "inner"), (high, "outer")):
            cap = BRepBuilderAPI_MakeFace(skins[r], rims[r][0], True)
            for hole in rims[r][1:]:
                cap.Add(hole)
            if not cap.IsDone():
                raise KernelTrouble("the wound outline bounds no face")
            named.append((cap.Face(), face_name(step, "cap", word)))
    return closed_body(named, "the wound outline", 1e-4)
