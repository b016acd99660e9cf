"""Flat faces of a solid as outlines in their own planes, each piece with the face on its other side."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from OCP.BRep import BRep_Tool
from OCP.BRepTools import BRepTools_WireExplorer
from OCP.TopExp import TopExp

from vireo.core.curves import Circle2, Line2
from vireo.core.geometry import Frame, Triple, plane_frame
from vireo.core.kernel.measure import describe_face
from vireo.core.kernel.profile import wires_of
from vireo.core.kernel.project import projected_edge, projected_point
from vireo.core.kernel.shape import Body, Key, edges_of
from vireo.core.panels.loops import SAME, Loop, Seg, area, line


@dataclass(frozen=True)
class FlatSide:
    """A flat face: `frame` lies in it, z outward; its outer loop runs counter-clockwise. `beside` says of each piece
    of `loops` (loop, piece) which face of the body is on its other side."""

    index: int
    name: str
    frame: Frame
    loops: tuple[Loop, ...]
    beside: dict[tuple[int, int], int]


def flat_sides(body: Body, indices: Sequence[int]) -> list[FlatSide | None]:
    """Some faces of a body; None for one that is not flat."""
    faces = list(body.named_faces())
    of_edge: dict[Key, list[int]] = {}
    for k, (face, _) in enumerate(faces):
        for edge in edges_of(face):
            of_edge.setdefault(Key(edge), []).append(k)
    found: list[FlatSide | None] = []
    for index in indices:
        face, name = faces[index]
        kind, at, normal, _ = describe_face(face)
        if kind != "plane" or normal is None:
            found.append(None)
            continue
        frame = _frame(at, normal)
        loops: list[list[tuple[Seg, int]]] = []
        for wire in wires_of(face):
            run: list[tuple[Seg, int]] = []
            explorer = BRepTools_WireExplorer(wire, face)
            while explorer.More():
                edge = explorer.Current()
                others = [k for k in of_edge.get(Key(edge), []) if k != index]
                beside = others[0] if others else index
                p = BRep_Tool.Pnt_s(TopExp.FirstVertex_s(edge, True))
                curve = projected_edge(edge, frame)
                assert not isinstance(curve, tuple)
                u, v = projected_point((p.X(), p.Y(), p.Z()), frame)
                back = math.dist(curve.ends[0], (u, v)) > SAME
                called = faces[beside][1].replace("/", ".")
                if isinstance(curve, Line2):
                    seg = line(*(curve.ends[::-1] if back else curve.ends), called)
                else:
                    seg = Seg(curve, called, back and not isinstance(curve, Circle2))
                run.append((seg, beside))
                explorer.Next()
            turned = area([tuple(s for s, _ in run)]) > 0.0
            if turned == bool(loops):
                run = [(s.turned, b) for s, b in reversed(run)]
            loops.append(run)
        found.append(FlatSide(
            index, name, frame, tuple(tuple(s for s, _ in run) for run in loops),
            {(n, i): b for n, run in enumerate(loops) for i, (_, b) in enumerate(run)},
        ))  # fmt: skip
    return found


def _frame(at: Triple, normal: Triple) -> Frame:
    x = plane_frame(at, normal).x
    return Frame(at, x, normal)
