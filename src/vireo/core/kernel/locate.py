"""Places on and ahead of bodies: feet on faces, where a line meets something, places along edges."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np
from OCP.BOPTools import BOPTools_AlgoTools3D
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_CompCurve, BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeWire
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.BRepLProp import BRepLProp_SLProps
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAPI import GeomAPI_ProjectPointOnSurf
from OCP.gp import gp_Dir, gp_Lin, gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector
from OCP.IntTools import IntTools_Context
from OCP.TopAbs import TopAbs_IN, TopAbs_ON, TopAbs_REVERSED
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Shape, TopoDS_Wire

from vireo.core.geometry import Frame, Run, Triple, plane_frame, unit
from vireo.core.kernel.gate import KernelTrouble, finite
from vireo.core.kernel.place import direction, point


def _triple(p: object) -> Triple:
    return (float(p.X()), float(p.Y()), float(p.Z()))  # type: ignore[attr-defined]


def foot_on(face: TopoDS_Face, at: Triple) -> tuple[Triple, Triple]:
    """The nearest place on a face's surface and its outward normal there (mm)."""
    finite(*at)
    found = GeomAPI_ProjectPointOnSurf(point(at), BRep_Tool.Surface_s(face))
    if found.NbPoints() == 0:
        raise KernelTrouble("the place has no foot on the face")
    u, v = found.LowerDistanceParameters()
    props = BRepLProp_SLProps(BRepAdaptor_Surface(face), u, v, 1, 1e-9)
    if not props.IsNormalDefined():
        raise KernelTrouble("the face has no normal at its tip")
    n = _triple(props.Normal())
    if face.Orientation() == TopAbs_REVERSED:
        n = (-n[0], -n[1], -n[2])
    return _triple(found.NearestPoint()), n


def within(face: TopoDS_Face, at: Triple) -> bool:
    """Whether a place on a face's surface lies inside its border, or on it."""
    state = BRepClass_FaceClassifier(face, point(at), 1e-7).State()
    return state in (TopAbs_IN, TopAbs_ON)


def inner_point(face: TopoDS_Face) -> gp_Pnt:
    """A place inside the border of a face. Raises KernelTrouble for one without any width."""
    at = gp_Pnt()
    if BOPTools_AlgoTools3D.PointInFace_s(face, at, gp_Pnt2d(), IntTools_Context()) != 0:
        raise KernelTrouble("a face is too narrow to work on")
    return at


def ahead(shape: TopoDS_Shape, at: Triple, way: Triple, least: float = 1e-6) -> float | None:
    """How far along a direction the shape is met first, further than `least` (mm)."""
    found = IntCurvesFace_ShapeIntersector()
    found.Load(shape, 1e-7)
    found.Perform(gp_Lin(point(at), direction(way)), least, 1e6)
    if not found.IsDone() or found.NbPnt() == 0:
        return None
    return min(float(found.WParameter(i)) for i in range(1, found.NbPnt() + 1))


def along_edge(edge: TopoDS_Edge, length: float, back: bool = False) -> tuple[Triple, Triple]:
    """The place a length (mm) along an edge from its first end, and its direction there.

    Raises KernelTrouble when the edge is shorter.
    """
    finite(length)
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    whole = float(GCPnts_AbscissaPoint.Length_s(curve, first, last, 1e-9))
    if not -1e-9 <= length <= whole + 1e-9:
        raise KernelTrouble(f"the edge is {whole:.4g} mm long; {length:g} mm lies beyond its end")
    start, sign = (last, -1.0) if back else (first, 1.0)
    t = GCPnts_AbscissaPoint(curve, sign * length, start, 1e-10).Parameter()
    tangent = curve.DN(t, 1)
    if tangent.Magnitude() < 1e-12:
        raise KernelTrouble("the edge has no direction there")
    tangent = tangent.Multiplied(sign)
    return _triple(curve.Value(t)), unit(_triple(gp_Vec(gp_Dir(tangent))))


def along_wire(wire: TopoDS_Wire, lengths: Sequence[float]) -> list[Frame]:
    """Frames at lengths (mm) along a wire, z along it, not turning about it (double reflection)."""
    curve = BRepAdaptor_CompCurve(wire)
    first, last = curve.FirstParameter(), curve.LastParameter()
    whole = float(GCPnts_AbscissaPoint.Length_s(curve, first, last, 1e-9))
    # Between the places wanted there are others, so that tight bends are followed.
    marks = sorted(
        {*lengths, *(whole * k / 200 for k in range(201) if whole * k / 200 < max(lengths))}
    )
    frames: dict[float, Frame] = {}
    before: Frame | None = None
    for s in marks:
        t = GCPnts_AbscissaPoint(curve, min(s, whole), first, 1e-9).Parameter() if s > 0 else first
        p, d = _triple(curve.Value(t)), curve.DN(t, 1)
        z = unit((d.X(), d.Y(), d.Z()))
        x = plane_frame(p, z).x if before is None else carried_on(before, p, z)
        before = frames[s] = Frame(p, x, z)
    return [frames[s] for s in lengths]


def carried_on(frame: Frame, at: Triple, way: Triple) -> Triple:
    """The x of a frame taken on to the next place of a curve without turning about it: double
    reflection (Wang, Juettler, Zheng, Liu: Computation of rotation minimizing frames, 2008)."""
    r, t = np.array(frame.x), np.array(frame.z)
    v = np.array(at) - np.array(frame.origin)
    c = float(v @ v)
    if c > 1e-18:
        r, t = r - (2 / c) * float(v @ r) * v, t - (2 / c) * float(v @ t) * v
    w = np.array(way) - t
    c = float(w @ w)
    if c > 1e-18:
        r = r - (2 / c) * float(w @ r) * w
    # What rounding leaves along the curve is taken out.
    r = r - float(r @ np.array(way)) * np.array(way)
    return unit((float(r[0]), float(r[1]), float(r[2])))


def run_of(edge: TopoDS_Edge) -> Run:
    """Raises KernelTrouble for an edge that cannot be followed."""
    maker = BRepBuilderAPI_MakeWire(edge)
    if not maker.IsDone():
        raise KernelTrouble("the edge cannot be followed")
    wire = maker.Wire()
    curve = BRepAdaptor_CompCurve(wire)
    ends = [curve.Value(t) for t in (curve.FirstParameter(), curve.LastParameter())]
    return Run(length_of(edge), bool(ends[0].Distance(ends[1]) < 1e-6), partial(along_wire, wire))


def length_of(edge: TopoDS_Edge) -> float:
    """Length of an edge in mm."""
    curve = BRepAdaptor_Curve(edge)
    return float(
        GCPnts_AbscissaPoint.Length_s(curve, curve.FirstParameter(), curve.LastParameter(), 1e-9)
    )
