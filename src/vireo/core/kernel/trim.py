"""Bodies cut short or apart by faces and other bodies."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_Transform
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.GeomAbs import GeomAbs_SurfaceType as SurfaceType
from OCP.gp import gp_Ax3, gp_Pln, gp_Trsf, gp_Vec
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from vireo.core.curves import Curve2
from vireo.core.geometry import Frame, Triple, cross
from vireo.core.kernel.boolean import carry, splitter
from vireo.core.kernel.gate import MAX_SIZE, KernelTrouble, checked
from vireo.core.kernel.locate import along_edge, length_of
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.outline import placed_edge
from vireo.core.kernel.place import axes
from vireo.core.kernel.shape import Body, Key, compound_of, faces_of, solids_of
from vireo.core.kernel.witness import budget
from vireo.core.naming.grammar import answers


def run_on(face: TopoDS_Face) -> TopoDS_Shape:
    """A face with its surface run on beyond its border, as far as that goes by itself."""
    s = BRepAdaptor_Surface(face)
    kind = s.GetType()
    if kind == SurfaceType.GeomAbs_Plane:
        return BRepBuilderAPI_MakeFace(s.Plane()).Face()
    surface = BRep_Tool.Surface_s(face)
    far = 0.1 * MAX_SIZE
    if kind == SurfaceType.GeomAbs_Cylinder:
        return BRepBuilderAPI_MakeFace(surface, 0.0, 6.283185307179586, -far, far, 1e-6).Face()
    if kind in (SurfaceType.GeomAbs_Sphere, SurfaceType.GeomAbs_Torus):
        return BRepBuilderAPI_MakeFace(surface, 1e-6).Face()
    return face


def plane_face(frame: Frame) -> TopoDS_Shape:
    """A plane without end."""
    return BRepBuilderAPI_MakeFace(gp_Pln(gp_Ax3(axes(frame)))).Face()


def curtain(
    curves: Sequence[tuple[str, Curve2]], frame: Frame, low: float, high: float
) -> TopoDS_Shape:
    """Faces standing on curves of a sketch, from one height over its plane to another (mm)."""
    edges = [e for e in (placed_edge(c, frame) for _, c in curves) if e is not None]
    if not edges:
        raise KernelTrouble("the sketch has no curves to cut with")
    z = frame.z
    base = shifted(compound_of(list(edges)), (low * z[0], low * z[1], low * z[2]))
    up = gp_Vec(*(c * (high - low) for c in z))
    return BRepPrimAPI_MakePrism(base, up, False, True).Shape()


def beside(curves: Sequence[tuple[str, Curve2]], frame: Frame) -> tuple[Triple, Triple]:
    """A place on the first curve and the direction to the left of it."""
    curve = curves[0][1]
    edge = placed_edge(curve, frame)
    if edge is None:
        raise KernelTrouble("the first curve of the sketch has no length")
    at, along = along_edge(edge, 0.5 * length_of(edge))
    return at, cross(frame.z, along)


def shifted(shape: TopoDS_Shape, by: Triple) -> TopoDS_Shape:
    move = gp_Trsf()
    move.SetTranslation(gp_Vec(*by))
    return BRepBuilderAPI_Transform(shape, move, True, False).Shape()


def split(
    body: Body, tools: Sequence[TopoDS_Shape], new: str, what: str
) -> list[tuple[TopoDS_Shape, tuple[str, ...]]]:
    """The pieces of a body cut by faces or other bodies, with names; new faces get one.

    Tools cut one after the other: at once the kernel forgets some where they cross each other
    (a ball by two planes through its middle comes out in two halves). Raises KernelTrouble, and
    WitnessTrouble when the pieces together are not the body.
    """
    pieces = [body]
    for tool in tools:
        pieces = [p for whole in pieces for p in _parted(whole, tool, new, what)]
    apart = sum(volume_of(p.shape) for p in pieces) - volume_of(body.shape)
    budget(f"{what}: the pieces", apart, 0.0, 0.0, 1e-6 * volume_of(body.shape))
    return [(p.shape, p.names) for p in pieces]


def _parted(body: Body, tool: TopoDS_Shape, new: str, what: str) -> list[Body]:
    cutter = splitter(body.shape, tool, f"{what}: the body could not be cut there")
    return [Body(solid, carry([body], cutter, solid, new)) for solid in solids_of(cutter.Shape())]


def stopped(body: Body, tools: Sequence[TopoDS_Shape], start: str, end: str, what: str) -> Body:
    """What of a body lies between its face `start` and the first of the tools ahead.

    Raises KernelTrouble when nothing stops it: its own far face `end` would still be there.
    """
    kept = [
        (solid, names)
        for solid, names in split(body, tools, end, what)
        if any(answers(n, start) for n in names)
    ]
    if not kept:
        raise KernelTrouble(f"{what} has nothing left before what it should stop at")
    far = [f for f, n in body.named_faces() if n == end]
    own = {Key(f) for f in far}
    for solid, _ in kept:
        if any(Key(f) in own for f in faces_of(solid)):
            raise KernelTrouble(f"{what} meets nothing to stop at that covers all of its profile")
    shape = kept[0][0] if len(kept) == 1 else compound_of([s for s, _ in kept])
    table = {Key(f): n for s, names in kept for f, n in zip(faces_of(s), names, strict=True)}
    shape = checked(what, shape)
    return Body(shape, tuple(table[Key(f)] for f in faces_of(shape)))
