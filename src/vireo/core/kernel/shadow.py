"""What a solid covers of a patch of sheet, flat or rolled: where it cuts the two faces of the patch, both put together,
in the coordinates of its outline. So a cut from space gets walls that are square to the sheet."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray
from OCP.BOPAlgo import BOPAlgo_BOP, BOPAlgo_Operation
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepTools import BRepTools_WireExplorer
from OCP.Geom import Geom_CylindricalSurface
from OCP.gp import gp_Ax3, gp_Dir, gp_Pln, gp_Pnt
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Shape
from scipy.interpolate import make_interp_spline

from vireo.core.curves import Circle2, Line2, Spline2
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.outline import recognised
from vireo.core.kernel.place import located
from vireo.core.kernel.profile import wires_of
from vireo.core.kernel.region import combined, loops_of
from vireo.core.kernel.shape import Body, Key, edges_of, faces_of
from vireo.core.panels.loops import Loop, Seg, area, line
from vireo.core.panels.places import Place

Floats = NDArray[np.float64]
#: A rolled zone is looked at this far (rad) beyond its ends, so that what is cut crosses its joints.
_BEYOND = 0.05
#: Places along a curve on a rolled zone that a quintic is laid through.
_PLACES, _DEGREE = 33, 5
_SAME = 1e-6


def shadow(place: Place, tool: Body, reach: float, name: Callable[[str], str]) -> tuple[Loop, ...]:
    """What a tool covers of a patch, as loops; `reach` (mm) is how far from its origin the patch is looked at.
    Pieces are called after the face of the tool they lie on. Raises KernelTrouble."""
    turn = np.stack([place.x, place.y, place.z])
    solid = located(tool.shape, turn, -turn @ place.o)
    sides = list(zip(faces_of(solid), tool.names, strict=True))
    found: list[tuple[Loop, ...]] = []
    for h in (0.0, place.thickness):
        flat = _rolled(place, solid, reach, h) if place.rolled else _level(solid, reach, h)
        found.append(tuple(
            tuple(Seg(s.curve, name(_side(at, sides)), s.back) for s, at in loop) for loop in flat
        ))  # fmt: skip
    low, high = found
    if not low or not high or _alike(low, high):
        return low or high
    return combined("fuse", low, high, name(""))


#: A piece and a place in space half-way along it.
_Marked = list[tuple[Seg, Floats]]


def _common(face: TopoDS_Face, solid: TopoDS_Shape) -> list[TopoDS_Face]:
    made = BOPAlgo_BOP()
    made.SetOperation(BOPAlgo_Operation.BOPAlgo_COMMON)
    made.AddArgument(face)
    made.AddTool(solid)
    made.SetRunParallel(False)
    made.SetNonDestructive(True)
    made.Perform()
    if made.HasErrors():
        raise KernelTrouble("what the cut takes of the sheet cannot be told")
    return faces_of(made.Shape())


def _middle(edge: TopoDS_Edge) -> Floats:
    curve = BRepAdaptor_Curve(edge)
    p = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()))
    return np.array([p.X(), p.Y(), p.Z()])


def _level(solid: TopoDS_Shape, reach: float, h: float) -> list[_Marked]:
    plane = gp_Pln(gp_Ax3(gp_Pnt(0.0, 0.0, h), gp_Dir(0, 0, 1), gp_Dir(1, 0, 0)))
    whole = BRepBuilderAPI_MakeFace(plane, -reach, reach, -reach, reach).Face()
    found: list[_Marked] = []
    for face in _common(whole, solid):
        spots: dict[str, Floats] = {}
        called: dict[Key, str] = {}
        for n, edge in enumerate(edges_of(face)):
            called[Key(edge)] = str(n)
            spots[str(n)] = _middle(edge)
        found += [[(s, spots[s.name]) for s in loop] for loop in loops_of(face, called, "")]
    return found


def _rolled(place: Place, solid: TopoDS_Shape, reach: float, h: float) -> list[_Marked]:
    way = 1.0 if place.up else -1.0
    axes = gp_Ax3(gp_Pnt(0.0, 0.0, place.height), gp_Dir(way, 0, 0), gp_Dir(0, 0, -way))
    angle = abs(place.angle)
    beyond = min(_BEYOND, 0.4 * (2.0 * math.pi - angle))
    if place.reach(h) <= 1e-9:
        return []  # the inside of a sharp bend is a line
    whole = BRepBuilderAPI_MakeFace(
        Geom_CylindricalSurface(axes, place.reach(h)), -beyond, angle + beyond, -reach, reach, 1e-7
    ).Face()
    found: list[_Marked] = []
    for face in _common(whole, solid):
        surface = BRepAdaptor_Surface(face)
        # The kernel may count the turn one round on.
        about = 0.5 * (surface.FirstUParameter() + surface.LastUParameter()) - 0.5 * angle
        off = 2.0 * math.pi * round(about / (2.0 * math.pi))
        for n, wire in enumerate(wires_of(face)):
            loop: _Marked = []
            explorer = BRepTools_WireExplorer(wire, face)
            while explorer.More():
                edge = explorer.Current()
                if not BRep_Tool.Degenerated_s(edge):
                    loop.append((_unrolled(edge, face, place, off), _middle(edge)))
                explorer.Next()
            # Outer ones go counter-clockwise, holes the other way.
            if (area([tuple(s for s, _ in loop)]) > 0.0) != (n == 0):
                loop = [(s.turned, at) for s, at in reversed(loop)]
            found.append(loop)
    return found


def _unrolled(edge: TopoDS_Edge, face: TopoDS_Face, place: Place, off: float) -> Seg:
    curve = BRepAdaptor_Curve2d(edge, face)
    a, b = curve.FirstParameter(), curve.LastParameter()
    shares = np.linspace(0.0, 1.0, _PLACES)
    points = []
    for share in shares:
        p = curve.Value(float(a + (b - a) * share))
        s = p.Y() if place.up else -p.Y()
        points.append((s, (p.X() - off) / abs(place.angle) * place.allowance))
    spline = make_interp_spline(shares, np.array(points), k=_DEGREE)
    poles = tuple((float(c[0]), float(c[1])) for c in np.asarray(spline.c))
    found = recognised(Spline2(_DEGREE, tuple(map(float, spline.t)), poles))
    back = edge.Orientation() == TopAbs_REVERSED
    first = points[-1] if back else points[0]
    if isinstance(found, Line2):
        return line(first, points[0] if back else points[-1], "")
    if isinstance(found, Circle2):
        return Seg(found, "", back)
    return Seg(found, "", math.dist(found.ends[0], first) > 1e-5)


def _side(at: Floats, sides: Sequence[tuple[TopoDS_Face, str]]) -> str:
    """What the face of a tool is called that a place lies on."""
    spot = BRepBuilderAPI_MakeVertex(gp_Pnt(*map(float, at))).Vertex()
    return min(sides, key=lambda side: BRepExtrema_DistShapeShape(spot, side[0]).Value())[1]


def _alike(a: Sequence[Loop], b: Sequence[Loop]) -> bool:
    """Whether both faces are cut alike: nothing need be put together."""
    if [len(lp) for lp in a] != [len(lp) for lp in b]:
        return False
    return all(
        math.dist(s.at(x), o.at(x)) < _SAME
        for m, n in zip(a, b, strict=True) for s, o in zip(m, n, strict=True) for x in (0.0, 0.37)
    )  # fmt: skip
