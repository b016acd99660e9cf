"""Questions about bodies: mass properties, boxes, distances, and what each face and edge is."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepGProp import BRepGProp
from OCP.BRepLProp import BRepLProp_SLProps
from OCP.GeomAbs import GeomAbs_CurveType as CurveType
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED, TopAbs_VERTEX
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from vireo.core.kernel.place import located
from vireo.core.kernel.shape import Body, Key, ancestors, items, solids_of
from vireo.core.kernel.skin import SURFACES, corners, skin_of
from vireo.core.naming.topology import EdgeInfo, FaceInfo, Topology, Triple, VertexInfo


@dataclass(frozen=True)
class MassProperties:
    """Volume mm3, area mm2, centre mm, and volume inertia about the centre in mm5."""

    volume: float
    area: float
    centre: Triple
    inertia: NDArray[np.float64]


def volume_of(shape: TopoDS_Shape) -> float:
    """Signed volume in mm3."""
    return skin_of(shape).volume


def roughly(shape: TopoDS_Shape, within: float) -> float:
    """Signed volume in mm3 to a relative error: for checks that need no more, far quicker on
    winding surfaces than `volume_of`."""
    found = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, found, within)
    return float(found.Mass())


def mass_properties(body: Body) -> MassProperties:
    skin = skin_of(body.shape)
    whole = skin.integrals
    x, y, z = map(float, whole.first)
    return MassProperties(whole.volume, skin.area, (x, y, z), whole.second)


def area_of(face: TopoDS_Face) -> float:
    """Area in mm2."""
    skin = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, skin)
    return float(skin.Mass())


def area_centre(face: TopoDS_Face) -> Triple:
    """Centre of a face's area in mm."""
    skin = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, skin)
    return _triple(skin.CentreOfMass())


def bend_room(face: TopoDS_Face, by: float) -> float | None:
    """The least radius (mm) with which a face bends round towards the side of an offset, out
    when positive; beyond it the offset folds. None where it bends the other way or not at all."""
    surface = BRepAdaptor_Surface(face)
    sign = math.copysign(1.0, by) * (-1.0 if face.Orientation() == TopAbs_REVERSED else 1.0)
    u = np.linspace(surface.FirstUParameter(), surface.LastUParameter(), 9)
    v = np.linspace(surface.FirstVParameter(), surface.LastVParameter(), 9)
    sharpest = 0.0
    for a in u:
        for b in v:
            props = BRepLProp_SLProps(surface, float(a), float(b), 2, 1e-9)
            if props.IsCurvatureDefined():
                ends = (props.MaxCurvature(), props.MinCurvature())
                sharpest = max(sharpest, *(sign * k for k in ends))
    return 1.0 / sharpest if sharpest > 1e-9 else None


def box_of(shape: TopoDS_Shape) -> tuple[Triple, Triple]:
    """Exact axis-aligned box: least and largest corner in mm."""
    if solids_of(shape):
        found = skin_of(shape).close_box
    else:
        box = Bnd_Box()
        BRepBndLib.AddOptimal_s(shape, box, False, False)
        found = corners(box)
    x0, y0, z0, x1, y1, z1 = map(float, found)
    return (x0, y0, z0), (x1, y1, z1)


def distance_between(a: TopoDS_Shape, b: TopoDS_Shape) -> tuple[float, Triple, Triple]:
    """Least distance in mm and the two nearest points."""
    found = BRepExtrema_DistShapeShape(a, b)
    if not found.IsDone() or found.NbSolution() == 0:
        raise ValueError("no distance could be found")
    p, q = found.PointOnShape1(1), found.PointOnShape2(1)
    return float(found.Value()), (p.X(), p.Y(), p.Z()), (q.X(), q.Y(), q.Z())


def _triple(p: object) -> Triple:
    return (float(p.X()), float(p.Y()), float(p.Z()))  # type: ignore[attr-defined]


def describe_face(face: TopoDS_Face) -> tuple[str, Triple, Triple | None, float | None]:
    """Kind, a point of its frame, direction and radius of a face.

    Direction is the outward normal of a plane, the axis of a cylinder, cone or torus.
    """
    surface = BRepAdaptor_Surface(face)
    kind = SURFACES.get(surface.GetType(), "freeform")
    flipped = face.Orientation() == TopAbs_REVERSED
    if kind == "plane":
        plane = surface.Plane()
        n = plane.Axis().Direction()
        # A left-handed plane frame points its normal the other way.
        sign = -1.0 if flipped != (not plane.Direct()) else 1.0
        return kind, _triple(plane.Location()), _scaled(_triple(n), sign), None
    if kind == "cylinder":
        c = surface.Cylinder()
        return kind, _triple(c.Location()), _triple(c.Axis().Direction()), float(c.Radius())
    if kind == "cone":
        k = surface.Cone()
        return kind, _triple(k.Apex()), _triple(k.Axis().Direction()), None
    if kind == "sphere":
        s = surface.Sphere()
        return kind, _triple(s.Location()), None, float(s.Radius())
    if kind == "torus":
        t = surface.Torus()
        return kind, _triple(t.Location()), _triple(t.Axis().Direction()), float(t.MinorRadius())
    u = 0.5 * (surface.FirstUParameter() + surface.LastUParameter())
    v = 0.5 * (surface.FirstVParameter() + surface.LastVParameter())
    props = BRepLProp_SLProps(surface, u, v, 1, 1e-6)
    normal = _triple(props.Normal()) if props.IsNormalDefined() else None
    if normal is not None and flipped:
        normal = _scaled(normal, -1.0)
    return kind, _triple(props.Value()), normal, None


_FORM = {
    "cylinder": BRepAdaptor_Surface.Cylinder,
    "cone": BRepAdaptor_Surface.Cone,
    "sphere": BRepAdaptor_Surface.Sphere,
    "torus": BRepAdaptor_Surface.Torus,
}


def is_hollow(face: TopoDS_Face, kind: str) -> bool:
    """Whether a round face looks at its own axis (a bore), material being outside it."""
    if kind not in _FORM:
        return False
    direct = _FORM[kind](BRepAdaptor_Surface(face)).Direct()
    return bool((face.Orientation() == TopAbs_REVERSED) == direct)


def _scaled(v: Triple, factor: float) -> Triple:
    return (v[0] * factor, v[1] * factor, v[2] * factor)


def describe_edge(edge: TopoDS_Edge) -> dict[str, object]:
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    middle = _triple(curve.Value(0.5 * (first + last)))
    if curve.GetType() == CurveType.GeomAbs_Line:
        d = _triple(curve.Line().Direction())
        return {"kind": "line", "at": middle, "direction": d, "length": last - first}
    lengths = GProp_GProps()
    BRepGProp.LinearProperties_s(edge, lengths, True)
    length = float(lengths.Mass())
    if curve.GetType() == CurveType.GeomAbs_Circle:
        c = curve.Circle()
        return {
            "kind": "circle",
            "at": middle,
            "direction": _triple(c.Axis().Direction()),
            "centre": _triple(c.Location()),
            "radius": float(c.Radius()),
            "length": length,
            "closed": bool(abs(last - first) > 2.0 * math.pi - 1e-9),
        }
    return {"kind": "curve", "at": middle, "direction": None, "length": length}


def topology_of(body: Body) -> Topology:
    """What every face, edge and vertex of a body is, as plain data in map order."""
    faces: list[FaceInfo] = []
    neighbours: list[set[int]] = [set() for _ in body.faces]
    for pair in body.edge_faces:
        if len(pair) == 2:
            neighbours[pair[0]].add(pair[1])
            neighbours[pair[1]].add(pair[0])
    for i, (face, name) in enumerate(body.named_faces()):
        skin = GProp_GProps()
        BRepGProp.SurfaceProperties_s(face, skin)
        kind, origin, direction, radius = describe_face(face)
        faces.append(
            FaceInfo(
                name=name,
                kind=kind,
                area=float(skin.Mass()),
                at=_triple(skin.CentreOfMass()),
                origin=origin,
                direction=direction,
                radius=radius,
                hollow=is_hollow(face, kind),
                neighbours=tuple(sorted(neighbours[i])),
            )
        )
    vertex_index = {Key(v): i for i, v in enumerate(body.vertices)}
    edges: list[EdgeInfo] = []
    for edge, pair in zip(body.edges, body.edge_faces, strict=True):
        first = vertex_index.get(Key(TopExp.FirstVertex_s(edge)))
        last = vertex_index.get(Key(TopExp.LastVertex_s(edge)))
        ends = tuple(sorted({i for i in (first, last) if i is not None}))
        own = "" if body.faces else body.names[len(edges)]
        seam = len(pair) == 1 and bool(BRep_Tool.IsClosed_s(edge, body.faces[pair[0]]))
        edges.append(EdgeInfo(faces=pair, ends=ends, seam=seam, own=own, **describe_edge(edge)))  # type: ignore[arg-type]
    face_index = {Key(f): i for i, f in enumerate(body.faces)}
    vertex_faces = ancestors(body.shape, TopAbs_VERTEX, TopAbs_FACE)
    vertices = [
        VertexInfo(
            at=_triple(BRep_Tool.Pnt_s(v)),
            faces=tuple(sorted({face_index[Key(f)] for f in items(vertex_faces.FindFromKey(v))}))
            if face_index
            else (),
            own=() if face_index else tuple(e.own for e in edges if vertex_index[Key(v)] in e.ends),
        )
        for v in body.vertices
    ]
    return Topology(faces=tuple(faces), edges=tuple(edges), vertices=tuple(vertices))


def outward_normal(face: TopoDS_Face, edge: TopoDS_Edge, t: float) -> NDArray[np.float64] | None:
    """Outward normal of a face at a place on one of its edges."""
    uv = BRepAdaptor_Curve2d(edge, face).Value(t)
    props = BRepLProp_SLProps(BRepAdaptor_Surface(face), uv.X(), uv.Y(), 1, 1e-6)
    if not props.IsNormalDefined():
        return None
    n = np.array(_triple(props.Normal()))
    return -n if face.Orientation() == TopAbs_REVERSED else n


def corner_at(body: Body, index: int, share: float) -> tuple[float, bool] | None:
    """At a share of the length of an edge's parameter: the angle (rad) between the outward
    normals of its two faces, and whether they form an inner corner, open to the outside by less
    than a half turn. None at seams and where a face has no normal."""
    edge, pair = body.edges[index], body.edge_faces[index]
    if len(pair) != 2:
        return None
    face, other = body.faces[pair[0]], body.faces[pair[1]]
    curve = BRepAdaptor_Curve(edge)
    t = (1.0 - share) * curve.FirstParameter() + share * curve.LastParameter()
    n1, n2 = outward_normal(face, edge, t), outward_normal(other, edge, t)
    if n1 is None or n2 is None:
        return None
    along = np.array(_triple(curve.DN(t, 1)))
    if _orientation_in(face, edge) == TopAbs_REVERSED:
        along = -along
    into = np.cross(n1, along)  # the face lies to the left of its border
    angle = math.acos(max(-1.0, min(1.0, float(n1 @ n2))))
    return angle, float(into @ n2) > 0.0


def sharp_inner_edges(body: Body) -> list[int]:
    """Edges where two faces meet in a corner that opens less than 180 degrees outwards."""
    found = []
    for index in range(len(body.edges)):
        corner = corner_at(body, index, 0.5)
        # Tangent within ten degrees is no corner.
        if corner is not None and corner[1] and corner[0] >= math.radians(10.0):
            found.append(index)
    return found


def open_edges(body: Body) -> int:
    """How many edges of a surface bound one face only; where a face closes on itself is none."""
    return sum(
        len(pair) == 1 and not BRep_Tool.Degenerated_s(edge)
        and not BRep_Tool.IsClosed_s(edge, body.faces[pair[0]])
        for edge, pair in zip(body.edges, body.edge_faces, strict=True)
    )  # fmt: skip


def _orientation_in(face: TopoDS_Face, edge: TopoDS_Edge) -> object:
    explorer = TopExp_Explorer(face, TopAbs_EDGE)
    while explorer.More():
        if explorer.Current().IsSame(edge):
            return explorer.Current().Orientation()
        explorer.Next()
    return edge.Orientation()


def edge_line(body: Body, index: int, count: int = 13) -> list[Triple]:
    """Points along an edge."""
    curve = BRepAdaptor_Curve(body.edges[index])
    first, last = curve.FirstParameter(), curve.LastParameter()
    return [_triple(curve.Value(first + (last - first) * k / (count - 1))) for k in range(count)]


@dataclass(frozen=True)
class Measured:
    """A face, edge or corner taken out of a body to be measured."""

    shape: TopoDS_Shape

    def moved(self, rotation: NDArray[np.float64], position: NDArray[np.float64]) -> Measured:
        return Measured(located(self.shape, rotation, position))


def place_of(body: Body, kind: str, index: int) -> Measured:
    """The index-th face, edge or vertex of a body."""
    parts: dict[str, list[TopoDS_Shape]] = {
        "face": list(body.faces),
        "edge": list(body.edges),
        "vertex": list(body.vertices),
    }
    return Measured(parts[kind][index])
