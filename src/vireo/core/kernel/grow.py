"""Bodies grown from profiles, and simple turned tools."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import Any

from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
    BRepPrimAPI_MakeRevol,
)
from OCP.gp import gp_Ax1, gp_Ax2, gp_Trsf
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape

from vireo.core.curves import Curve2, Line2, Pair
from vireo.core.geometry import Frame, Triple, cross, plane_frame
from vireo.core.kernel.boolean import combine, unified
from vireo.core.kernel.gate import KernelTrouble, checked, finite
from vireo.core.kernel.lean import drafted
from vireo.core.kernel.measure import describe_face
from vireo.core.kernel.place import direction, point, to_place, vector
from vireo.core.kernel.profile import Outline, arrange, outline_of
from vireo.core.kernel.shape import (
    Body,
    Key,
    compound_of,
    edges_of,
    faces_of,
    items,
    vertices_of,
)
from vireo.core.naming.grammar import face_name, words_of


def prism(
    outline: Outline, frame: Frame, low: float, high: float, step: str, draft: float = 0.0
) -> Body:
    """The outline swept straight along the frame's z from `low` to `high` (mm).

    With a `draft` (rad, positive narrows away from the outline's plane) the sides lean about the
    plane of the outline when that lies between, else about the nearer end. Faces are named
    ``<step>/side/<role>`` and ``<step>/cap/start|end``; leaning ones behind the plane
    ``<step>/back/<role>``.
    """
    finite(low, high)
    if draft and low < 0.0 < high:
        upper = prism(outline, frame, 0.0, high, step, draft)
        lower = prism(outline, frame, low, 0.0, step, draft)
        behind = tuple(n.replace("/side/", "/back/") for n in lower.names)
        return combine("add", upper, [Body(lower.shape, behind)], "the extrusion")
    solids: list[TopoDS_Shape] = []
    named: dict[Key, str] = {}
    lift = to_place(Frame(frame.out((0.0, 0.0, low)), frame.x, frame.z))
    for face in outline.faces:
        # The outline is put in place first: a located solid makes every later call on it slower.
        placed = BRepBuilderAPI_Transform(face, lift, True, False)
        maker = BRepPrimAPI_MakePrism(placed.Shape(), vector(frame.z, high - low))
        named[Key(maker.FirstShape())] = face_name(step, "cap", "start")
        named[Key(maker.LastShape())] = face_name(step, "cap", "end")
        for edge in edges_of(face):
            role = outline.roles.get(Key(edge), "edge")
            for side in items(maker.Generated(placed.ModifiedShape(edge))):
                named[Key(side)] = face_name(step, "side", role)
        solids.append(maker.Shape())
    shape = solids[0] if len(solids) == 1 else compound_of(solids)
    names = tuple(named.get(Key(f), face_name(step, "side")) for f in faces_of(shape))
    body = Body(checked("the extrusion", shape), names)
    pieces = [n for n in names if "/side/" in n]
    body = unified(body) if len(set(pieces)) < len(pieces) else body
    if draft:
        near = low if abs(low) <= abs(high) else high
        up = near == low
        neutral = Frame(frame.out((0.0, 0.0, near)), frame.x, frame.z)
        sides = [i for i, n in enumerate(body.names) if "/cap/" not in n]
        body = drafted(body, sides, neutral, draft if up else -draft)
    return body


def revolved(
    outline: Outline, frame: Frame, origin: Pair, way: Pair, start: float, end: float, step: str
) -> Body:
    """The outline turned about an axis in its plane from one angle to another (rad).

    Faces are named ``<step>/side/<role>`` and, for less than a full turn, ``<step>/cap/start|end``.
    """
    finite(*origin, *way, start, end)
    whole = end - start > 2 * math.pi - 1e-9
    at = frame.out(origin)
    tip = frame.out((origin[0] + way[0], origin[1] + way[1]))
    along = (tip[0] - at[0], tip[1] - at[1], tip[2] - at[2])
    axis = gp_Ax1(point(at), direction(along))
    solids: list[TopoDS_Shape] = []
    named: dict[Key, str] = {}
    for face in outline.faces:
        placed = BRepBuilderAPI_Transform(face, to_place(frame), True, False)
        shape, first = placed.Shape(), placed
        if start:
            turn = gp_Trsf()
            turn.SetRotation(axis, start)
            again = BRepBuilderAPI_Transform(shape, turn, True, False)
            shape = again.Shape()
        try:
            maker = (
                BRepPrimAPI_MakeRevol(shape, axis)
                if whole else BRepPrimAPI_MakeRevol(shape, axis, end - start)
            )  # fmt: skip
            made = maker.Shape()
        except Exception as error:
            raise KernelTrouble("the profile crosses the axis it turns about") from error
        if not whole:
            named[Key(maker.FirstShape())] = face_name(step, "cap", "start")
            named[Key(maker.LastShape())] = face_name(step, "cap", "end")
        faces = faces_of(made)
        for edge in edges_of(face):
            role = face_name(step, "side", outline.roles.get(Key(edge), "edge"))
            source = first.ModifiedShape(edge)
            if start:
                source = again.ModifiedShape(source)
            sides = items(maker.Generated(source)) or _turned_by(maker, source, faces)
            for side in sides:
                named[Key(side)] = role
        solids.append(made)
    shape = solids[0] if len(solids) == 1 else compound_of(solids)
    names = tuple(named.get(Key(f), face_name(step, "side")) for f in faces_of(shape))
    body = Body(checked("the turned body", shape), names)
    pieces = [n for n in names if "/side/" in n]
    return unified(body) if len(set(pieces)) < len(pieces) else body


def _turned_by(maker: Any, edge: TopoDS_Shape, faces: Sequence[TopoDS_Face]) -> list[TopoDS_Shape]:
    """The face an edge at right angles to the axis sweeps in a full turn, which the kernel does
    not tell: the one bounded by the circles its ends sweep. None for an edge on the axis."""
    rims = [
        Key(c)
        for v in vertices_of(edge)
        for c in items(maker.Generated(v))
        if not BRep_Tool.Degenerated_s(TopoDS.Edge(c))
    ]
    if not rims:
        return []
    found = [f for f in faces if all(r in {Key(e) for e in edges_of(f)} for r in rims)]
    flat = [f for f in found if describe_face(f)[0] == "plane"]
    return list(flat or found)[:1]


def turned(base: Triple, axis: Triple, run: Sequence[tuple[float, float, str]], name: str) -> Body:
    """A solid of revolution from its half profile: `(radius, height along the axis, role)`.

    The role is that of the face up to the point; the first point's is that of the disc it starts
    with. Faces are named ``<name>/<role>``; points in one line without a change of role are fine.
    """
    finite(*base, *(v for r, h, _ in run for v in (r, h)))
    way = plane_frame((0.0, 0.0, 0.0), axis)
    # In this frame x is the radius and y runs along the axis.
    frame = Frame(base, way.x, cross(way.x, axis))
    points = [(0.0, run[0][1]), *((r, h) for r, h, _ in run)]
    curves: list[tuple[str, Curve2]] = []
    for k, (a, b) in enumerate(itertools.pairwise(points)):
        if math.dist(a, b) > 1e-9:
            curves.append((run[k][2] + f".{k}", Line2(a, b)))
    curves.append(("axis", Line2(points[-1], points[0])))
    found = arrange(tuple(curves))
    outline = outline_of(found, list(found.regions))
    body = revolved(outline, frame, (0.0, 0.0), (0.0, 1.0), 0.0, 2 * math.pi, name)
    names = tuple(face_name(name, words_of(n)[-1].split(".")[0]) for n in body.names)
    return Body(body.shape, names)


def cylinder(
    base: Triple, axis: Triple, radius: float, length: float, names: tuple[str, str, str]
) -> Body:
    """A cylinder from `base` along `axis` with names for wall, far end and near end."""
    finite(*base, radius, length)
    maker = BRepPrimAPI_MakeCylinder(gp_Ax2(point(base), direction(axis)), radius, length)
    shape = checked("the cylinder", maker.Shape())
    inner = maker.Cylinder()
    table = {
        Key(inner.LateralFace()): names[0],
        Key(inner.TopFace()): names[1],
        Key(inner.BottomFace()): names[2],
    }
    return Body(shape, tuple(table[Key(f)] for f in faces_of(shape)))


def box(sizes: Triple, name: str) -> Body:
    """A box at the origin, its faces named by the way they look."""
    finite(*sizes)
    maker = BRepPrimAPI_MakeBox(*sizes)
    shape = checked("the box", maker.Shape())
    table = {
        Key(maker.LeftFace()): "left",
        Key(maker.RightFace()): "right",
        Key(maker.FrontFace()): "front",
        Key(maker.BackFace()): "back",
        Key(maker.TopFace()): "top",
        Key(maker.BottomFace()): "bottom",
    }
    return Body(shape, tuple(face_name(name, table.get(Key(f), "face")) for f in faces_of(shape)))
