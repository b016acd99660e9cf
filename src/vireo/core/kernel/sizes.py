"""Sizes and places of single faces, edges and corners, wherever they stand."""

from __future__ import annotations

import math
from dataclasses import dataclass

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_VERTEX
from OCP.TopoDS import TopoDS, TopoDS_Shape

from vireo.core.geometry import Triple, cross, dot
from vireo.core.kernel.measure import box_of, describe_edge, describe_face
from vireo.core.kernel.outline import axis_of_face


@dataclass(frozen=True)
class Sizes:
    """Of a face, edge or corner: `kind` as in topologies, lengths mm, areas mm2, angles rad."""

    kind: str
    at: Triple
    area: float | None = None
    length: float | None = None
    radius: float | None = None
    turn: float | None = None
    #: Centre of what is round, a place on the axis of what has one, and its direction; for flat
    #: faces and straight edges their normal and direction.
    centre: Triple | None = None
    direction: Triple | None = None


def sizes_of(shape: TopoDS_Shape) -> Sizes:
    """Raises ValueError for anything but a face, an edge or a corner."""
    kind = shape.ShapeType()
    if kind == TopAbs_VERTEX:
        p = BRep_Tool.Pnt_s(TopoDS.Vertex(shape))
        at = (p.X(), p.Y(), p.Z())
        return Sizes("point", at, centre=at)
    g = GProp_GProps()
    if kind == TopAbs_EDGE:
        found = describe_edge(TopoDS.Edge(shape))
        BRepGProp.LinearProperties_s(shape, g, True)
        c = g.CentreOfMass()
        curve = BRepAdaptor_Curve(TopoDS.Edge(shape))
        radius: float | None = found.get("radius")  # type: ignore[assignment]
        turn = curve.LastParameter() - curve.FirstParameter() if radius else None
        return Sizes(
            str(found["kind"]), (c.X(), c.Y(), c.Z()), length=float(g.Mass()), radius=radius,
            turn=None if turn is None or turn > 2 * math.pi - 1e-9 else turn,
            centre=found.get("centre"), direction=found.get("direction"),  # type: ignore[arg-type]
        )  # fmt: skip
    if kind == TopAbs_FACE:
        face = TopoDS.Face(shape)
        name, origin, direction, radius = describe_face(face)
        BRepGProp.SurfaceProperties_s(face, g)
        rim = GProp_GProps()
        BRepGProp.LinearProperties_s(face, rim, True)
        c = g.CentreOfMass()
        axis = axis_of_face(face)
        round_ = name in ("cylinder", "cone", "sphere", "torus")
        on = axis[0] if isinstance(axis, tuple) and isinstance(axis[0], tuple) else None
        return Sizes(
            name, (c.X(), c.Y(), c.Z()), area=float(g.Mass()), length=float(rim.Mass()),
            radius=radius, centre=(on or origin) if round_ else None,
            direction=None if name in ("sphere", "freeform") else direction,
        )  # fmt: skip
    raise ValueError("only faces, edges and corners are measured singly")


def extent_of(shapes: list[TopoDS_Shape]) -> tuple[Triple, Triple]:
    """The box round shapes, least and largest corner (mm)."""
    boxes = [box_of(s) for s in shapes]
    low, high = (
        tuple(f(b[k][i] for b in boxes) for i in range(3)) for k, f in ((0, min), (1, max))
    )
    return low, high  # type: ignore[return-value]


def off_line(at: Triple, on: Triple, way: Triple) -> float:
    """Distance of a place from a line (mm); the direction has unit length."""
    v = (at[0] - on[0], at[1] - on[1], at[2] - on[2])
    n = cross(v, way)
    return math.sqrt(dot(n, n))
