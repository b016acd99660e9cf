"""Regions of the plane taken out of each other, exactly: by boxes where that tells it, else by the kernel on
plane faces, with pieces followed by its history."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from OCP.BOPAlgo import BOPAlgo_BOP, BOPAlgo_Operation
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepTools import BRepTools_WireExplorer
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Wire

from vireo.core.curves import Circle2, Line2
from vireo.core.geometry import Frame
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.profile import edge_of, upward, wires_of
from vireo.core.kernel.project import projected_edge
from vireo.core.kernel.shape import Key, edges_of, faces_of, items
from vireo.core.panels.loops import SAME, Loop, Seg, area, box, grouped, inside, joined, line

Operation = Literal["cut", "common", "fuse"]
Box = tuple[float, float, float, float]

_PLANE = gp_Pln(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))
_FRAME = Frame()
_OPERATIONS = {
    "cut": BOPAlgo_Operation.BOPAlgo_CUT, "common": BOPAlgo_Operation.BOPAlgo_COMMON,
    "fuse": BOPAlgo_Operation.BOPAlgo_FUSE,
}  # fmt: skip


def combined(
    operation: Operation, loops: Sequence[Loop], tool: Sequence[Loop], name: str
) -> tuple[Loop, ...]:
    """What is left of a region without a tool, within it, or with it. Pieces keep their names, new ones have the
    tool's; `name` is for those nobody knows. Raises KernelTrouble."""
    if not (loops and tool and _near(_whole(loops), _whole(tool))):
        return {"cut": tuple(loops), "common": (), "fuse": (*loops, *tool)}[operation]
    around = _whole(tool)
    if operation == "cut" and not any(_near(around, box([s])) for loop in loops for s in loop):
        # Each part of it lies wholly in the region, or in a hole of it.
        within = [g for g in grouped(tool) if inside(g[0][0].at(0.0), loops)]
        return (*loops, *(_turned(lp) for outer, holes in within for lp in (outer, *holes)))
    names: dict[Key, str] = {}
    ones, twos = _faces(loops, names), _faces(tool, names)
    made = BOPAlgo_BOP()
    made.SetOperation(_OPERATIONS[operation])
    for face in ones:
        made.AddArgument(face)
    for face in twos:
        made.AddTool(face)
    made.SetRunParallel(False)
    made.SetNonDestructive(True)
    made.SetToFillHistory(True)
    made.Perform()
    if made.HasErrors():
        raise KernelTrouble(
            "the outlines cannot be taken out of each other: they lie on each other in part"
        )
    called: dict[Key, str] = {}
    for face in (*ones, *twos):
        for edge in edges_of(face):
            for piece in items(made.Modified(edge)) or [edge]:
                called.setdefault(Key(piece), names.get(Key(edge), name))
    found = faces_of(made.Shape())
    if operation == "fuse" and len(found) > 1:
        return _round(found, called, name)
    return tuple(joined(lp, by_name=True) for face in found for lp in loops_of(face, called, name))


def _whole(loops: Sequence[Loop]) -> Box:
    return box([s for loop in loops for s in loop])


def _near(a: Box, b: Box) -> bool:
    return a[0] <= b[2] and b[0] <= a[2] and a[1] <= b[3] and b[1] <= a[3]


def _turned(loop: Loop) -> Loop:
    return tuple(s.turned for s in reversed(loop))


def _faces(loops: Sequence[Loop], names: dict[Key, str]) -> list[TopoDS_Face]:
    found = []
    for outer, holes in grouped(loops):
        made = BRepBuilderAPI_MakeFace(_PLANE, _wire(outer, names), True)
        for hole in holes:
            made.Add(_wire(hole, names))
        found.append(made.Face())
    return found


def _wire(loop: Loop, names: dict[Key, str]) -> TopoDS_Wire:
    made = BRepBuilderAPI_MakeWire()
    for seg in loop:
        edge = edge_of(seg.curve)
        if edge is None:
            continue
        made.Add(TopoDS.Edge(edge.Reversed()) if seg.back else edge)
        if not made.IsDone():
            raise KernelTrouble("an outline does not close")
        # Edges are replaced to share corners: the one put in last is this piece.
        names[Key(made.Edge())] = seg.name
    return made.Wire()


def loops_of(face: TopoDS_Face, names: dict[Key, str], name: str) -> list[Loop]:
    """The loops of a face, outer one first and counter-clockwise."""
    face = upward(face)
    found: list[Loop] = []
    for wire in wires_of(face):
        loop: list[Seg] = []
        explorer = BRepTools_WireExplorer(wire, face)
        while explorer.More():
            edge = explorer.Current()
            curve = projected_edge(edge, _FRAME)
            assert not isinstance(curve, tuple)
            start = BRep_Tool.Pnt_s(TopExp.FirstVertex_s(edge, True))
            back = math.dist(curve.ends[0], (start.X(), start.Y())) > SAME
            called = names.get(Key(edge), name)
            if isinstance(curve, Line2):
                loop.append(line(*(curve.ends[::-1] if back else curve.ends), called))
            else:
                loop.append(Seg(curve, called, back and not isinstance(curve, Circle2)))
            explorer.Next()
        # Of a curve that closes by itself its ends do not tell which way round it goes.
        if len(loop) == 1 and (area([tuple(loop)]) > 0) == bool(found):
            loop = [loop[0].turned]
        found.append(tuple(loop))
    return found


def _round(faces: Sequence[TopoDS_Face], names: dict[Key, str], name: str) -> tuple[Loop, ...]:
    """The loops round faces that touch: edges two of them have are dropped, the others chained."""
    often: dict[Key, int] = {}
    for face in faces:
        for edge in edges_of(face):
            often[Key(edge)] = often.get(Key(edge), 0) + 1
    shared = []
    for key, count in often.items():
        curve = projected_edge(TopoDS.Edge(key.shape), _FRAME)
        if count > 1 and not isinstance(curve, tuple):
            shared.append(curve.at(0.5 * sum(curve.range)))
    left = [
        seg for face in faces for lp in loops_of(face, names, name) for seg in lp
        if not any(math.dist(seg.at(0.5), p) < SAME for p in shared)
    ]  # fmt: skip
    found: list[Loop] = []
    while left:
        loop = [left.pop(0)]
        while math.dist(loop[-1].b, loop[0].a) > SAME:
            after = next((k for k, s in enumerate(left) if math.dist(s.a, loop[-1].b) < SAME), None)
            if after is None:
                raise KernelTrouble("the outlines put together do not close")
            loop.append(left.pop(after))
        found.append(joined(loop, by_name=True))
    return tuple(found)
