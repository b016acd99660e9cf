"""Skins through sections that have to obey more: tangent ends, guides."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Sewing,
)
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepLib import BRepLib
from OCP.BRepTools import BRepTools_WireExplorer
from OCP.collections import (
    Array1_double,
    Array1_Geom_Curve,
    Array1_int,
    Array2_double,
    Array2_gp_Pnt,
)
from OCP.Geom import (
    Geom_BSplineCurve,
    Geom_BSplineSurface,
    Geom_Curve,
    Geom_Surface,
    Geom_TrimmedCurve,
)
from OCP.GeomConvert import GeomConvert, GeomConvert_CompCurveToBSplineCurve
from OCP.GeomFill import GeomFill_Gordon
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_SHELL
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape, TopoDS_Wire

from vireo.core.geometry import Triple
from vireo.core.kernel.gate import KernelTrouble, checked
from vireo.core.kernel.measure import area_centre
from vireo.core.kernel.shape import Body, Key, edges_of, faces_of
from vireo.core.kernel.witness import unmet
from vireo.core.naming.grammar import face_name, words_of


@dataclass(frozen=True)
class End:
    """How a skin leaves a section: along `way` (unit), as strongly as `pull` times the distance
    of the sections' centres; None lets it go by itself."""

    way: Triple
    pull: float


def eased(
    surface: Geom_Surface, start: End | None, end: End | None, apart: float
) -> Geom_BSplineSurface:
    """A ruled surface (v across) bent to leave and reach its ends along given directions.

    In v it becomes a cubic Bezier with rows P0, P0 + pull/3 d n, P3 - pull/3 d n, P3, d being how
    far the sections lie `apart` (mm): the tangents at the ends are then exactly along n (Farin, Curves and
    Surfaces for CAGD, ch. 4). A free end keeps the straight ruling.
    """
    ruled = GeomConvert.SurfaceToBSplineSurface_s(surface)
    if ruled.VDegree() != 1 or ruled.NbVPoles() != 2:
        raise KernelTrouble("only straight lofts between two sections can be eased")
    count = ruled.NbUPoles()
    poles, weights = Array2_gp_Pnt(1, count, 1, 4), Array2_double(1, count, 1, 4)
    for i in range(1, count + 1):
        a, b = ruled.Pole(i, 1), ruled.Pole(i, 2)
        rows = [a, _moved(a, b, start, apart / 3), _moved(b, a, end, -apart / 3), b]
        wa, wb = ruled.Weight(i, 1), ruled.Weight(i, 2)
        for j, (p, w) in enumerate(zip(rows, (wa, wa, wb, wb), strict=True), start=1):
            poles.SetValue(i, j, p)
            weights.SetValue(i, j, w)
    knots, counts = Array1_double(1, ruled.NbUKnots()), Array1_int(1, ruled.NbUKnots())
    for i in range(1, ruled.NbUKnots() + 1):
        knots.SetValue(i, ruled.UKnot(i))
        counts.SetValue(i, ruled.UMultiplicity(i))
    across, fours = Array1_double(1, 2), Array1_int(1, 2)
    for i, v in ((1, 0.0), (2, 1.0)):
        across.SetValue(i, v)
        fours.SetValue(i, 4)
    return Geom_BSplineSurface(
        poles, weights, knots, across, counts, fours, ruled.UDegree(), 3, ruled.IsUPeriodic(), False
    )


def _moved(a: gp_Pnt, b: gp_Pnt, end: End | None, by: float) -> gp_Pnt:
    if end is None:
        return gp_Pnt(*((2 * p + q) / 3 for p, q in zip(_xyz(a), _xyz(b), strict=True)))
    k = end.pull * by
    return gp_Pnt(*(p + k * w for p, w in zip(_xyz(a), end.way, strict=True)))


def _xyz(p: gp_Pnt) -> Triple:
    return (p.X(), p.Y(), p.Z())


def closed_body(named: Sequence[tuple[TopoDS_Face, str]], what: str, within: float = 1e-5) -> Body:
    """A solid sewn from faces that meet, with their names. Raises KernelTrouble for gaps."""
    sewing = BRepBuilderAPI_Sewing(within)
    for face, _ in named:
        sewing.Add(face)
    sewing.Perform()
    sewn = sewing.SewedShape()
    if sewn.IsNull() or sewn.ShapeType() != TopAbs_SHELL or sewing.NbFreeEdges() > 0:
        raise KernelTrouble(f"{what}: its faces do not close")
    solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell(sewn)).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    shape = checked(what, solid)
    names: dict[Key, str] = {}
    for face, name in named:
        for f in faces_of(sewing.Modified(face)):
            names[Key(f)] = name
    body = Body(shape, tuple(names.get(Key(f), "face") for f in faces_of(shape)))
    unmet(body, what)
    return body


def eased_body(body: Body, start: End | None, end: End | None, what: str) -> Body:
    """A straight loft between two sections, its sides bent to the ends' directions."""
    centres = [
        area_centre(f)
        for w in ("start", "end")
        for f, n in body.named_faces()
        if words_of(n)[-2:] == ["cap", w]
    ]
    apart = math.dist(*centres)
    named: list[tuple[TopoDS_Face, str]] = []
    for face, name in body.named_faces():
        if "/cap/" in name:
            named.append((face, name))
            continue
        surface = eased(BRep_Tool.Surface_s(face), start, end, apart)
        named.append((BRepBuilderAPI_MakeFace(surface, 1e-6).Face(), name))
    return closed_body(named, what)


def one_curve(wire: TopoDS_Wire) -> Geom_BSplineCurve:
    """A wire as one B-spline."""
    maker = GeomConvert_CompCurveToBSplineCurve()
    for edge in ordered(wire):
        piece = GeomConvert.CurveToBSplineCurve_s(whole_curve(edge))
        if not maker.Add(piece, 1e-4, True):
            raise KernelTrouble("a section does not hang together")
    return maker.BSplineCurve()


def ordered(wire: TopoDS_Wire) -> list[TopoDS_Edge]:
    """Edges in the order they are run through."""
    explorer = BRepTools_WireExplorer(wire)
    found = []
    while explorer.More():
        found.append(TopoDS.Edge(explorer.Current()))
        explorer.Next()
    return found or edges_of(wire)


def whole_curve(edge: TopoDS_Edge) -> Geom_Curve:
    """The curve of an edge, cut to it."""
    span = BRepAdaptor_Curve(edge)
    curve = BRep_Tool.Curve_s(edge, 0.0, 1.0)
    return Geom_TrimmedCurve(curve, span.FirstParameter(), span.LastParameter())


@dataclass(frozen=True)
class Miss:
    """A guide that does not meet a section: by how much (mm) and where."""

    guide: int
    section: int
    gap: float
    at: Triple


def misses(
    sections: Sequence[TopoDS_Shape], guides: Sequence[TopoDS_Shape], within: float
) -> list[Miss]:
    """Where guides pass sections by more than `within` (mm)."""
    found = []
    for g, guide in enumerate(guides):
        for s, section in enumerate(sections):
            d = BRepExtrema_DistShapeShape(guide, section)
            if d.Value() > within:
                p = d.PointOnShape2(1)
                found.append(Miss(g, s, float(d.Value()), (p.X(), p.Y(), p.Z())))
    return found


def network(
    sections: Sequence[TopoDS_Wire], guides: Sequence[TopoDS_Wire], caps: Sequence[TopoDS_Face],
    step: str, within: float = 1e-3,
) -> Body:  # fmt: skip
    """A skin through closed sections that follows guides (a Gordon surface), closed by caps.

    Raises KernelTrouble when the kernel finds none, or the skin is off its curves by more than
    `within` (mm).
    """
    profiles, rails = Array1_Geom_Curve(1, len(sections)), Array1_Geom_Curve(1, len(guides))
    for i, wire in enumerate(sections, start=1):
        profiles.SetValue(i, one_curve(wire))
    for i, wire in enumerate(guides, start=1):
        rails.SetValue(i, one_curve(wire))
    maker = GeomFill_Gordon()
    try:
        maker.Init(profiles, rails, within)
        maker.SetApproximationMode(GeomFill_Gordon.ApproximationMode_e.AllowApproximateFallback)
        maker.Perform()
        done = maker.IsDone()
    except Exception as error:
        raise KernelTrouble("no skin follows these guides") from error
    if not done:
        raise KernelTrouble("no skin follows these guides through all sections")
    side = BRepBuilderAPI_MakeFace(maker.Surface(), 1e-6).Face()
    named = [(side, face_name(step, "side"))]
    rims = [e for e in edges_of(side) if not BRep_Tool.IsClosed_s(e, side)]
    for n, word in ((0, "start"), (-1, "end")):
        plane = BRep_Tool.Surface_s(caps[n])
        edge = min(rims, key=partial(_off, sections[n]))
        wire = BRepBuilderAPI_MakeWire(edge).Wire()
        named.append(
            (BRepBuilderAPI_MakeFace(plane, wire, True).Face(), face_name(step, "cap", word))
        )
    return closed_body(named, "the loft", within)


def _off(wire: TopoDS_Wire, edge: TopoDS_Edge) -> float:
    """How far the middle of an edge is from a wire."""
    c = BRepAdaptor_Curve(edge)
    p = c.Value(0.5 * (c.FirstParameter() + c.LastParameter()))
    return float(BRepExtrema_DistShapeShape(BRepBuilderAPI_MakeVertex(p).Vertex(), wire).Value())
