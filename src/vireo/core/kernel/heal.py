"""Faults of brought-in shapes found with their places, and mended with what that cost."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
from OCP.BRepCheck import BRepCheck_Analyzer, BRepCheck_Face, BRepCheck_Status, BRepCheck_Wire
from OCP.BRepLib import BRepLib
from OCP.ShapeAnalysis import ShapeAnalysis_ShapeTolerance
from OCP.ShapeFix import ShapeFix_Shape, ShapeFix_Solid
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_SHELL
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from vireo.core.geometry import Triple
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.profile import wires_of
from vireo.core.kernel.shape import ancestors, edges_of, faces_of, mapped, solids_of

#: Faces whose borders meet within this are joined without a word (mm): the kernel's own hair.
HAIR = 1e-5

_SAID = {
    BRepCheck_Status.BRepCheck_SelfIntersectingWire: "its border crosses itself",
    BRepCheck_Status.BRepCheck_NotClosed: "its border does not close",
    BRepCheck_Status.BRepCheck_IntersectingWires: "its borders cross each other",
    BRepCheck_Status.BRepCheck_InvalidImbricationOfWires: "its holes do not lie inside it",
    BRepCheck_Status.BRepCheck_BadOrientationOfSubshape: "a border runs the wrong way round",
}


@dataclass(frozen=True)
class Fault:
    """Something wrong with a shape: ``face``, ``gap`` or ``edge``, in words, with its place
    (mm), the lines that show it, and for a gap how wide it is."""

    kind: str
    text: str
    at: Triple
    lines: tuple[tuple[Triple, ...], ...]
    width: float = 0.0


@dataclass(frozen=True)
class Mended:
    """A healed shape: what was done, the largest tolerance its edges have now (mm), and what is
    still wrong."""

    shape: TopoDS_Shape
    done: tuple[str, ...]
    tolerance: float
    left: tuple[Fault, ...]


def sewn(faces: Sequence[TopoDS_Face], within: float) -> TopoDS_Shape:
    """Faces joined where their borders meet within a distance (mm), a closed shell made a solid.

    Borders are only cut into pieces where that closes the shell: pieces make faults hard to read.
    """
    whole = _sewn(faces, within, False)
    if solids_of(whole):
        return whole
    parted = _sewn(faces, within, True)
    return parted if solids_of(parted) else whole


def _sewn(faces: Sequence[TopoDS_Face], within: float, cutting: bool) -> TopoDS_Shape:
    sewing = BRepBuilderAPI_Sewing(within, True, True, cutting, False)
    for face in faces:
        sewing.Add(face)
    sewing.Perform()
    return _solids(sewing.SewedShape())


def _solids(shape: TopoDS_Shape) -> TopoDS_Shape:
    shells = [TopoDS.Shell(s) for s in mapped(shape, TopAbs_SHELL)]
    closed = [s for s in shells if BRep_Tool.IsClosed_s(s)]
    if len(shells) != 1 or not closed:
        return shape
    solid = BRepBuilderAPI_MakeSolid(closed[0]).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    return solid


def diagnose(shape: TopoDS_Shape) -> list[Fault]:
    """Faulty faces, gaps between borders and loose edges of a shape, worst first."""
    found: list[Fault] = []
    analyzer = BRepCheck_Analyzer(shape, True)
    if not analyzer.IsValid():
        for face in faces_of(shape):
            if not analyzer.IsValid(face):
                at, lines = _border(face)
                found.append(Fault("face", f"a faulty face: {_why(face)}", at, lines))
    loose = _free_edges(shape)
    middles = [np.array(_along(e)[len(_along(e)) // 2]) for e in loose]
    taken: set[int] = set()
    for i, edge in enumerate(loose):
        if i in taken:
            continue
        line = _along(edge)
        near = [
            (_apart(line, _along(loose[j])), j)
            for j in range(len(loose))
            if j != i and j not in taken
            and float(np.linalg.norm(middles[i] - middles[j])) < 0.2 * _length(line) + 1.0
        ]  # fmt: skip
        width, other = min(near, default=(np.inf, -1))
        if width < 0.1 * _length(line):
            taken.add(other)
            text = f"a gap of {width:.2g} mm between two borders"
            lines = (tuple(line), tuple(_along(loose[other])))
            found.append(Fault("gap", text, line[len(line) // 2], lines, float(width)))
        else:
            text = f"a loose edge {_length(line):.3g} mm long: no face lies beyond it"
            found.append(Fault("edge", text, line[len(line) // 2], (tuple(line),)))
    rank = {"face": 0, "edge": 1, "gap": 2}
    return sorted(found, key=lambda f: (rank[f.kind], -f.width))


def _why(face: TopoDS_Face) -> str:
    checker = BRepCheck_Face(face)
    statuses = [checker.IntersectWires(), checker.ClassifyWires(), checker.OrientationOfWires()]
    for wire in wires_of(face):
        edge = TopoDS_Edge()
        border = BRepCheck_Wire(wire)
        statuses = [
            border.SelfIntersect(face, edge, TopoDS_Edge(), True),
            border.Closed(),
            *statuses,
        ]
    said = next((_SAID[s] for s in statuses if s in _SAID), None)
    return said or "its border and its surface do not agree"


def _free_edges(shape: TopoDS_Shape) -> list[TopoDS_Edge]:
    found = ancestors(shape, TopAbs_EDGE, TopAbs_FACE)
    free = []
    for k in range(1, found.Extent() + 1):
        edge, faces = TopoDS.Edge(found.FindKey(k)), found.FindFromIndex(k)
        if BRep_Tool.Degenerated_s(edge) or faces.Size() != 1:
            continue
        if not BRep_Tool.IsClosed_s(edge, TopoDS.Face(faces.First())):  # no seam
            free.append(edge)
    return free


def _along(edge: TopoDS_Edge, count: int = 17) -> list[Triple]:
    curve = BRepAdaptor_Curve(edge)
    a, b = curve.FirstParameter(), curve.LastParameter()
    points = [curve.Value(a + (b - a) * k / (count - 1)) for k in range(count)]
    return [(p.X(), p.Y(), p.Z()) for p in points]


def _length(line: Sequence[Triple]) -> float:
    return sum(float(np.linalg.norm(np.subtract(b, a))) for a, b in pairwise(line))


def _apart(one: Sequence[Triple], two: Sequence[Triple]) -> float:
    """How far the places of one line are from the other, at most (mm)."""
    a, b = np.array(one), np.array(two)
    if np.linalg.norm(a[0] - b[0]) > np.linalg.norm(a[0] - b[-1]):
        b = b[::-1]
    return float(np.linalg.norm(a - b, axis=1).max())


def _border(face: TopoDS_Face) -> tuple[Triple, tuple[tuple[Triple, ...], ...]]:
    lines = tuple(
        tuple(_along(TopoDS.Edge(e))) for e in edges_of(face) if not BRep_Tool.Degenerated_s(e)
    )
    if not lines:
        return (0.0, 0.0, 0.0), ()
    x, y, z = np.mean([p for line in lines for p in line], axis=0)
    return (float(x), float(y), float(z)), lines


def tolerance_of(shape: TopoDS_Shape) -> float:
    """The largest distance by which edges and faces of a shape may miss each other (mm)."""
    return float(ShapeAnalysis_ShapeTolerance().Tolerance(shape, 1))


def mended(shape: TopoDS_Shape, within: float) -> Mended:
    """A shape with borders joined within a distance and faces put right, as far as that goes."""
    before = diagnose(shape)
    kept = solids_of(shape)
    done: list[str] = []
    old = abs(volume_of(shape)) if kept else 0.0
    if not kept or any(f.kind != "face" for f in before):
        shape = sewn(faces_of(shape), max(within, HAIR))
    fixer = ShapeFix_Shape(shape)
    fixer.SetPrecision(min(within, 1e-3))
    fixer.SetMaxTolerance(within)
    fixer.Perform()
    shape = fixer.Shape()
    if not solids_of(shape):
        shells = mapped(shape, TopAbs_SHELL)
        if len(shells) == 1 and BRep_Tool.IsClosed_s(shells[0]):
            shape = ShapeFix_Solid().SolidFromShell(TopoDS.Shell(shells[0]))
            BRepLib.OrientClosedSolid_s(TopoDS.Solid(shape))
    left = diagnose(shape)

    def count(faults: Sequence[Fault], kind: str) -> int:
        return sum(1 for f in faults if f.kind == kind)

    closed = count(before, "gap") - count(left, "gap")
    widest = max((f.width for f in before if f.kind == "gap"), default=0.0)
    if closed > 0:
        done.append(f"{closed} gaps closed, the widest {widest:.2g} mm")
    if (joined := count(before, "edge") - count(left, "edge")) > 0:
        done.append(f"{joined} loose edges joined")
    if (faces := count(before, "face") - count(left, "face")) > 0:
        done.append(f"{faces} faces put right")
    moved = abs(volume_of(shape)) - old if old and solids_of(shape) else 0.0
    if abs(moved) > 1e-9 * old:
        done.append(f"the volume changed by {moved:.3g} mm³")
    return Mended(shape, tuple(done), tolerance_of(shape), tuple(left))
