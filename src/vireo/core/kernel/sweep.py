"""Profiles swept along paths, and skins through sections."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

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
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell, BRepOffsetAPI_ThruSections
from OCP.collections import List_TopoDS_Shape as ShapeList
from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pln, gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.Law import Law_Linear
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape, TopoDS_Wire

from vireo.core.geometry import Frame, Triple
from vireo.core.kernel.boolean import combine
from vireo.core.kernel.gate import KernelTrouble, checked, finite
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.place import direction, point, to_place
from vireo.core.kernel.profile import Outline, wires_of
from vireo.core.kernel.shape import Body, Key, compound_of, edges_of, faces_of, items

Named = tuple[str, TopoDS_Edge]


@dataclass(frozen=True)
class Way:
    """How a profile goes along its path."""

    corners: Literal["mitre", "round"] = "mitre"
    keep: Literal["follow", "upright", "fixed"] = "follow"
    up: Triple = (0.0, 0.0, 1.0)
    grow: float = 1.0


@dataclass(frozen=True)
class Path:
    """A run of edges in space, in order, with what each came from."""

    wire: TopoDS_Wire
    edges: tuple[Named, ...]

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
        outer, *holes = wires_of(TopoDS.Face(placed.Shape()))
        whole = _swept(outer, roles, path, way, step)
        inner = [_swept(h, roles, path, way, step) for h in holes]
        solids.append(combine("cut", whole, inner, "the sweep") if inner else whole)
        _plausible(TopoDS.Face(placed.Shape()), solids[-1], path, way)
    if len(solids) == 1:
        return solids[0]
    shape = compound_of([s.shape for s in solids])
    table = {Key(f): n for s in solids for f, n in s.named_faces()}
    return Body(checked("the sweep", shape), tuple(table[Key(f)] for f in faces_of(shape)))


def _swept(wire: TopoDS_Wire, roles: dict[Key, str], path: Path, way: Way, step: str) -> Body:
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
        done = maker.IsDone() and maker.MakeSolid()
    except Exception as error:
        raise KernelTrouble("the profile cannot follow the path") from error
    if not done:
        raise KernelTrouble("the profile cannot follow the path")
    shape = maker.Shape()
    named: dict[Key, str] = {}
    if not path.closed:
        for cap, word in ((maker.FirstShape(), "start"), (maker.LastShape(), "end")):
            for f in faces_of(cap):
                named[Key(f)] = f"{step}/cap/{word}"
    for edge in edges_of(wire):
        for f in items(maker.Generated(edge)):
            for part in faces_of(f):
                named[Key(part)] = (
                    f"{step}/side/{roles.get(Key(edge), 'edge')}/{_beside(part, path)}"
                )
    shape = checked("the sweep", shape)
    return Body(shape, tuple(named.get(Key(f), f"{step}/side/corner") for f in faces_of(shape)))


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
    if wall is None:
        return outer
    return combine("cut", outer, [rod(diameter - 2 * wall, "inside")], "the bore of the pipe")


@dataclass(frozen=True)
class Section:
    """An outline of one region in its frame, or the tip a loft ends in."""

    outline: Outline | None = None
    frame: Frame = field(default_factory=Frame)
    tip: Triple | None = None


def loft(sections: Sequence[Section], ruled: bool, closed: bool, step: str) -> Body:
    """A solid through sections, each an outline of one region or, first or last, a point.

    Faces are named ``<step>/side/<role in the first outline>`` and ``<step>/cap/start|end``.
    """
    if len(sections) < 2:
        raise KernelTrouble("a loft needs two sections at least")  # with one the kernel crashes
    maker = BRepOffsetAPI_ThruSections(True, ruled, 1e-6)
    maker.CheckCompatibility(True)
    first: dict[Key, str] = {}
    wires: list[TopoDS_Wire] = []
    for section in sections:
        if section.tip is not None:
            maker.AddVertex(BRepBuilderAPI_MakeVertex(point(section.tip)).Vertex())
            continue
        outline, frame = section.outline, section.frame
        assert outline is not None
        face = outline.faces[0]
        placed = BRepBuilderAPI_Transform(face, to_place(frame), True, False)
        if not wires:
            first = {
                Key(placed.ModifiedShape(e)): outline.roles.get(Key(e), "edge")
                for e in edges_of(face)
            }
        wires.append(wires_of(TopoDS.Face(placed.Shape()))[0])
        maker.AddWire(wires[-1])
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
                named[Key(f)] = f"{step}/side/{role}"
    for cap, word in ((maker.FirstShape(), "start"), (maker.LastShape(), "end")):
        if cap is not None and not cap.IsNull():
            for f in faces_of(cap):
                named[Key(f)] = f"{step}/cap/{word}"
    shape = checked("the loft", shape)
    return Body(shape, tuple(named.get(Key(f), f"{step}/side") for f in faces_of(shape)))
