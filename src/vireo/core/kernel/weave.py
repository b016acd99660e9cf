"""The solid of a sheet in any state, made of faces that share edges and vertices: no boolean, no sewing.

Vertices are told apart by patch, loop and piece and united over joints, never by position: hems and mitres touch
without being one. Faces are called ``<patch>/top``, ``<patch>/bottom`` and ``<patch>/side/<piece>`` in every
state, further ones of a name ``.2``, ``.3``.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge
from OCP.collections import (
    Array1_double,
    Array1_gp_Pnt,
    Array1_gp_Pnt2d,
    Array1_int,
    Array2_gp_Pnt,
)
from OCP.Geom import (
    Geom_BSplineCurve,
    Geom_BSplineSurface,
    Geom_Circle,
    Geom_Curve,
    Geom_CylindricalSurface,
    Geom_Line,
    Geom_Plane,
    Geom_Surface,
)
from OCP.Geom2d import Geom2d_BSplineCurve, Geom2d_Curve, Geom2d_Line
from OCP.gp import gp_Ax2, gp_Ax3, gp_Dir, gp_Dir2d, gp_Pnt, gp_Pnt2d
from OCP.TopAbs import TopAbs_FORWARD, TopAbs_REVERSED
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import (
    TopoDS,
    TopoDS_Edge,
    TopoDS_Face,
    TopoDS_Shell,
    TopoDS_Solid,
    TopoDS_Vertex,
    TopoDS_Wire,
)
from scipy.interpolate import make_interp_spline

from vireo.core.curves import Arc2, Circle2, Line2, Pair
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.shape import Body
from vireo.core.kernel.stamp import Stamp, placed
from vireo.core.panels.joints import Joint, Patch, patches
from vireo.core.panels.loops import SAME, Seg, grouped, inside
from vireo.core.panels.model import Sheet
from vireo.core.panels.places import STILL, Bent, Place, places

Floats = NDArray[np.float64]
#: Bottom or top of the sheet.
Level = Literal[0, 1]
#: The beginning of a piece: patch, loop, piece.
Corner = tuple[str, int, int]
#: An edge and whether it runs with its loop.
Run = tuple[TopoDS_Edge, bool]

_TOLERANCE = 1e-7
_HERE = TopLoc_Location()
_BUILDER = BRep_Builder()
#: A quintic through places this far apart (rad) stays within 1e-8 of a round of its size.
_STEP = 0.07
_DEGREE = 5


def woven(
    sheet: Sheet, state: Mapping[str, Bent] | None = None,
    frame: tuple[Floats, Floats, Floats, Floats] = STILL, known: Mapping[str, Patch] | None = None,
) -> Body:  # fmt: skip
    """The sheet as a body; `state` says of some bends what angle and radius they have, 0 is flat. Raises
    KernelTrouble for a sharp bend that is cut."""
    return _Weaver(sheet, known or patches(sheet), places(sheet, state, frame)).body()


def _point(v: Floats) -> gp_Pnt:
    return gp_Pnt(float(v[0]), float(v[1]), float(v[2]))


def _way(v: Floats) -> gp_Dir:
    return gp_Dir(float(v[0]), float(v[1]), float(v[2]))


def _straight(u: float, v: float, du: float, dv: float) -> Geom2d_Line:
    return Geom2d_Line(gp_Pnt2d(float(u), float(v)), gp_Dir2d(du, dv))


def _knots(knots: Floats) -> tuple[Array1_double, Array1_int]:
    values, counts = np.unique(knots, return_counts=True)
    where, often = Array1_double(1, len(values)), Array1_int(1, len(values))
    for i, (value, count) in enumerate(zip(values, counts, strict=True), 1):
        where.SetValue(i, float(value))
        often.SetValue(i, int(count))
    return where, often


class _Weaver:
    def __init__(
        self, sheet: Sheet, parts: Mapping[str, Patch], stands: Mapping[str, Place]
    ) -> None:
        self.sheet, self.parts, self.stands = sheet, parts, stands
        self.faces: list[TopoDS_Face] = []
        self.names: list[str] = []
        self._pressed: dict[str, list[tuple[Pair, Stamp]]] = {}
        self._one: dict[Corner, Corner] = {}
        self._vertices: dict[tuple[Corner, Level], TopoDS_Vertex] = {}
        self._edges: dict[tuple[object, ...], Run] = {}
        self._unite()
        #: Zones without an inner radius: there both joints lie on one edge.
        self.sharp = {
            p.id for p in parts.values()
            if p.bend is not None and stands[p.id].rolled and stands[p.id].radius == 0.0
        }  # fmt: skip
        self._same = dict(pair for id in self.sharp for pair in self._pinched(id))

    # Corners

    def _root(self, corner: Corner) -> Corner:
        while self._one.get(corner, corner) != corner:
            corner = self._one[corner]
        return corner

    def _unite(self) -> None:
        """Have the corners of two patches be one where they hang together."""
        met: dict[Joint, list[tuple[Corner, Corner]]] = defaultdict(list)
        for part in self.parts.values():
            for (n, i), joint in part.joints.items():
                after = (part.id, n, (i + 1) % len(part.loops[n]))
                met[joint].append(((part.id, n, i), after))
        for two in met.values():
            (a, b), (c, d) = two
            for one, other in ((a, d), (b, c)):
                one, other = self._root(one), self._root(other)
                if one != other:
                    self._one[one] = other

    def _pinched(self, id: str) -> list[tuple[tuple[Corner, Level], tuple[Corner, Level]]]:
        """Corners on the inside of a sharp bend that are one."""
        part, level = self.parts[id], self._inner(id)
        if len(part.loops) > 1 or len(part.loops[0]) != 4:
            raise KernelTrouble(
                "a bend without a radius cannot be cut through: give it a small one"
            )
        # The piece it begins at, whether it hangs on a panel there or is looked at alone.
        first = next(i for i, s in enumerate(part.loops[0]) if max(abs(s.a[1]), abs(s.b[1])) < SAME)
        v = [self._root((id, 0, (first + k) % 4)) for k in range(4)]
        return [((v[3], level), (v[0], level)), ((v[2], level), (v[1], level))]

    def _inner(self, id: str) -> Level:
        return 1 if self.stands[id].up else 0

    def vertex(
        self, corner: Corner, level: Level, at: Floats
    ) -> tuple[tuple[Corner, Level], TopoDS_Vertex]:
        key = (self._root(corner), level)
        while key in self._same:
            key = self._same[key]
        if key not in self._vertices:
            made = TopoDS_Vertex()
            _BUILDER.MakeVertex(made, _point(at), _TOLERANCE)
            self._vertices[key] = made
        return key, self._vertices[key]

    # Edges

    def _edge(
        self, key: tuple[object, ...], curve: Geom_Curve, low: float, high: float, a: TopoDS_Vertex,
        b: TopoDS_Vertex, along: bool = True,
    ) -> Run:  # fmt: skip
        made = BRepBuilderAPI_MakeEdge(curve, a, b, low, high)
        if not made.IsDone():
            raise KernelTrouble("an edge of the sheet cannot be made: two corners of it are one")
        self._edges[key] = made.Edge(), along
        return self._edges[key]

    def _line(
        self, key: tuple[object, ...], a: Floats, b: Floats, va: TopoDS_Vertex, vb: TopoDS_Vertex
    ) -> Run:
        size = float(np.linalg.norm(b - a))
        return self._edge(key, Geom_Line(_point(a), _way(b - a)), 0.0, size, va, vb)

    def rim(self, part: Patch, n: int, i: int, level: Level) -> Run:
        """The edge of a piece at the bottom or the top."""
        stand, seg = self.stands[part.id], part.loops[n][i]
        h = self.sheet.thickness * level
        _, va = self.vertex((part.id, n, i), level, stand.at(seg.a, h))
        _, vb = self.vertex((part.id, n, (i + 1) % len(part.loops[n])), level, stand.at(seg.b, h))
        joint = part.joints.get((n, i))
        if joint is not None:
            return self._hinge(part, joint, level, seg, (va, vb))
        key = ("rim", part.id, n, i, level)
        if key in self._edges:
            return self._edges[key]
        kind, curve = self.kind(part, seg), seg.curve
        if kind == "line":
            return self._line(key, stand.at(seg.a, h), stand.at(seg.b, h), va, vb)
        if kind == "free":
            return self._edge(key, self._free(part, seg, h), 0.0, 1.0, va, vb)
        if kind == "arc":
            assert isinstance(curve, Arc2 | Circle2)
            low, high = curve.range
            x = stand.x * math.cos(low) + stand.y * math.sin(low)
            axes = gp_Ax2(_point(stand.at(curve.centre, h)), _way(stand.z), _way(x))
            round_, ends = Geom_Circle(axes, curve.radius), (0.0, high - low)
            along = not seg.back
        else:  # across a zone
            u0, u1 = stand.rolled_out(seg.a)[0], stand.rolled_out(seg.b)[0]
            centre = stand.o + stand.x * seg.a[0] + stand.z * stand.height
            axes = gp_Ax2(_point(centre), _way(stand.axis), _way(stand.begin))
            round_, ends = Geom_Circle(axes, stand.reach(h)), (min(u0, u1), max(u0, u1))
            along = u1 > u0
        return self._edge(key, round_, *ends, *((va, vb) if along else (vb, va)), along)

    def _hinge(
        self, part: Patch, joint: Joint, level: Level, seg: Seg,
        ends: tuple[TopoDS_Vertex, TopoDS_Vertex],
    ) -> Run:  # fmt: skip
        """The edge of a joint, which both patches have: it runs along the bend's line."""
        side = joint.side
        if joint.bend in self.sharp and level == self._inner(joint.bend):
            side = "in"
        along = (part.bend is not None) == (joint.side == "in")
        key = ("joint", joint.bend, side, joint.n, level)
        if key not in self._edges:
            (a, b), (va, vb) = (seg.a, seg.b), ends
            if not along:
                a, b, va, vb = b, a, vb, va
            stand, h = self.stands[part.id], self.sheet.thickness * level
            self._line(key, stand.at(a, h), stand.at(b, h), va, vb)
        return self._edges[key][0], along

    def _upright(self, part: Patch, n: int, i: int) -> TopoDS_Edge:
        """The edge from bottom to top where a piece begins."""
        stand, at = self.stands[part.id], part.loops[n][i].a
        low, high = stand.at(at, 0.0), stand.at(at, self.sheet.thickness)
        k0, v0 = self.vertex((part.id, n, i), 0, low)
        k1, v1 = self.vertex((part.id, n, i), 1, high)
        key = ("upright", k0, k1)
        if key not in self._edges:
            self._line(key, low, high, v0, v1)
        return self._edges[key][0]

    def kind(self, part: Patch, seg: Seg) -> Literal["line", "arc", "roll", "free"]:
        """What a piece is in space: `roll` runs straight across a rolled zone."""
        curve = seg.curve
        if not self.stands[part.id].rolled:
            return (
                "line"
                if isinstance(curve, Line2)
                else "arc"
                if isinstance(curve, Arc2 | Circle2)
                else "free"
            )
        if isinstance(curve, Line2) and abs(curve.a[1] - curve.b[1]) < 1e-9:
            return "line"
        return (
            "roll" if isinstance(curve, Line2) and abs(curve.a[0] - curve.b[0]) < 1e-9 else "free"
        )

    def _places(self, part: Patch, seg: Seg) -> tuple[Floats, list[Pair]]:
        """Shares of a piece and the places there, near enough to be followed by a quintic."""
        stand, curve = self.stands[part.id], seg.curve
        own = 0.0 if isinstance(curve, Line2) else 4.0
        if isinstance(curve, Arc2 | Circle2):
            own = curve.range[1] - curve.range[0]
        if stand.rolled:
            ys = np.array([seg.at(x)[1] for x in np.linspace(0.0, 1.0, 17)])
            own += abs(stand.turned(float(np.abs(np.diff(ys)).sum())))
        shares = np.linspace(0.0, 1.0, max(7, math.ceil(own / _STEP) + 1))
        return shares, [seg.at(float(x)) for x in shares]

    def _free(self, part: Patch, seg: Seg, h: float) -> Geom_BSplineCurve:
        shares, points = self._places(part, seg)
        stand = self.stands[part.id]
        spline = make_interp_spline(shares, np.array([stand.at(p, h) for p in points]), k=_DEGREE)
        poles = Array1_gp_Pnt(1, len(spline.c))
        for i, pole in enumerate(spline.c, 1):
            poles.SetValue(i, _point(pole))
        return Geom_BSplineCurve(poles, *_knots(spline.t), _DEGREE)

    # Faces

    def body(self) -> Body:
        for part in self.parts.values():
            self._sides(part)
            for (n, i), name in part.walls:
                self._wall(part, n, i, name)
        shell, solid = TopoDS_Shell(), TopoDS_Solid()
        _BUILDER.MakeShell(shell)
        for face in self.faces:
            _BUILDER.Add(shell, face)
        shell.Closed(True)
        _BUILDER.MakeSolid(solid)
        _BUILDER.Add(solid, shell)
        return Body(solid, tuple(self.names))

    def _face(
        self, surface: Geom_Surface, wires: Sequence[TopoDS_Wire], name: str, turned: bool = False
    ) -> None:
        face = TopoDS_Face()
        _BUILDER.MakeFace(face, surface, _TOLERANCE)
        for wire in wires:
            _BUILDER.Add(face, wire)
        self.faces.append(TopoDS.Face(face.Reversed()) if turned else face)
        self.names.append(name)

    def _wire(self, runs: Sequence[Run], turned: bool = False) -> TopoDS_Wire:
        wire = TopoDS_Wire()
        _BUILDER.MakeWire(wire)
        for edge, along in runs[::-1] if turned else runs:
            _BUILDER.Add(
                wire, edge.Oriented(TopAbs_FORWARD if along != turned else TopAbs_REVERSED)
            )
        wire.Closed(True)
        return wire

    def _on(self, edge: TopoDS_Edge, curve: Geom2d_Curve, surface: Geom_Surface) -> None:
        """Tell an edge where it lies on a surface."""
        _BUILDER.UpdateEdge(edge, curve, surface, _HERE, _TOLERANCE)

    def _sides(self, part: Patch) -> None:
        """Bottom and top of a patch. A cylinder's normal looks away from its axis: on a zone bent up the
        loops run mirrored on it."""
        stand, t = self.stands[part.id], self.sheet.thickness
        levels: tuple[Level, Level] = (0, 1)
        for level in levels:
            inner = stand.rolled and level == self._inner(part.id)
            if inner and part.id in self.sharp:
                continue
            surface: Geom_Surface
            if stand.rolled:
                axes = gp_Ax3(
                    _point(stand.o + stand.z * stand.height), _way(stand.axis), _way(stand.begin)
                )
                surface = Geom_CylindricalSurface(axes, stand.reach(t * level))
            else:
                at = stand.o + stand.z * (t * level)
                surface = Geom_Plane(gp_Ax3(_point(at), _way(stand.z), _way(stand.x)))
            index = {id(loop): n for n, loop in enumerate(part.loops)}
            forms = self._forms(part)
            for count, (outer, holes) in enumerate(grouped(part.loops), 1):
                wires = []
                for loop in (outer, *holes):
                    n = index[id(loop)]
                    runs = [self.rim(part, n, i, level) for i in range(len(loop))]
                    if stand.rolled:
                        for i, run in enumerate(runs):
                            self._on(run[0], self._on_cylinder(part, n, i, run), surface)
                    wires.append(self._wire(runs, turned=stand.rolled and stand.up))
                for spot, form in forms:
                    if len(part.loops) == 1 or inside(spot, [outer]):
                        wires += form.high if level else form.low
                name = f"{part.id}/{'top' if level else 'bottom'}"
                self._face(
                    surface,
                    wires,
                    name if count == 1 else f"{name}.{count}",
                    turned=inner if stand.rolled else level == 0,
                )

    def _forms(self, part: Patch) -> list[tuple[Pair, Stamp]]:
        """What is pressed into a panel, with a place of each; its skin is set in once."""
        if part.id not in self._pressed:
            panel = self.sheet.panels.get(part.id)
            stand = self.stands[part.id]
            stamps = [placed(f, stand) for f in panel.forms] if panel is not None else []
            for stamp in stamps:
                for face, name in stamp.skin:
                    self.faces.append(face)
                    self.names.append(name)
            self._pressed[part.id] = [(s.loops[0][0].a, s) for s in stamps]
        return self._pressed[part.id]

    def _on_cylinder(self, part: Patch, n: int, i: int, run: Run) -> Geom2d_Curve:
        stand, seg = self.stands[part.id], part.loops[n][i]
        (ua, va), (_, vb) = stand.rolled_out(seg.a), stand.rolled_out(seg.b)
        kind = "line" if (n, i) in part.joints else self.kind(part, seg)
        if kind == "line":
            low, high = (va, vb) if run[1] else (vb, va)
            return _straight(ua, low, 0.0, 1.0 if high > low else -1.0)
        if kind == "roll":
            return _straight(0.0, va, 1.0, 0.0)
        shares, points = self._places(part, seg)
        spline = make_interp_spline(
            shares, np.array([stand.rolled_out(p) for p in points]), k=_DEGREE
        )
        poles = Array1_gp_Pnt2d(1, len(spline.c))
        for k, pole in enumerate(spline.c, 1):
            poles.SetValue(k, gp_Pnt2d(float(pole[0]), float(pole[1])))
        return Geom2d_BSplineCurve(poles, *_knots(spline.t), _DEGREE)

    def _wall(self, part: Patch, n: int, i: int, name: str) -> None:
        """The face on a piece that is no joint. Where a sharp bend is pinched its edge on that side is none."""
        stand, seg, t = self.stands[part.id], part.loops[n][i], self.sheet.thickness
        pinched = self._inner(part.id) if part.id in self.sharp else None
        low = None if pinched == 0 else self.rim(part, n, i, 0)
        high = None if pinched == 1 else self.rim(part, n, i, 1)
        begin, end = self._upright(part, n, i), self._upright(part, n, (i + 1) % len(part.loops[n]))
        around: list[Run] = [
            *([low] if low else []), (end, True), *([(high[0], not high[1])] if high else []), (begin, False),
        ]  # fmt: skip
        kind = self.kind(part, seg)
        if kind in ("line", "roll"):
            a = stand.at(seg.a, 0.0)
            if kind == "line":
                out = np.cross(stand.at(seg.b, 0.0) - a, stand.at(seg.a, t) - a)
            else:  # outward is right of where it runs
                out = stand.x if seg.b[1] > seg.a[1] else -stand.x
            self._face(Geom_Plane(gp_Ax3(_point(a), _way(out))), [self._wire(around)], name)
            return
        assert low is not None
        assert high is not None
        surface, span, back = self._round(part, seg) if kind == "arc" else self._ruled(part, seg)
        self._on(low[0], _straight(0.0, 0.0, 1.0, 0.0), surface)
        self._on(high[0], _straight(0.0, t, 1.0, 0.0), surface)
        if begin.IsSame(end):
            seam = _straight(span, 0.0, 0.0, 1.0), _straight(0.0, 0.0, 0.0, 1.0)
            _BUILDER.UpdateEdge(begin, *seam, surface, _HERE, _TOLERANCE)
            wire = self._wire([(low[0], True), (begin, True), (high[0], False), (begin, False)])
        else:
            first, last = (span, 0.0) if back else (0.0, span)
            self._on(begin, _straight(first, 0.0, 0.0, 1.0), surface)
            self._on(end, _straight(last, 0.0, 0.0, 1.0), surface)
            wire = self._wire(around, turned=back)
        self._face(surface, [wire], name, turned=back)

    def _round(self, part: Patch, seg: Seg) -> tuple[Geom_Surface, float, bool]:
        """The surface of a wall on an arc, how far it runs, and whether against the loop. Its seam lies at the
        arc's start, which no arc then crosses."""
        stand, curve = self.stands[part.id], seg.curve
        assert isinstance(curve, Arc2 | Circle2)
        start, end = curve.range
        x = stand.x * math.cos(start) + stand.y * math.sin(start)
        axes = gp_Ax3(_point(stand.at(curve.centre, 0.0)), _way(stand.z), _way(x))
        return Geom_CylindricalSurface(axes, curve.radius), end - start, seg.back

    def _ruled(self, part: Patch, seg: Seg) -> tuple[Geom_Surface, float, bool]:
        """The surface of a wall on any other curve: ruled between two splines of the same knots, which run with
        the loop."""
        t = self.sheet.thickness
        rims = self._free(part, seg, 0.0), self._free(part, seg, t)
        count, places = rims[0].NbPoles(), rims[0].NbKnots()
        poles = Array2_gp_Pnt(1, count, 1, 2)
        for k in range(1, count + 1):
            for side, rim in enumerate(rims, 1):
                poles.SetValue(k, side, rim.Pole(k))
        knots, often = Array1_double(1, places), Array1_int(1, places)
        for k in range(1, places + 1):
            knots.SetValue(k, rims[0].Knot(k))
            often.SetValue(k, rims[0].Multiplicity(k))
        up, twice = _knots(np.array([0.0, 0.0, t, t]))
        return Geom_BSplineSurface(poles, knots, up, often, twice, _DEGREE, 1), 1.0, False
