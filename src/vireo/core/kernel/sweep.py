"""Profiles swept along paths, and skins through sections."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_CompCurve, BRepAdaptor_Curve
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Transform,
    BRepBuilderAPI_TransitionMode,
)
from OCP.BRepGProp import BRepGProp
from OCP.BRepLib import BRepLib
from OCP.BRepLProp import BRepLProp_CLProps
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell, BRepOffsetAPI_ThruSections
from OCP.collections import List_TopoDS_Shape as ShapeList
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.Geom import Geom_ConicalSurface, Geom_CylindricalSurface
from OCP.Geom2d import Geom2d_Line
from OCP.GeomAbs import GeomAbs_Shape
from OCP.gp import (
    gp_Ax2,
    gp_Ax3,
    gp_Circ,
    gp_Dir,
    gp_Dir2d,
    gp_Pln,
    gp_Pnt,
    gp_Pnt2d,
    gp_Trsf,
)
from OCP.GProp import GProp_GProps
from OCP.Law import Law_Linear
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape, TopoDS_Wire

from vireo.core.geometry import Frame, Triple, Vector, cross, dot, plane_frame, unit
from vireo.core.kernel.boolean import combine
from vireo.core.kernel.forms.kind import sound
from vireo.core.kernel.gate import KernelTrouble, checked, finite
from vireo.core.kernel.locate import carried_on, foot_on
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.outline import pierced
from vireo.core.kernel.place import direction, point, to_place
from vireo.core.kernel.profile import Outline, wires_of
from vireo.core.kernel.sections import network, ordered
from vireo.core.kernel.shape import Body, Key, compound_of, edges_of, faces_of, items
from vireo.core.kernel.simplify import flattened
from vireo.core.kernel.transform import Move
from vireo.core.kernel.witness import unmet
from vireo.core.naming.grammar import face_name

Named = tuple[str, TopoDS_Edge]


@dataclass(frozen=True)
class Way:
    """How a profile goes along its path."""

    corners: Literal["mitre", "round"] = "mitre"
    keep: Literal["follow", "upright", "fixed"] = "follow"
    up: Triple = (0.0, 0.0, 1.0)
    grow: float = 1.0
    #: Turn from start to end about the path (rad).
    twist: float = 0.0
    #: A curve the profile keeps facing, or is held against (and sized by) as well.
    guide: TopoDS_Wire | None = None
    sized: bool = False


@dataclass(frozen=True)
class Path:
    """A run of edges in space, in order, with what each came from."""

    wire: TopoDS_Wire
    edges: tuple[Named, ...]
    #: The face it is a rim of.
    face: TopoDS_Face | None = None

    @property
    def length(self) -> float:
        g = GProp_GProps()
        BRepGProp.LinearProperties_s(self.wire, g, True)
        return float(g.Mass())

    @property
    def closed(self) -> bool:
        return bool(BRep_Tool.IsClosed_s(self.wire))

    def start(self) -> tuple[gp_Pnt, Triple]:
        """Where it begins and the direction it sets out in."""
        curve = BRepAdaptor_CompCurve(self.wire)
        p, d = curve.Value(curve.FirstParameter()), curve.DN(curve.FirstParameter(), 1)
        n = d.Magnitude()
        return p, (d.X() / n, d.Y() / n, d.Z() / n)


def path_of(edges: Sequence[Named]) -> Path:
    """Edges that hang together as one path. Raises KernelTrouble when they do not."""
    listed = ShapeList()
    for _, e in edges:
        listed.Append(e)
    maker = BRepBuilderAPI_MakeWire()
    maker.Add(listed)
    if not maker.IsDone():
        raise KernelTrouble("the path does not hang together: its pieces must meet end to end")
    wire = maker.Wire()
    if len(edges_of(wire)) < len(edges):
        raise KernelTrouble("the path branches or has a gap: choose pieces that make one run")
    return Path(wire, tuple(edges))


def together(bodies: Sequence[Body], what: str) -> Body:
    """Bodies as one: joined where they touch."""
    first, *others = bodies
    return combine("add", first, others, what) if others else first


def coil(frame: Frame, diameter: float, end: float, pitch: float, turns: float, left: bool) -> Path:
    """A helix about z of a frame, from its x axis up, from one diameter to another (mm): a
    straight line on a cylinder or cone rolled out, so exact but for the kernel's 1e-6 mm."""
    finite(diameter, end, pitch, turns)
    rise, narrow = pitch * turns, 0.5 * (end - diameter)
    slant = math.hypot(rise, narrow)
    around = 2 * math.pi * turns
    base = gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))
    surface = (
        Geom_CylindricalSurface(base, diameter / 2)
        if abs(narrow) < 1e-9
        else Geom_ConicalSurface(base, math.atan2(narrow, rise), diameter / 2)
    )
    line = Geom2d_Line(gp_Pnt2d(0, 0), gp_Dir2d(around, slant))
    edge = BRepBuilderAPI_MakeEdge(line, surface, 0, math.hypot(around, slant)).Edge()
    segments = max(16, 40 * math.ceil(turns))
    BRepLib.BuildCurve3d_s(edge, 1e-6, GeomAbs_Shape.GeomAbs_C2, 14, segments)
    move = gp_Trsf()
    if left:
        move.SetMirror(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 1, 0)))
    span = BRepAdaptor_Curve(edge)
    # Only the curve in space is kept: a path that lies on a surface is swept as its border.
    free = BRepBuilderAPI_MakeEdge(
        BRep_Tool.Curve_s(edge, 0.0, 1.0), span.FirstParameter(), span.LastParameter()
    ).Edge()
    placed = BRepBuilderAPI_Transform(free, to_place(frame).Multiplied(move), True, False)
    return path_of([("helix", TopoDS.Edge(placed.Shape()))])


def rims(face: TopoDS_Face, names: dict[Key, str]) -> list[Path]:
    """Every border of a face as a closed path."""
    found = []
    for wire in wires_of(face):
        edges = [(names.get(Key(e), "rim"), e) for e in edges_of(wire)]
        found.append(replace(path_of(edges), face=face))
    return found


def on_rim(path: Path) -> Frame:
    """Where a profile drawn about its own origin goes on a rim: x out of the face, z along the
    path."""
    assert path.face is not None
    start, along = path.start()
    normal = foot_on(path.face, _xyz(start))[1]
    x = unit(_without(normal, along))
    return Frame(_xyz(start), x, along)


def on_start(path: Path) -> Frame:
    """Square to the start of a path, z along it."""
    start, along = path.start()
    return plane_frame(_xyz(start), along)


def stands_at(frame: Frame, path: Path) -> bool:
    """Whether a path begins in a plane and does not run within it: there a profile can be swept
    from where it was drawn."""
    start, along = path.start()
    p, z = _xyz(start), frame.z
    off = dot((p[0] - frame.origin[0], p[1] - frame.origin[1], p[2] - frame.origin[2]), z)
    return abs(off) < 1e-4 and abs(dot(along, z)) > 0.05


def _without(v: Triple, along: Triple) -> Triple:
    k = dot(v, along)
    return (v[0] - k * along[0], v[1] - k * along[1], v[2] - k * along[2])


def sweep(outline: Outline, frame: Frame, path: Path, way: Way, step: str) -> Body:
    """The outline, where it lies, taken along a path.

    Faces are named ``<step>/side/<role>/<piece of the path>`` and ``<step>/cap/start|end``. Raises
    KernelTrouble when the kernel gives nothing sound: bends tighter than the profile is wide.
    """
    solids = []
    for face in outline.faces:
        placed = BRepBuilderAPI_Transform(face, to_place(frame), True, False)
        roles = {
            Key(placed.ModifiedShape(e)): outline.roles.get(Key(e), "edge") for e in edges_of(face)
        }
        if way.keep == "follow":
            refuse_folds(placed.Shape(), path)
        outer, *holes = wires_of(TopoDS.Face(placed.Shape()))
        whole = _swept(outer, roles, path, way, step)
        inner = [_swept(h, roles, path, way, step) for h in holes]
        solids.append(combine("cut", whole, inner, "the sweep") if inner else whole)
        unmet(solids[-1], "the sweep")
        _plausible(TopoDS.Face(placed.Shape()), solids[-1], path, way)
    if len(solids) == 1:
        return solids[0]
    shape = compound_of([s.shape for s in solids])
    table = {Key(f): n for s in solids for f, n in s.named_faces()}
    return Body(checked("the sweep", shape), tuple(table[Key(f)] for f in faces_of(shape)))


def _swept(wire: TopoDS_Wire, roles: dict[Key, str], path: Path, way: Way, step: str) -> Body:
    return swept_skin(wire, roles, path, way, step, solid=True)


def swept_skin(
    wire: TopoDS_Wire, roles: dict[Key, str], path: Path, way: Way, step: str, solid: bool = False
) -> Body:
    """What a wire sweeps along a path: a surface, or closed by caps to a solid."""
    if way.guide is not None or way.twist:
        return _winding(wire, roles, path, way, step, solid)
    maker = BRepOffsetAPI_MakePipeShell(path.wire)
    modes = BRepBuilderAPI_TransitionMode
    maker.SetTransitionMode(
        modes.BRepBuilderAPI_RightCorner if way.corners == "mitre"
        else modes.BRepBuilderAPI_RoundCorner
    )  # fmt: skip
    if way.keep == "upright":
        maker.SetMode(direction(way.up))
    elif way.keep == "fixed":
        p, d = path.start()
        maker.SetMode(gp_Ax2(p, gp_Dir(*d)))
    else:
        maker.SetMode(False)
    try:
        if abs(way.grow - 1.0) > 1e-9:
            law = Law_Linear()
            law.Set(0.0, 1.0, 1.0, way.grow)
            maker.SetLaw(wire, law, False, False)
        else:
            maker.Add(wire, False, False)
        maker.Build()
        done = maker.IsDone() and (not solid or maker.MakeSolid())
    except Exception as error:
        raise KernelTrouble("the profile cannot follow the path") from error
    if not done:
        raise KernelTrouble("the profile cannot follow the path")
    shape = maker.Shape()
    named: dict[Key, str] = {}
    if solid and not path.closed:
        for cap, word in ((maker.FirstShape(), "start"), (maker.LastShape(), "end")):
            for f in faces_of(cap):
                named[Key(f)] = face_name(step, "cap", word)
    for edge in edges_of(wire):
        for f in items(maker.Generated(edge)):
            for part in faces_of(f):
                named[Key(part)] = face_name(
                    step, "side", roles.get(Key(edge), "edge"), _beside(part, path)
                )
    if solid and volume_of(shape) < 0.0:
        # Round a helix the kernel turns its solid inside out at some sizes.
        shape = shape.Reversed()
    shape = checked("the sweep", shape) if solid else sound("the sweep", shape, "surface")
    return Body(
        shape, tuple(named.get(Key(f), face_name(step, "side", "corner")) for f in faces_of(shape))
    )


def _stations(path: Path, way: Way) -> list[tuple[Frame, float]]:
    """Frames along a smooth path with the size of the profile there, the first being 1.

    Without a guide the frames do not turn about the path (double reflection, Wang et al. 2008)
    but for the twist; with one their x looks at it, square to the path.
    """
    curve = BRepAdaptor_CompCurve(path.wire)
    bend = tightest(path)
    turned = abs(way.twist) + (path.length / bend.radius if bend else 0.0)
    count = max(12, math.ceil(turned / math.radians(8.0)))
    if count > 1500:
        raise KernelTrouble("the profile winds more often than can be drawn")
    ts = _even(curve, count)
    points = [np.array(_xyz(curve.Value(t))) for t in ts]
    tangents = [_tangent(curve, t) for t in ts]
    for k in range(count):
        if float(tangents[k] @ tangents[k + 1]) < 0.9:
            raise KernelTrouble(
                "a profile that turns needs a path without sharp corners: round them"
            )
    seen = [
        _to_guide(p, t, way.guide) if way.guide is not None else None
        for p, t in zip(points, tangents, strict=True)
    ]
    r = plane_frame(_three(points[0]), _three(tangents[0])).x
    x = np.array(r)
    frames = []
    for k, (p, t) in enumerate(zip(points, tangents, strict=True)):
        if k:
            before = Frame(_three(points[k - 1]), _three(x), _three(tangents[k - 1]))
            x = np.array(carried_on(before, _three(p), _three(t)))
        a = way.twist * k / count
        out = math.cos(a) * x + math.sin(a) * np.cross(t, x)
        size = 1.0
        gap = seen[k]
        if gap is not None:
            reach = float(np.linalg.norm(gap))
            out = gap / reach
            first = seen[0]
            size = reach / float(np.linalg.norm(first)) if way.sized and first is not None else 1.0
        frames.append((Frame(_three(p), unit(_three(out)), _three(t)), size))
    return frames


def _three(v: Vector) -> Triple:
    return (float(v[0]), float(v[1]), float(v[2]))


def _to_guide(p: Vector, way: Vector, guide: TopoDS_Wire) -> Vector:
    """From a place on the path to where the guide goes through the plane across it."""
    across = Frame(_three(p), plane_frame(_three(p), _three(way)).x, _three(way))
    met = [np.array(q) for e in edges_of(guide) for q in pierced(e, across)]
    if not met:
        raise KernelTrouble(
            "the guide does not run beside all of the path: nothing of it lies square to "
            f"({p[0]:.1f}, {p[1]:.1f}, {p[2]:.1f})"
        )
    gap = min((q - p for q in met), key=lambda v: float(v @ v))
    if float(gap @ gap) < 1e-10:
        raise KernelTrouble("the guide meets the path: the profile would shrink to nothing there")
    return np.asarray(gap)


def _winding(
    wire: TopoDS_Wire, roles: dict[Key, str], path: Path, way: Way, step: str, solid: bool
) -> Body:
    """A profile that turns or grows on its way: a smooth skin through it at many stations."""
    stations = _stations(path, way)
    start = to_place(stations[0][0]).Inverted()
    maker = BRepOffsetAPI_ThruSections(solid, False, 1e-6)
    maker.CheckCompatibility(False)
    named: dict[Key, str] = {}
    first: dict[Key, str] = {}
    for k, (frame, size) in enumerate(stations):
        grown = gp_Trsf()
        grown.SetScale(gp_Pnt(0, 0, 0), size)
        move = to_place(frame).Multiplied(grown).Multiplied(start)
        placed = BRepBuilderAPI_Transform(wire, move, True, False)
        if k == 0:
            first = {
                Key(placed.ModifiedShape(e)): roles.get(Key(e), "edge") for e in edges_of(wire)
            }
        maker.AddWire(TopoDS.Wire(placed.Shape()))
    try:
        maker.Build()
        shape = maker.Shape()
    except Exception as error:
        raise KernelTrouble("the profile cannot wind along the path") from error
    for key, role in first.items():
        made = maker.GeneratedFace(key.shape)
        if made is not None and not made.IsNull():
            named |= {Key(f): face_name(step, "side", role) for f in faces_of(made)}
    for cap, word in ((maker.FirstShape(), "start"), (maker.LastShape(), "end")):
        if solid and cap is not None and not cap.IsNull():
            named |= {Key(f): face_name(step, "cap", word) for f in faces_of(cap)}
    shape = checked("the sweep", shape) if solid else sound("the sweep", shape, "surface")
    return Body(shape, tuple(named.get(Key(f), face_name(step, "side")) for f in faces_of(shape)))


def _even(curve: BRepAdaptor_CompCurve, count: int) -> list[float]:
    """Parameters at even lengths along a curve, ends included."""
    first, last = curve.FirstParameter(), curve.LastParameter()
    whole = GCPnts_AbscissaPoint.Length_s(curve, first, last, 1e-9)
    inner = [
        GCPnts_AbscissaPoint(curve, whole * k / count, first, 1e-9).Parameter()
        for k in range(1, count)
    ]
    return [first, *inner, last]


def _xyz(p: gp_Pnt) -> Triple:
    return (p.X(), p.Y(), p.Z())


def _tangent(curve: BRepAdaptor_CompCurve, t: float) -> Vector:
    d = curve.DN(t, 1)
    v = np.array([d.X(), d.Y(), d.Z()])
    return np.asarray(v / np.linalg.norm(v))


@dataclass(frozen=True)
class Tight:
    """The tightest bend of a path: which piece, its radius (mm), where."""

    piece: str
    radius: float
    at: Triple


def tightest(path: Path) -> Tight | None:
    """Where a path bends most; None when it is straight all along."""
    found: Tight | None = None
    for name, edge in path.edges:
        curve = BRepAdaptor_Curve(edge)
        first, last = curve.FirstParameter(), curve.LastParameter()
        props = BRepLProp_CLProps(curve, 2, 1e-9)
        for k in range(33):
            props.SetParameter(first + (last - first) * k / 32)
            if not props.IsTangentDefined():
                continue
            bend = props.Curvature()
            if bend > 1e-9 and (found is None or 1.0 / bend < found.radius):
                found = Tight(name, 1.0 / bend, _xyz(props.Value()))
    return found


class Folds(KernelTrouble):
    """The profile would run into itself in a bend."""

    def __init__(self, bend: Tight, reach: float) -> None:
        x, y, z = bend.at
        super().__init__(
            f"the profile folds over itself: the path bends with a radius of {bend.radius:.3g} mm "
            f"at ({x:.1f}, {y:.1f}, {z:.1f}), and the profile reaches {reach:.3g} mm into the bend",
            [f"point:{x:.3f},{y:.3f},{z:.3f}"],
        )


def refuse_folds(face: TopoDS_Shape, path: Path) -> None:
    """Raises Folds where a profile that goes with a smooth path reaches past the centre of a
    bend: the kernel calls the result sound."""
    bend = tightest(path)
    if bend is None:
        return
    start, _ = path.start()
    points = []
    for edge in edges_of(face):
        curve = BRepAdaptor_Curve(edge)
        a, b = curve.FirstParameter(), curve.LastParameter()
        points += [np.array(_xyz(curve.Value(a + (b - a) * k / 24))) for k in range(25)]
    local = np.array(points) - np.array(_xyz(start))
    if bend.radius > float(np.linalg.norm(local, axis=1).max()):
        return
    try:
        stations = _stations(path, Way())
    except KernelTrouble:
        return  # sharp corners: each leg is cut off by its mitre
    curve = BRepAdaptor_CompCurve(path.wire)
    first = stations[0][0]
    flat = local @ np.array([first.x, first.y]).T
    for t, (frame, _) in zip(_even(curve, len(stations) - 1), stations, strict=True):
        d1, d2 = curve.DN(t, 1), curve.DN(t, 2)
        speed, along = d1.Magnitude(), _tangent(curve, t)
        n = np.array([d2.X(), d2.Y(), d2.Z()])
        n = (n - float(n @ along) * along) / speed**2
        bent = float(np.linalg.norm(n))
        if bent < 1e-9:
            continue
        inward = np.array([n @ np.array(frame.x), n @ np.array(frame.y)]) / bent
        reach = float((flat @ inward).max())
        if reach > (1.0 + 1e-6) / bent:
            raise Folds(Tight("", 1.0 / bent, _xyz(curve.Value(t))), reach)


def failing_piece(outline: Outline, frame: Frame, path: Path, way: Way) -> str | None:
    """The first piece of a path that cannot be swept even by itself, the profile carried to its
    start; None when every one can."""
    if len(path.edges) < 2:
        return None
    start, along = path.start()
    for name, edge in path.edges:
        alone = path_of([(name, edge)])
        there, heading = alone.start()
        try:
            sweep(outline, carried_frame(frame, (_xyz(start), along), (_xyz(there), heading)),
                  alone, way, "piece")  # fmt: skip
        except KernelTrouble:
            return name
    return None


def carried_frame(frame: Frame, start: tuple[Triple, Triple], end: tuple[Triple, Triple]) -> Frame:
    """A frame taken from one place of a path to another, turned with its direction."""
    axis = cross(start[1], end[1])
    sine = math.sqrt(dot(axis, axis))
    angle = math.atan2(sine, dot(start[1], end[1]))
    move = Move.turn(start[0], unit(axis), angle) if sine > 1e-12 else Move()
    shift = (end[0][0] - start[0][0], end[0][1] - start[0][1], end[0][2] - start[0][2])
    return move.then(Move.shift(shift)).frame(frame)


def _beside(face: TopoDS_Face, path: Path) -> str:
    """The piece of the path a face runs beside: the nearest to its middle."""
    g = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, g)
    c = g.CentreOfMass()

    def gap(edge: TopoDS_Edge) -> float:
        curve = BRepAdaptor_Curve(edge)
        a, b = curve.FirstParameter(), curve.LastParameter()
        return min(float(curve.Value(a + (b - a) * k / 12).Distance(c)) for k in range(13))

    return min(path.edges, key=lambda e: gap(e[1]))[0]


def _plausible(face: TopoDS_Face, body: Body, path: Path, way: Way) -> None:
    """A sweep that folds over itself is called sound by the kernel: its volume gives it away."""
    g = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, g)
    scale = (1.0 + way.grow + way.grow**2) / 3.0
    about = abs(g.Mass()) * path.length * scale
    ratio = volume_of(body.shape) / about
    if not 0.05 < ratio < 20.0:
        raise KernelTrouble("the profile folds over itself on its way: look for tight bends")


def ring(radius: float, at: gp_Pnt, way: Triple) -> TopoDS_Wire:
    circle = gp_Circ(gp_Ax2(at, gp_Dir(*way)), radius)
    return BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(circle).Edge()).Wire()


def pipe(path: Path, diameter: float, wall: float | None, way: Way, step: str) -> Body:
    """A round rod, or with a `wall` a pipe, along a path (sizes in mm)."""
    finite(diameter)
    at, along = path.start()

    def rod(d: float, role: str) -> Body:
        wire = ring(d / 2, at, along)
        roles = {Key(e): role for e in edges_of(wire)}
        body = _swept(wire, roles, path, way, step)
        face = BRepBuilderAPI_MakeFace(gp_Pln(at, gp_Dir(*along)), wire, True).Face()
        _plausible(face, body, path, way)
        return body

    outer = rod(diameter, "outside")
    unmet(outer, "the pipe")
    if wall is None:
        return outer
    return combine("cut", outer, [rod(diameter - 2 * wall, "inside")], "the bore of the pipe")


@dataclass(frozen=True)
class Section:
    """An outline of one region in its frame, or the tip a loft ends in."""

    outline: Outline | None = None
    frame: Frame = field(default_factory=Frame)
    tip: Triple | None = None


def _placed(section: Section) -> tuple[TopoDS_Face, dict[Key, str]]:
    """The face of a section where it lies, and the roles of its edges."""
    outline = section.outline
    assert outline is not None
    face = outline.faces[0]
    placed = BRepBuilderAPI_Transform(face, to_place(section.frame), True, False)
    roles = {
        Key(placed.ModifiedShape(e)): outline.roles.get(Key(e), "edge") for e in edges_of(face)
    }
    return TopoDS.Face(placed.Shape()), roles


def placed_rim(section: Section) -> TopoDS_Wire:
    """The outer border of a section where it lies."""
    return wires_of(_placed(section)[0])[0]


def _from_corner(wire: TopoDS_Wire, corner: int) -> TopoDS_Wire:
    """The same wire begun at another of its corners."""
    edges = ordered(wire)
    k = corner % len(edges)
    maker = BRepBuilderAPI_MakeWire()
    for edge in [*edges[k:], *edges[:k]]:
        maker.Add(edge)
    return maker.Wire()


def guided(
    sections: Sequence[Section], guides: Sequence[TopoDS_Wire], step: str, within: float
) -> Body:
    """A solid through sections along guides."""
    faces = [_placed(s)[0] for s in sections]
    return network([wires_of(f)[0] for f in faces], guides, (faces[0], faces[-1]), step, within)


def loft(
    sections: Sequence[Section], ruled: bool, closed: bool, step: str, corners: Sequence[int] = ()
) -> Body:
    """A solid through sections, each an outline of one region or, first or last, a point.

    `corners` are those the sections begin at (counted from 0), joined to each other; without
    them the kernel matches the sections. Faces are named ``<step>/side/<role in the first
    outline>`` and ``<step>/cap/start|end``.
    """
    if len(sections) < 2:
        raise KernelTrouble("a loft needs two sections at least")  # with one the kernel crashes
    maker = BRepOffsetAPI_ThruSections(True, ruled, 1e-6)
    maker.CheckCompatibility(not corners)
    first: dict[Key, str] = {}
    wires: list[TopoDS_Wire] = []
    for n, section in enumerate(sections):
        if section.tip is not None:
            maker.AddVertex(BRepBuilderAPI_MakeVertex(point(section.tip)).Vertex())
            continue
        face, roles = _placed(section)
        first = first or roles
        wire = wires_of(face)[0]
        if corners:
            if wires and len(edges_of(wire)) != len(edges_of(wires[0])):
                raise KernelTrouble(
                    "corners are matched between sections with as many corners each"
                )
            wire = _from_corner(wire, corners[n] if n < len(corners) else 0)
        wires.append(wire)
        maker.AddWire(wire)
    if closed:
        maker.AddWire(wires[0])
    try:
        maker.Build()
        shape = maker.Shape()
    except Exception as error:
        raise KernelTrouble("no skin goes through these sections") from error
    named: dict[Key, str] = {}
    for key, role in first.items():
        made: TopoDS_Shape = maker.GeneratedFace(key.shape)
        if made is not None and not made.IsNull():
            for f in faces_of(made):
                named[Key(f)] = face_name(step, "side", role)
    for cap, word in ((maker.FirstShape(), "start"), (maker.LastShape(), "end")):
        if cap is not None and not cap.IsNull():
            for f in faces_of(cap):
                named[Key(f)] = face_name(step, "cap", word)
    shape = checked("the loft", shape)
    body = Body(shape, tuple(named.get(Key(f), face_name(step, "side")) for f in faces_of(shape)))
    unmet(body, "the loft")
    return flattened(body)
