"""Curves in a plane arranged into closed regions, and faces made of chosen regions."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from OCP.BOPAlgo import BOPAlgo_Builder, BOPAlgo_Tools
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools, BRepTools_WireExplorer
from OCP.collections import Array1_double, Array1_gp_Pnt, Array1_int
from OCP.Geom import Geom_BSplineCurve
from OCP.GeomAbs import GeomAbs_CurveType as CurveType
from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Elips, gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_EDGE, TopAbs_IN, TopAbs_REVERSED, TopAbs_WIRE
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import (
    TopoDS,
    TopoDS_Compound,
    TopoDS_Edge,
    TopoDS_Face,
    TopoDS_Shape,
    TopoDS_Wire,
)

from vireo.core.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Pair, Spline2, inside
from vireo.core.kernel.gate import KernelTrouble, finite
from vireo.core.kernel.locate import inner_point
from vireo.core.kernel.measure import describe_face
from vireo.core.kernel.shape import Key, compound_of, edges_of, faces_of, items, vertices_of

#: Curves whose ends are closer than this are joined (mm).
JOIN = 1e-6
_UP = gp_Dir(0, 0, 1)


@dataclass(frozen=True, eq=False)
class Region:
    """A smallest closed area between curves.

    `id` depends only on which curves bound it and on which side, so that it survives edits
    of sizes. `outer` and `holes` are polygons (mm) good enough to show and to click.
    """

    id: str
    area: float
    at: Pair
    bounds: tuple[str, ...]
    outer: list[Pair]
    holes: list[list[Pair]]
    depth: int = 0
    face: TopoDS_Face | None = field(default=None, repr=False)

    @property
    def curves(self) -> tuple[str, ...]:
        """Ids of the curves that bound it."""
        return tuple(sorted({b.rstrip("+-") for b in self.bounds}))

    @property
    def probe(self) -> Pair:
        """A point on the inner side of the outer boundary, a hair away from it."""
        polygon = self.outer
        (x1, y1), (x2, y2) = polygon[0], polygon[1]
        length = math.hypot(x2 - x1, y2 - y1) or 1.0
        nx, ny = -(y2 - y1) / length, (x2 - x1) / length
        mid = ((x1 + x2) / 2, (y1 + y2) / 2)
        hair = 1e-3 * length
        left = (mid[0] + nx * hair, mid[1] + ny * hair)
        return left if inside(left, polygon) else (mid[0] - nx * hair, mid[1] - ny * hair)


@dataclass(frozen=True, eq=False)
class Arrangement:
    regions: tuple[Region, ...]
    source: dict[Key, str]

    def region(self, id: str) -> Region | None:
        return next((r for r in self.regions if r.id == id), None)


@dataclass(frozen=True)
class Outline:
    """Faces in the plane z = 0 looking up, to be grown into a body, and what each of their edges
    came from."""

    faces: list[TopoDS_Face]
    roles: dict[Key, str]


def _line_edge(curve: Line2) -> TopoDS_Edge:
    finite(*curve.a, *curve.b)
    return BRepBuilderAPI_MakeEdge(gp_Pnt(*curve.a, 0.0), gp_Pnt(*curve.b, 0.0)).Edge()


def _round(curve: Circle2 | Arc2) -> gp_Circ:
    finite(*curve.centre, curve.radius)
    return gp_Circ(gp_Ax2(gp_Pnt(*curve.centre, 0.0), _UP), curve.radius)


def _circle_edge(curve: Circle2) -> TopoDS_Edge:
    return BRepBuilderAPI_MakeEdge(_round(curve)).Edge()


def _arc_edge(curve: Arc2) -> TopoDS_Edge:
    return BRepBuilderAPI_MakeEdge(_round(curve), curve.start, curve.end).Edge()


def _ellipse_edge(curve: Ellipse2) -> TopoDS_Edge:
    finite(*curve.centre, *curve.major, curve.minor)
    # The kernel's major axis is the longer one: a quarter turn on when ours is not.
    long, turn = math.hypot(*curve.major), 0.0
    along = curve.major
    if curve.minor > long:
        along, turn = curve.across, -0.5 * math.pi
    axes = gp_Ax2(gp_Pnt(*curve.centre, 0.0), _UP, gp_Dir(*along, 0.0))
    ellipse = gp_Elips(axes, max(long, curve.minor), min(long, curve.minor))
    if curve.closed:
        return BRepBuilderAPI_MakeEdge(ellipse).Edge()
    return BRepBuilderAPI_MakeEdge(ellipse, curve.start + turn, curve.end + turn).Edge()


def _spline_edge(curve: Spline2) -> TopoDS_Edge:
    finite(*(c for p in curve.poles for c in p), *curve.knots)
    poles = Array1_gp_Pnt(1, len(curve.poles))
    for i, p in enumerate(curve.poles):
        poles.SetValue(i + 1, gp_Pnt(*p, 0.0))
    values = sorted(set(curve.knots))
    knots, repeats = Array1_double(1, len(values)), Array1_int(1, len(values))
    for i, k in enumerate(values):
        knots.SetValue(i + 1, k)
        repeats.SetValue(i + 1, curve.knots.count(k))
    if curve.weights is None:
        made = Geom_BSplineCurve(poles, knots, repeats, curve.degree)
    else:
        weights = Array1_double(1, len(curve.weights))
        for i, w in enumerate(curve.weights):
            weights.SetValue(i + 1, w)
        made = Geom_BSplineCurve(poles, weights, knots, repeats, curve.degree)
    return BRepBuilderAPI_MakeEdge(made).Edge()


_EDGES: dict[type[Any], Callable[[Any], TopoDS_Edge]] = {
    Line2: _line_edge,
    Circle2: _circle_edge,
    Arc2: _arc_edge,
    Ellipse2: _ellipse_edge,
    Spline2: _spline_edge,
}


def edge_of(curve: Curve2) -> TopoDS_Edge | None:
    """The kernel edge of a curve in the plane z = 0, or None when it has no length."""
    return _EDGES[type(curve)](curve) if curve.length >= JOIN else None


@lru_cache(maxsize=64)
def arrange(curves: tuple[tuple[str, Curve2], ...]) -> Arrangement:
    """What `arrange_anew` finds, kept for the sketches asked for lately."""
    return arrange_anew(curves)


def arrange_anew(curves: tuple[tuple[str, Curve2], ...]) -> Arrangement:
    """All smallest regions between the curves, which may cross, nest, overlap and dangle.

    Curves are `(id, curve)`; those without length are passed over (the sketch reports them).
    """
    made = [(id, edge) for id, curve in curves if (edge := edge_of(curve)) is not None]
    by_id = dict(curves)
    if not made:
        return Arrangement((), {})
    trouble = "the curves of the sketch could not be cut at their crossings"
    faces, source = cells(made, trouble)
    found = [_region(face, source, by_id) for face in faces]
    return Arrangement(tuple(_with_depth(_distinct(found))), source)


def cells(
    edges: Sequence[tuple[str, TopoDS_Edge]], trouble: str
) -> tuple[list[TopoDS_Face], dict[Key, str]]:
    """The smallest regions between edges in the plane z = 0, cut at their crossings, and what
    each piece was called before. Raises KernelTrouble saying `trouble`."""
    source: dict[Key, str] = {}
    if len(edges) == 1:
        # The kernel asks for two things at least.
        arranged: TopoDS_Shape = compound_of([edges[0][1]])
        source[Key(edges[0][1])] = edges[0][0]
    else:
        builder = BOPAlgo_Builder()
        for _, edge in edges:
            builder.AddArgument(edge)
        builder.SetRunParallel(False)
        builder.SetToFillHistory(True)
        builder.SetFuzzyValue(JOIN)
        builder.Perform()
        if builder.HasErrors():
            raise KernelTrouble(trouble)
        arranged = builder.Shape()
        for name, edge in edges:
            for piece in items(builder.Modified(edge)) or [edge]:
                source.setdefault(Key(piece), name)
    return _faces(_without_loose_ends(arranged)), source


def _without_loose_ends(arranged: TopoDS_Shape) -> TopoDS_Shape:
    """Edges that lead nowhere taken off, again and again: inside a region they would stay as
    slits in its face."""
    edges = edges_of(arranged)
    ends = [[Key(v) for v in vertices_of(e)] for e in edges]
    count: dict[Key, int] = {}
    for pair in ends:
        for v in pair if len(pair) == 2 else pair * 2:
            count[v] = count.get(v, 0) + 1
    left = list(range(len(edges)))
    while True:
        loose = [i for i in left if any(count[v] == 1 for v in ends[i])]
        if not loose:
            break
        for i in loose:
            for v in ends[i]:
                count[v] -= 1
        gone = set(loose)
        left = [i for i in left if i not in gone]
    return arranged if len(left) == len(edges) else compound_of([edges[i] for i in left])


def merged(faces: list[TopoDS_Face]) -> list[TopoDS_Face]:
    """Faces of one arrangement as the fewest that cover the same, edges between them dropped."""
    if len(faces) == 1:
        return faces
    # Holes filled by a region that is not among them come back as faces: keep those that are.
    probes = [inner_point(f) for f in faces]
    return [f for f in _faces(compound_of(_rim(faces))) if any(holds(f, p) for p in probes)]


def _faces(edges: object) -> list[TopoDS_Face]:
    wires, faces = TopoDS_Compound(), TopoDS_Compound()
    if BOPAlgo_Tools.EdgesToWires_s(edges, wires, True, 1e-8) != 0:
        return []
    if not BOPAlgo_Tools.WiresToFaces_s(wires, faces, 1e-8):
        return []
    return [upward(f) for f in faces_of(faces)]


def upward(face: TopoDS_Face) -> TopoDS_Face:
    """The kernel's regions look up or down at random; the sketch's look up."""
    normal = describe_face(face)[2]
    return TopoDS.Face(face.Reversed()) if normal is not None and normal[2] < 0 else face


def _wires(face: TopoDS_Face) -> tuple[TopoDS_Wire, list[TopoDS_Wire]]:
    outer = BRepTools.OuterWire_s(face)
    explorer = TopExp_Explorer(face, TopAbs_WIRE)
    inner = []
    while explorer.More():
        wire = TopoDS.Wire(explorer.Current())
        if not wire.IsSame(outer):
            inner.append(wire)
        explorer.Next()
    return outer, inner


def wires_of(face: TopoDS_Face) -> list[TopoDS_Wire]:
    """The outer wire of a face, then those of its holes."""
    outer, inner = _wires(face)
    return [outer, *inner]


def _middle(edge: TopoDS_Edge) -> tuple[Pair, Pair]:
    """Point and direction of travel half-way along an edge."""
    curve = BRepAdaptor_Curve(edge)
    t = 0.5 * (curve.FirstParameter() + curve.LastParameter())
    p, v = curve.Value(t), curve.DN(t, 1)
    sign = -1.0 if edge.Orientation() == TopAbs_REVERSED else 1.0
    return (p.X(), p.Y()), (sign * v.X(), sign * v.Y())


def _polygon(wire: TopoDS_Wire, face: TopoDS_Face) -> list[Pair]:
    points: list[Pair] = []
    explorer = BRepTools_WireExplorer(wire, face)
    while explorer.More():
        edge = explorer.Current()
        curve = BRepAdaptor_Curve(edge)
        first, last = curve.FirstParameter(), curve.LastParameter()
        kind = curve.GetType()
        if kind == CurveType.GeomAbs_Line:
            count = 1
        elif kind == CurveType.GeomAbs_BSplineCurve:
            count = 12 * max(curve.NbKnots() - 1, 2)
        else:
            count = max(4, math.ceil(abs(last - first) / 0.13))
        ts = [first + (last - first) * k / count for k in range(count + 1)]
        if edge.Orientation() == TopAbs_REVERSED:
            ts.reverse()
        for t in ts[:-1]:
            p = curve.Value(t)
            points.append((round(p.X(), 6), round(p.Y(), 6)))
        explorer.Next()
    return points


def _region(face: TopoDS_Face, source: dict[Key, str], by_id: dict[str, Curve2]) -> Region:
    outer, inner = _wires(face)
    bounds: set[str] = set()
    explorer = TopExp_Explorer(face, TopAbs_EDGE)
    while explorer.More():
        edge = TopoDS.Edge(explorer.Current())
        explorer.Next()
        id = source.get(Key(edge))
        if id is None or BRep_Tool.Degenerated_s(edge):
            continue
        at, travel = _middle(edge)
        along = by_id[id].tangent_at(at)
        left = travel[0] * along[0] + travel[1] * along[1] > 0.0
        bounds.add(f"{id}{'+' if left else '-'}")
    skin = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, skin)
    c = skin.CentreOfMass()
    names = tuple(sorted(bounds))
    digest = hashlib.sha256("|".join(names).encode()).hexdigest()[:10]
    return Region(
        id=f"r{digest}",
        area=abs(float(skin.Mass())),
        at=(round(c.X(), 6), round(c.Y(), 6)),
        bounds=names,
        outer=_polygon(outer, face),
        holes=[_polygon(w, face) for w in inner],
        face=face,
    )


def _distinct(regions: list[Region]) -> list[Region]:
    """Regions bounded by the same sides of the same curves are numbered from left to right."""
    alike: dict[str, list[Region]] = {}
    for region in regions:
        alike.setdefault(region.id, []).append(region)
    found = []
    for id, group in alike.items():
        ordered = sorted(group, key=lambda r: (round(r.at[0], 4), round(r.at[1], 4)))
        for n, r in enumerate(ordered):
            new = id if n == 0 else f"{id}.{n + 1}"
            found.append(Region(new, r.area, r.at, r.bounds, r.outer, r.holes, face=r.face))
    return sorted(found, key=lambda r: r.id)


def _with_depth(regions: list[Region]) -> list[Region]:
    """How many other regions' holes a region lies in: 0 is material when nothing was chosen."""
    found = []
    for r in regions:
        probe = r.probe
        depth = sum(
            1 for other in regions if other is not r for h in other.holes if inside(probe, h)
        )
        found.append(Region(r.id, r.area, r.at, r.bounds, r.outer, r.holes, depth, r.face))
    return found


def outline_of(arrangement: Arrangement, chosen: list[Region]) -> Outline:
    """The chosen regions, their edges called by the curves they lie on."""
    return Outline(faces_from(chosen), dict(arrangement.source))


def faces_from(chosen: list[Region]) -> list[TopoDS_Face]:
    """Faces covering the chosen regions, neighbours merged across the curves between them."""
    return merged([r.face for r in chosen if r.face is not None])


def _rim(faces: list[TopoDS_Face]) -> list[TopoDS_Edge]:
    """Edges with one of the faces on one side only."""
    count: dict[Key, int] = {}
    for face in faces:
        for edge in edges_of(face):
            count[Key(edge)] = count.get(Key(edge), 0) + 1
    return [TopoDS.Edge(k.shape) for k, n in count.items() if n == 1]


def rim_of(arrangement: Arrangement, chosen: list[Region]) -> list[tuple[str, TopoDS_Edge]]:
    """The outline of the chosen regions taken together: `(id of the curve, piece of it)`."""
    rim = _rim([r.face for r in chosen if r.face is not None])
    return [(arrangement.source[Key(e)], e) for e in rim if Key(e) in arrangement.source]


def holds(face: TopoDS_Face, at: gp_Pnt) -> bool:
    """Whether a place in the plane lies inside a face."""
    return bool(BRepClass_FaceClassifier(face, at, 1e-9).State() == TopAbs_IN)
