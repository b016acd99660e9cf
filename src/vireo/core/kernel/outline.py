"""Bodies as a plane meets or sees them: cuts, silhouettes, shadows, axes, crossings.

Everything comes back in the plane's own x and y, by face or edge index, so that names follow.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np
import scipy
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Section
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepLib import BRepLib
from OCP.BRepLProp import BRepLProp_SLProps
from OCP.Geom import Geom_Plane
from OCP.GeomAbs import GeomAbs_CurveType as CurveType
from OCP.GeomAbs import GeomAbs_SurfaceType as SurfaceType
from OCP.gp import gp_Ax3, gp_Dir, gp_Lin, gp_Pnt
from OCP.HLRAlgo import HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from vireo.core.curves import Arc2, Circle2, Curve2, Line2, Pair, Spline2, piece
from vireo.core.geometry import Frame, Triple, dot
from vireo.core.kernel.place import axes, to_place
from vireo.core.kernel.profile import arrange, edge_of, rim_of
from vireo.core.kernel.project import projected_edge, projected_point
from vireo.core.kernel.shape import Body, Key, compound_of, edges_of

#: A freeform piece nearer than this (mm) to a line or a circle is one.
_SAME = 1e-7

Pieces = list[tuple[int, Curve2]]


def placed_edge(curve: Curve2, frame: Frame) -> TopoDS_Edge | None:
    """A plane curve as an edge in space; None when it has no length."""
    edge = edge_of(curve)
    if edge is None:
        return None
    return TopoDS.Edge(edge.Moved(TopLoc_Location(to_place(frame))))


def cut(body: Body, frame: Frame, faces: Sequence[int] | None = None) -> Pieces:
    """Where the plane cuts the body's faces (all, or some): `(face index, curve)`."""
    index = {Key(f): i for i, f in enumerate(body.faces)}
    shape = body.shape if faces is None else compound_of([body.faces[i] for i in faces])
    section = BRepAlgoAPI_Section(shape, Geom_Plane(gp_Ax3(axes(frame))), False)
    section.ComputePCurveOn1(False)
    section.Approximation(True)
    section.Build()
    if not section.IsDone():
        return []
    found: Pieces = []
    for edge in edges_of(section.Shape()):
        face = TopoDS_Face()
        # What runs along an edge or a seam the kernel ascribes to no face.
        known = section.HasAncestorFaceOn1(edge, face)
        owner = index[Key(face)] if known else _beside(edge, body)
        curve = projected_edge(edge, frame)
        if not isinstance(curve, tuple):
            found.append((owner, recognised(curve)))
    return sorted(found, key=lambda x: (x[0], x[1].ends))


def _beside(edge: TopoDS_Edge, body: Body) -> int:
    """The first face on whose border the middle of an edge lies."""
    curve = BRepAdaptor_Curve(edge)
    middle = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()))
    vertex = BRepBuilderAPI_MakeVertex(middle).Vertex()
    gaps = [BRepExtrema_DistShapeShape(vertex, e).Value() for e in body.edges]
    return body.edge_faces[int(np.argmin(gaps))][0]


def _turning_seams(face: TopoDS_Face, frame: Frame) -> list[TopoDS_Edge]:
    """Seams along which a face turns away: the kernel does not count them as silhouette."""
    found = []
    for edge in edges_of(face):
        if BRep_Tool.Degenerated_s(edge) or not BRep_Tool.IsClosed_s(edge, face):
            continue
        run = BRepAdaptor_Curve2d(edge, face)
        ts = np.linspace(run.FirstParameter(), run.LastParameter(), 5)
        normals = BRepLProp_SLProps(BRepAdaptor_Surface(face), 1, 1e-9)
        edge_on = []
        for t in ts:
            at = run.Value(float(t))
            normals.SetParameters(at.X(), at.Y())
            if normals.IsNormalDefined():
                n = normals.Normal()
                edge_on.append(abs(dot((n.X(), n.Y(), n.Z()), frame.z)) < 1e-9)
        if edge_on and all(edge_on):
            found.append(edge)
    return found


def silhouette(face: TopoDS_Face, frame: Frame) -> list[Curve2]:
    """Where a face turns away from someone looking along the plane's normal."""
    if BRepAdaptor_Surface(face).GetType() == SurfaceType.GeomAbs_Plane:
        return []
    hider = HLRBRep_Algo()
    hider.Add(compound_of([face]), 0)
    hider.Projector(HLRAlgo_Projector(axes(frame)))
    hider.Update()
    made = HLRBRep_HLRToShape(hider)
    found = [
        c
        for e in _turning_seams(face, frame)
        if not isinstance(c := projected_edge(e, frame), tuple)
    ]
    # Without hiding the parts in front and behind come in two classes.
    for lines in (made.OutLineVCompound(), made.OutLineHCompound()):
        if lines is None or lines.IsNull():
            continue
        BRepLib.BuildCurves3d_s(lines)
        for edge in edges_of(lines):
            curve = projected_edge(edge, Frame())
            if not isinstance(curve, tuple) and curve.length > 1e-6:
                found.append(recognised(curve))
    return found


def shadow(body: Body, frame: Frame) -> list[tuple[str, int, Curve2]]:
    """The outline of what the body covers, seen along the normal, inner openings included.

    Comes as `(kind, index, curve)`, kind "edge" or "face" saying what the piece belongs to.
    """
    curves: list[tuple[str, Curve2]] = []
    for i, edge in enumerate(body.edges):
        seen = projected_edge(edge, frame)
        if not isinstance(seen, tuple):
            curves.append((f"edge {i}", seen))
    for i, face in enumerate(body.faces):
        curves += [(f"face {i} {k}", c) for k, c in enumerate(silhouette(face, frame))]
    by_id = dict(curves)
    arrangement = arrange(tuple(curves))
    meets = IntCurvesFace_ShapeIntersector()
    meets.Load(body.shape, 1e-7)
    covered = []
    for region in arrangement.regions:
        at = frame.out(region.probe)
        meets.Perform(gp_Lin(gp_Pnt(*at), gp_Dir(*frame.z)), -1e7, 1e7)
        if meets.NbPnt() > 0:
            covered.append(region)
    spans: dict[str, list[tuple[float, float]]] = {}
    for id, edge in rim_of(arrangement, covered):
        spans.setdefault(id, []).append(_span(by_id[id], edge))
    found = []
    for id in sorted(spans, key=list(by_id).index):
        kind, index, *_ = id.split(" ")
        for low, high in joined(spans[id], by_id[id]):
            found.append((kind, int(index), piece(by_id[id], low, high)))
    return found


def _span(curve: Curve2, edge: TopoDS_Edge) -> tuple[float, float]:
    """Parameters of the curve between which a piece of it runs."""
    run = BRepAdaptor_Curve(edge)
    first, last = run.FirstParameter(), run.LastParameter()
    a, m, b = (run.Value(t) for t in (first, 0.5 * (first + last), last))
    low, mid, high = (curve.parameter((p.X(), p.Y())) for p in (a, m, b))
    if not isinstance(curve, Line2 | Spline2):
        turn = 2.0 * math.pi
        # Angles only grow along a round curve; ends within a hair of a full turn are equal.
        mid = low + (mid - low) % turn
        high = low + (high - low) % turn
        if high <= mid - 1e-9 or high - low < 1e-9:
            high += turn
    return (low, high) if low <= high else (high, low)


def joined(spans: Sequence[tuple[float, float]], curve: Curve2) -> list[tuple[float, float]]:
    """Stretches of one curve that follow each other made into one."""
    low, high = curve.range
    hair = 1e-7 * (high - low)
    found: list[list[float]] = []
    for a, b in sorted(spans):
        if found and a <= found[-1][1] + hair:
            found[-1][1] = max(found[-1][1], b)
        else:
            found.append([a, b])
    turn = 2.0 * math.pi
    round_ = isinstance(curve, Circle2)
    if round_ and len(found) > 1 and found[-1][1] - turn >= found[0][0] - hair:
        found[0][0] = found.pop()[0] - turn
    return [(a, b) for a, b in found]


def recognised(curve: Curve2) -> Curve2:
    """A freeform curve that is a line or a circle within a hair, as what it is."""
    if not isinstance(curve, Spline2):
        return curve
    p = np.array(curve.points(0.05))
    chord = p[-1] - p[0]
    length = float(np.hypot(*chord))
    if length > _SAME:
        off = np.abs((p[:, 0] - p[0, 0]) * chord[1] - (p[:, 1] - p[0, 1]) * chord[0]) / length
        if off.max() < _SAME:
            return Line2(curve.ends[0], curve.ends[1])
    a, b, c = p[0], p[len(p) // 3], p[2 * len(p) // 3]
    m = 2.0 * np.array([b - a, c - a])
    if abs(np.linalg.det(m)) < 1e-9:
        return curve
    centre = np.linalg.solve(m, [b @ b - a @ a, c @ c - a @ a])
    radii = np.hypot(*(p - centre).T)
    if float(np.ptp(radii)) > _SAME:
        return curve
    angles = np.unwrap(np.arctan2(p[:, 1] - centre[1], p[:, 0] - centre[0]))
    first, last = float(angles[0]), float(angles[-1])
    if last < first:
        first, last = last, first
    at, r = (float(centre[0]), float(centre[1])), float(radii.mean())
    if last - first > 2.0 * math.pi - 1e-9:
        return Circle2(at, r)
    return Arc2(at, r, first, last)


def axis_of_face(face: TopoDS_Face) -> tuple[Triple, Triple] | Triple | None:
    """The stretch of a round face's axis beside it; the centre of a sphere; else None."""
    s = BRepAdaptor_Surface(face)
    v0, v1 = s.FirstVParameter(), s.LastVParameter()
    kind = s.GetType()
    if kind == SurfaceType.GeomAbs_Sphere:
        p = s.Sphere().Location()
        return (p.X(), p.Y(), p.Z())
    if kind == SurfaceType.GeomAbs_Cylinder:
        axis, low, high = s.Cylinder().Axis(), v0, v1
    elif kind == SurfaceType.GeomAbs_Cone:
        k = math.cos(s.Cone().SemiAngle())
        axis, low, high = s.Cone().Axis(), v0 * k, v1 * k
    elif kind == SurfaceType.GeomAbs_Torus:
        r = s.Torus().MinorRadius()
        axis, low, high = s.Torus().Axis(), -r, r
    elif kind == SurfaceType.GeomAbs_SurfaceOfRevolution:
        axis = s.AxeOfRevolution()
        o, d = axis.Location(), axis.Direction()
        along = [(p.XYZ() - o.XYZ()).Dot(d.XYZ()) for p in (s.Value(0.0, v) for v in (v0, v1))]
        low, high = min(along), max(along)
    else:
        return None
    o, d = axis.Location(), axis.Direction()
    ends = [(o.X() + t * d.X(), o.Y() + t * d.Y(), o.Z() + t * d.Z()) for t in (low, high)]
    return ends[0], ends[1]


def centre_of_edge(edge: TopoDS_Edge) -> Triple | None:
    """The centre of a circle or an ellipse; None for other edges."""
    c = BRepAdaptor_Curve(edge)
    if c.GetType() == CurveType.GeomAbs_Circle:
        p = c.Circle().Location()
    elif c.GetType() == CurveType.GeomAbs_Ellipse:
        p = c.Ellipse().Location()
    else:
        return None
    return (p.X(), p.Y(), p.Z())


def pierced(edge: TopoDS_Edge, frame: Frame) -> list[Triple]:
    """Where an edge goes through the plane of a frame, in space."""
    return list(_piercings(edge, frame))


def piercings(edge: TopoDS_Edge, frame: Frame) -> list[Pair]:
    """Where an edge goes through the plane or touches it, in its order."""
    return [projected_point(p, frame) for p in _piercings(edge, frame)]


def _piercings(edge: TopoDS_Shape, frame: Frame) -> Iterator[Triple]:
    curve = BRepAdaptor_Curve(TopoDS.Edge(edge))
    ts = np.linspace(curve.FirstParameter(), curve.LastParameter(), 241)

    def at(t: float) -> Triple:
        p = curve.Value(float(t))
        return (p.X(), p.Y(), p.Z())

    def height(t: float) -> float:
        p = at(t)
        return dot((p[0] - frame.origin[0], p[1] - frame.origin[1], p[2] - frame.origin[2]),
                   frame.z)  # fmt: skip

    h = np.array([height(t) for t in ts])
    flat = 1e-7
    if np.abs(h).max() < flat:  # the whole edge lies in the plane: nothing goes through
        return
    last: float | None = None
    for i in range(len(ts)):
        t: float | None = None
        if abs(h[i]) < flat:
            t = float(ts[i])
        elif i + 1 < len(ts) and abs(h[i + 1]) >= flat and h[i] * h[i + 1] < 0:
            t = float(scipy.optimize.brentq(height, ts[i], ts[i + 1], xtol=1e-14))
        if t is not None and (last is None or math.dist(at(t), at(last)) > 1e-6):
            last = t
            yield at(t)
