"""A bent sheet read off a plain solid: its thickness, flat pieces, bends, outlines, and the tree they hang in; or why
it is none.

Flat pieces are pairs of flat faces that look away from each other, lie square over each other and are alike; bends
are round faces about one axis, a thickness apart, that run into flat pieces without a corner. What is found is no
claim until the sheet woven from it is the solid: that is for who asks to see (`sheet.reading`).
"""

from __future__ import annotations

import base64
import io
import itertools
import math
import zlib
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from OCP.BinTools import BinTools
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools_WireExplorer
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.gp import gp_Trsf
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape
from scipy.interpolate import make_interp_spline

from vireo.core.curves import Circle2, Line2, Pair, Spline2
from vireo.core.geometry import plane_frame, triple
from vireo.core.kernel.measure import box_of, describe_face, is_hollow
from vireo.core.kernel.outline import recognised
from vireo.core.kernel.place import located
from vireo.core.kernel.profile import wires_of
from vireo.core.kernel.region import loops_of
from vireo.core.kernel.shape import Body, Key, ancestors, compound_of, edges_of, items
from vireo.core.panels.forms import Form, Found
from vireo.core.panels.loops import SAME, Loop, Motion2, Seg, area, extent, line
from vireo.core.panels.model import Bend, Panel, Sheet
from vireo.core.panels.places import Place
from vireo.core.trouble import Trouble

Floats = NDArray[np.float64]
#: Directions whose cosine is nearer to one than this are one; places nearer than this (mm) too.
_WAY, _NEAR = 1e-9, 1e-4
_PLACES, _DEGREE = 33, 5
_SHARES = tuple(k / 16 for k in range(17))
#: A place just before where a roll begins is no end of it (rad).
_WHOLE = 2.0 * math.pi - 1e-6


class NoSheet(Trouble):
    """Why a solid is no sheet; `at` are places (mm) that tell it."""

    code = "no_sheet"

    def __init__(self, text: str, at: Sequence[Floats] = ()) -> None:
        super().__init__(text, [f"point:{p[0]:.3f},{p[1]:.3f},{p[2]:.3f}" for p in at])


@dataclass(frozen=True)
class _Face:
    """A flat or round face: `way` is the outward normal or the axis, `at` its middle (of mass)."""

    face: TopoDS_Face
    kind: str
    origin: Floats
    way: Floats
    radius: float
    hollow: bool
    area: float
    at: Floats


@dataclass(frozen=True)
class _Bow:
    """The outer face of a bend, and the flat faces it runs into, each with the edge it does so along."""

    outer: int
    meets: tuple[tuple[int, TopoDS_Edge], ...]


@dataclass(frozen=True)
class Read:
    """A sheet, and where its root stands: origin, x, z. `radius` is that of most of its bends (mm)."""

    sheet: Sheet
    origin: Floats
    x: Floats
    z: Floats
    radius: float


#: How long a bend is in the flat (mm), by its turn (rad), inner radius and thickness: no solid tells that.
Allowance = Callable[[float, float, float], float]


def read_sheet(
    body: Body, allowance: Allowance, root: int | None = None, ripped: bool = False,
    forms: bool = False,
) -> Read:  # fmt: skip
    """The sheet a solid is; `root` is the face that is to be the top of the piece all others hang on, the largest
    where none is said. What closes in a ring is `ripped` open where its shortest bend ends; what stands out of holes
    of flat pieces is taken for pressed `forms`. Raises NoSheet."""
    return _Reader(body, allowance, ripped, forms).read(root)


def may_hold_forms(body: Body) -> bool:
    """Whether a face of a body has holes at all."""
    return any(len(wires_of(f)) > 1 for f in body.faces)


class _Reader:
    def __init__(self, body: Body, allowance: Allowance, ripped: bool, forms: bool) -> None:
        self.body, self.allowance, self.ripped = body, allowance, ripped
        self.faces = [_described(f) for f in body.faces]
        index = {Key(f): i for i, f in enumerate(body.faces)}
        around = ancestors(body.shape, TopAbs_EDGE, TopAbs_FACE)
        self.edges: dict[int, list[tuple[TopoDS_Edge, int]]] = defaultdict(list)
        for edge in edges_of(body.shape):
            two = {index[Key(f)] for f in items(around.FindFromKey(edge))}
            if len(two) == 2:
                a, b = two
                self.edges[a].append((edge, b))
                self.edges[b].append((edge, a))
        self.beside = {i: {o for _, o in found} for i, found in self.edges.items()}
        self.t = self._thickness()
        #: Faces of what is pressed into flat pieces.
        self.formed: set[int] = set()
        if forms:
            self._find_forms()
        self.bows = [
            bow for i in range(len(self.faces)) if i not in self.formed and (bow := self._bow(i))
        ]
        self.panels = self._panels()
        self.of = {f: k for k, pair in enumerate(self.panels) for f in pair}

    # What there is

    def _thickness(self) -> float:
        """The distance of alike flat faces, by the area they have at it."""
        votes: dict[float, float] = defaultdict(float)
        for i, j, apart in self._alike:
            votes[round(apart, 4)] += self.faces[i].area + self.faces[j].area
        if not votes:
            raise NoSheet(
                "no two flat faces of this body lie square over each other: it is no bent sheet"
            )
        best = max(votes, key=lambda d: votes[d])
        whole = sum(f.area for f in self.faces)
        if votes[best] < 0.3 * whole:
            raise NoSheet(
                f"only {votes[best] / whole:.0%} of its skin lies on two sides at one distance ({best:g} mm): "
                "this is no sheet"
            )
        return min((apart for _, _, apart in self._alike), key=lambda d: abs(d - best))

    @cached_property
    def _alike(self) -> list[tuple[int, int, float]]:
        """Pairs of flat faces that look away from each other, are as large and lie square over each other."""
        flat = [i for i, f in enumerate(self.faces) if f.kind == "plane"]
        way = np.array([self.faces[i].way for i in flat]).reshape(-1, 3)
        size = np.array([self.faces[i].area for i in flat])
        facing = (way @ way.T < -1.0 + _WAY) & (
            np.abs(size[:, None] - size) <= 1e-5 * size[:, None]
        )
        found = []
        for k, m in zip(*np.nonzero(np.triu(facing)), strict=True):
            a, b = self.faces[flat[k]], self.faces[flat[m]]
            off = a.at - b.at
            apart = float(off @ a.way)
            if apart > _NEAR and float(np.linalg.norm(off - a.way * apart)) < _NEAR:
                found.append((flat[k], flat[m], apart))
        return found

    def _bow(self, i: int) -> _Bow | None:
        """A round face as the outer side of a bend."""
        x = self.faces[i]
        if x.kind != "cylinder" or x.hollow:
            return None
        inner = abs(x.radius - self.t) < _NEAR or any(
            y.kind == "cylinder"
            and y.hollow
            and abs(x.radius - y.radius - self.t) < _NEAR
            and _coaxial(x, y)
            for y in self.faces
        )
        if not inner:
            return None
        meets = tuple((o, e) for e, o in self.edges[i] if self._runs_into(x, e, self.faces[o]))
        return _Bow(i, meets) if meets else None

    def _runs_into(self, x: _Face, edge: TopoDS_Edge, other: _Face) -> bool:
        """Whether a round face goes over into a flat one without a corner, along its axis."""
        curve = BRepAdaptor_Curve(edge)
        if other.kind != "plane" or curve.GetType() != GeomAbs_CurveType.GeomAbs_Line:
            return False
        out = _point(curve, 0.5) - x.origin
        out -= x.way * float(out @ x.way)
        return float(out @ other.way) > (1.0 - 1e-7) * float(np.linalg.norm(out))

    def _panels(self) -> list[tuple[int, int]]:
        """Pairs of faces a thickness apart, larger ones first; what touches both of a pair is a wall of it."""
        pairs = [
            (i, j) for i, j, apart in self._alike
            if abs(apart - self.t) < _NEAR and not {i, j} & self.formed
        ]  # fmt: skip
        met = {o for bow in self.bows for o, _ in bow.meets}
        pairs.sort(key=lambda p: (not met & set(p), -self.faces[p[0]].area))
        taken: set[int] = set()
        walls: set[int] = set()
        found = []
        for i, j in pairs:
            if {i, j} & (taken | walls):
                continue
            taken |= {i, j}
            walls |= self.beside[i] & self.beside[j]
            found.append((i, j))
        return found

    # How it hangs together

    def read(self, root: int | None) -> Read:
        largest = max(range(len(self.panels)), key=lambda k: self.faces[self.panels[k][0]].area)
        if root is not None and root not in self.of:
            raise NoSheet(
                "the face that is to be the top is not one of two that lie a thickness apart",
                [self.faces[root].at],
            )
        first = largest if root is None else self.of[root]
        top = root if root is not None else self._upper(self.panels[first])
        links = self._links(first)
        frame = plane_frame(triple(self.faces[top].origin), triple(self.faces[top].way))
        z = np.array(frame.z)
        origin = np.array(frame.origin) - z * self.t
        start = Place(origin, np.array(frame.x), np.array(frame.y), z, self.t)
        self.panels_made: dict[str, Panel] = {}
        self.bends_made: dict[str, Bend] = {}
        names = {first: "p0"}
        waiting = [(first, top, start)]
        done: set[tuple[int, int]] = set()
        while waiting:
            k, up, place = waiting.pop()
            loops, forms = self._parted(names[k], k, self._outline(k, up, place), place)
            self.panels_made[names[k]] = Panel(names[k], loops, forms)
            for other, bows in links[k].items():
                pair = (min(k, other), max(k, other))
                if pair in done:
                    continue
                done.add(pair)
                n = len(self.bends_made) + 1
                names[other] = f"p{n}"
                bend, there = self._bend(f"b{n}", names[k], names[other], up, place, bows, k)
                self.bends_made[bend.id] = bend
                if other < 0:
                    # Nothing hangs on its far side.
                    self.panels_made[names[other]] = Panel(names[other], ())
                    continue
                under = next(
                    f for f in self.panels[other] if float(self.faces[f].way @ there.z) > 0.5
                )
                waiting.append((other, under, there))
        sheet = Sheet(self.t, "p0", self.panels_made, self.bends_made)
        radii = [b.radius for b in sheet.bends.values()]
        return Read(sheet, origin, start.x, z, max(radii, key=radii.count, default=self.t))

    def _upper(self, pair: tuple[int, int]) -> int:
        """Of two faces the one that looks more upwards."""
        return max(pair, key=lambda f: tuple(np.round(self.faces[f].way[::-1], 6)))

    def _links(self, first: int) -> dict[int, dict[int, list[_Bow]]]:
        """Which flat pieces hang together by which bends; what stands for nothing at the far side of a bend, a rolled
        end or one that was ripped open, is counted below 0. Raises NoSheet for a ring of them, for pieces no bend
        leads to, and for bends that lead to none or to three."""
        found: dict[int, dict[int, list[_Bow]]] = {k: {} for k in range(len(self.panels))}
        free = itertools.count(-1, -1)
        # Where one is ripped open it is the shortest; else they keep the order names go by.
        bows = sorted(self.bows, key=lambda b: -_long(b.meets[0][1])) if self.ripped else self.bows
        for bow in bows:
            ends = sorted({self.of[o] for o, _ in bow.meets if o in self.of})
            at = [self.faces[bow.outer].at]
            if not 0 < len(ends) <= 2:
                raise NoSheet(
                    f"a bend leads into {len(ends)} flat pieces and not into two: "
                    + ("it hangs on none" if not ends else "it branches there"), at,
                )  # fmt: skip
            a, b = ends[0], ends[1] if len(ends) == 2 else next(free)
            known = found[a].get(b)
            apart = known and not _coaxial(self.faces[known[0].outer], self.faces[bow.outer])
            if self.ripped and b >= 0 and (apart or (not known and self._hang(found, a, b))):
                b = next(free)
            elif apart:
                raise NoSheet(
                    "two bends join the same two flat pieces: it closes in a ring there, let it be ripped open",
                    at,
                )
            for p, q in ((a, b), (b, a)):
                found.setdefault(p, {}).setdefault(q, []).append(bow)
        seen, waiting, joints = {first}, [first], 0
        while waiting:
            k = waiting.pop()
            joints += len(found[k])
            waiting += [o for o in found[k] if o not in seen]
            seen |= set(found[k])
        if joints // 2 >= len(seen):
            raise NoSheet(
                "its bends close in a ring and cannot be laid flat: cut it open along one edge first, or let it be "
                "ripped open at its shortest bend",
                [self.faces[self.panels[k][0]].at for k in sorted(seen) if k >= 0],
            )
        loose = [
            k
            for k in found
            if k >= 0 and k not in seen and self.faces[self.panels[k][0]].area > 4.0 * self.t**2
        ]
        if loose:
            raise NoSheet(
                f"{len(loose)} flat pieces are joined by no bend that can be told",
                [self.faces[self.panels[k][0]].at for k in loose],
            )
        return found

    def _hang(self, found: dict[int, dict[int, list[_Bow]]], a: int, b: int) -> bool:
        """Whether two flat pieces hang together already."""
        seen, waiting = {a}, [a]
        while waiting:
            for other in found[waiting.pop()]:
                if other not in seen:
                    seen.add(other)
                    waiting.append(other)
        return b in seen

    # Outlines

    def _outline(self, k: int, top: int, place: Place) -> tuple[tuple[Loop, ...], tuple[Loop, ...]]:
        """The loops of a flat piece by its top, and by its bottom, their pieces called after the faces beside them.
        Raises NoSheet where these are others."""
        turn = np.stack([place.x, place.y, place.z])
        loops = []
        for f in (top, next(f for f in self.panels[k] if f != top)):
            face = self.faces[f].face
            called = {Key(e): f"f{o}" for e, o in self.edges[f]}
            there = located(face, turn, -turn @ place.o)
            # Edges keep what they are when moved: they are told by their order.
            order = {
                Key(a): called.get(Key(b), "f")
                for a, b in zip(edges_of(there), edges_of(face), strict=True)
            }
            loops.append(tuple(loops_of(TopoDS.Face(there), order, "f")))
        upper, lower = loops
        if not _same(upper, lower):
            raise NoSheet(
                "the two sides of a flat piece are not alike: a slanted cut, a bevel or a form is in it",
                [self.faces[top].at],
            )
        return upper, lower

    def _parted(
        self, name: str, k: int, outline: tuple[tuple[Loop, ...], tuple[Loop, ...]], place: Place
    ) -> tuple[tuple[Loop, ...], tuple[Form, ...]]:
        """The loops of a flat piece without those that forms are pressed through, and these."""
        upper, lower = outline
        kept: list[Loop] = [upper[0]]
        forms: list[Form] = []
        for loop in upper[1:]:
            like = min(lower[1:], key=lambda lp: _unlike(lp, loop))
            top, bottom = ({int(s.name[1:]) for s in lp if s.name[1:]} for lp in (loop, like))
            if not (top | bottom) & self.formed:
                kept.append(loop)
                continue
            pair = set(self.panels[k])
            skin = sorted(self._skin(pair, top | bottom))
            # Where its upper skin leads to the lower one, it is open.
            kind = "open form" if bottom & self._skin(pair, top) else "form"
            called = f"{name}.f{len(forms) + 1}"
            forms.append(Form(called, self._form(kind, skin, loop, place), Motion2()))
        return tuple(kept), tuple(forms)

    def _skin(self, without: set[int], begun: set[int]) -> set[int]:
        """The faces that hang together with some, without others."""
        seen, waiting = set(begun), list(begun)
        while waiting:
            new = self.beside[waiting.pop()] - seen - without
            seen |= new
            waiting += new
        return seen

    def _find_forms(self) -> None:
        """What stands out of holes of flat pieces, larger pieces first. A tab, which hangs on one straight line, is
        none: it is bent."""
        pairs = [(i, j) for i, j, apart in self._alike if abs(apart - self.t) < _NEAR]
        for pair in sorted(pairs, key=lambda p: -self.faces[p[0]].area):
            if set(pair) & self.formed:
                continue
            # A form without a slit has one skin above and another below.
            for face, far in (pair, pair[::-1]):
                holes = [{Key(e) for e in edges_of(w)} for w in wires_of(self.faces[face].face)[1:]]
                for hole in holes:
                    rim = [(e, o) for e, o in self.edges[face] if Key(e) in hole]
                    walls = {o for _, o in rim if o in self.beside[far]}
                    hung = [(e, o) for e, o in rim if o not in walls]
                    if not hung or self._tabs(pair, walls, hung):
                        continue
                    skin = self._skin(set(pair), {o for _, o in rim})
                    # What leads round to the outside of the flat piece is more than a form.
                    if not any(o in skin for e, o in self.edges[face] if Key(e) not in hole):
                        self.formed |= skin

    def _tabs(
        self, pair: tuple[int, int], walls: set[int], hung: list[tuple[TopoDS_Edge, int]]
    ) -> bool:
        """Whether something that stands out of a hole hangs on one straight line: several tabs hang on one each."""
        left = list(hung)
        while left:
            skin = self._skin({*pair, *walls}, {left[0][1]})
            if _in_one_line([e for e, o in left if o in skin]):
                return True
            left = [(e, o) for e, o in left if o not in skin]
        return False

    def _form(self, kind: str, skin: list[int], loop: Loop, place: Place) -> Found:
        turn = np.stack([place.x, place.y, place.z])
        whole = compound_of([self.faces[i].face for i in skin])
        there = _settled(located(whole, turn, -turn @ place.o))
        (_, _, low), (_, _, high) = box_of(there)
        stream = io.BytesIO()
        BinTools.Write_s(there, stream)
        kept = base64.b64encode(zlib.compress(stream.getvalue())).decode()
        covers = -area([loop])
        return Found(
            self.t, kept, (loop,), _gained(there, covers, self.t),
            (max(-low, 0.0), max(high - self.t, 0.0)), kind=kind,
        )  # fmt: skip

    def _bend(
        self, id: str, parent: str, child: str, top: int, place: Place, bows: list[_Bow], own: int
    ) -> tuple[Bend, Place]:
        """A bend, and the place of the flat piece beyond it."""
        outer = self.faces[bows[0].outer]
        radius = outer.radius - self.t
        radius = 0.0 if abs(radius) < _NEAR else radius
        mine = [(o, e) for bow in bows for o, e in bow.meets if self.of.get(o) == own]
        theirs = [e for bow in bows for o, e in bow.meets if self.of.get(o) != own]
        # The outer side hangs on the face it runs into: on the bottom's it bends towards the top.
        up = mine[0][0] != top
        at = _point(BRepAdaptor_Curve(mine[0][1]), 0.5)
        axis = outer.way
        begin = _across(at - outer.origin, axis)
        middle = _across(outer.at - outer.origin, axis)
        # Outward in the panel: along the roll where it begins, to the side its middle is on.
        out = np.cross(axis, begin)
        out = out if float(out @ middle) > 0.0 else -out
        out -= place.z * float(out @ place.z)
        out /= np.linalg.norm(out)
        d = np.cross(out, place.z)
        first = begin / np.linalg.norm(begin)
        # A rolled end is rolled as far as any of it is.
        edges = theirs[:1] or [e for e, _ in self.edges[bows[0].outer]]
        turn = max(
            math.atan2(float(end @ out), float(end @ first)) % (2.0 * math.pi)
            for e in edges for x in ((0.5,) if theirs else _SHARES)
            for end in (_across(_point(BRepAdaptor_Curve(e), x) - outer.origin, axis),)
            if theirs or math.atan2(float(end @ out), float(end @ first)) % (2.0 * math.pi) < _WHOLE
        )  # fmt: skip
        angle = turn if up else -turn
        allowance = self.allowance(turn, radius, self.t)
        base = at - place.z * float((at - place.o) @ place.z)
        zone = Place(base, d, out, place.z, self.t, angle, radius, allowance)
        loops = [lp for bow in bows for lp in self._unrolled(bow.outer, zone)]
        v = base - place.o
        p: Pair = (float(v @ place.x), float(v @ place.y))
        way: Pair = (float(d @ place.x), float(d @ place.y))
        c, s = math.cos(angle), math.sin(angle)
        there = Place(
            zone.at((0.0, allowance), 0.0), d, out * c + place.z * s, place.z * c - out * s, self.t
        )
        return Bend(id, parent, child, p, way, angle, radius, allowance, tuple(loops)), there

    def _unrolled(self, f: int, zone: Place) -> list[Loop]:
        """The loops of the outer face of a bend as they lie flat."""
        called = {Key(e): f"f{o}" for e, o in self.edges[f]}
        found: list[Loop] = []
        for n, wire in enumerate(wires_of(self.faces[f].face)):
            loop: list[Seg] = []
            explorer = BRepTools_WireExplorer(wire, self.faces[f].face)
            while explorer.More():
                edge = explorer.Current()
                explorer.Next()
                if BRep_Tool.Degenerated_s(edge):
                    continue
                loop.append(_flat(edge, zone, called.get(Key(edge), "f")))
            if (area([tuple(loop)]) > 0.0) != (n == 0):
                loop = [s.turned for s in reversed(loop)]
            found.append(tuple(loop))
        return found


def _flat(edge: TopoDS_Edge, zone: Place, name: str) -> Seg:
    """An edge of a rolled face as it lies flat, run as its face's wire does."""
    curve = BRepAdaptor_Curve(edge)
    shares = np.linspace(0.0, 1.0, _PLACES)
    if edge.Orientation() == TopAbs_REVERSED:
        shares = shares[::-1]
    points = zone.local(np.array([_point(curve, x) for x in shares]))[:, :2]
    first, last = (
        (float(points[0][0]), float(points[0][1])),
        (float(points[-1][0]), float(points[-1][1])),
    )
    chord = points[-1] - points[0]
    size = float(np.hypot(*chord))
    off = points - points[0]
    if (
        size > SAME
        and float(np.abs(off[:, 0] * chord[1] - off[:, 1] * chord[0]).max()) < 1e-7 * size
    ):
        return line(_snapped(first, zone), _snapped(last, zone), name)
    spline = make_interp_spline(np.linspace(0.0, 1.0, _PLACES), points, k=_DEGREE)
    poles = tuple((float(c[0]), float(c[1])) for c in np.asarray(spline.c))
    found = recognised(Spline2(_DEGREE, tuple(map(float, spline.t)), poles))
    if isinstance(found, Line2):
        return line(first, last, name)
    back = False if isinstance(found, Circle2) else math.dist(found.ends[0], first) > 1e-5
    return Seg(found, name, back)


def _snapped(p: Pair, zone: Place) -> Pair:
    """A place that is on an edge of the zone to rounding, on it."""
    near = [y for y in (0.0, zone.allowance) if abs(y - p[1]) < SAME]
    return (p[0], near[0]) if near else p


def _described(face: TopoDS_Face) -> _Face:
    kind, origin, way, radius = describe_face(face)
    found = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, found)
    c = found.CentreOfMass()
    return _Face(
        face, kind, np.array(origin), np.array(way or (0.0, 0.0, 0.0)), radius or 0.0,
        is_hollow(face, kind), abs(float(found.Mass())), np.array([c.X(), c.Y(), c.Z()]),
    )  # fmt: skip


def _point(curve: BRepAdaptor_Curve, share: float) -> Floats:
    low, high = curve.FirstParameter(), curve.LastParameter()
    p = curve.Value(float(low + (high - low) * share))
    return np.array([p.X(), p.Y(), p.Z()])


def _in_one_line(edges: Sequence[TopoDS_Edge]) -> bool:
    """Whether edges lie on one straight line."""
    curves = [BRepAdaptor_Curve(e) for e in edges]
    if any(c.GetType() != GeomAbs_CurveType.GeomAbs_Line for c in curves):
        return False
    a, b = (_point(curves[0], x) for x in (0.0, 1.0))
    way = (b - a) / np.linalg.norm(b - a)
    ends = [_point(c, x) - a for c in curves for x in (0.0, 1.0)]
    return all(float(np.linalg.norm(v - way * float(v @ way))) < _NEAR for v in ends)


def _unlike(a: Loop, b: Loop) -> float:
    """How far two loops reach differently."""
    return float(np.abs(np.array(extent(a)) - np.array(extent(b))).max())


def _settled(shape: TopoDS_Shape) -> TopoDS_Shape:
    """A shape with its place in its geometry."""
    return BRepBuilderAPI_Transform(shape, gp_Trsf(), True).Shape()


def _gained(skin: TopoDS_Shape, covers: float, t: float) -> float:
    """What a panel has more (mm3) by a form than it would have without, by the flux of r / 3 through its faces and
    through the straight wall over the rim they stand on (Gauss), whose share is 2/3 t covers."""
    found = GProp_GProps()
    BRepGProp.VolumeProperties_s(skin, found)
    return float(found.Mass()) + 2.0 / 3.0 * t * covers - t * covers


def _long(edge: TopoDS_Edge) -> float:
    curve = BRepAdaptor_Curve(edge)
    return float(np.linalg.norm(_point(curve, 1.0) - _point(curve, 0.0)))


def _across(v: Floats, axis: Floats) -> Floats:
    """What of a vector is square to an axis."""
    return np.asarray(v - axis * float(v @ axis))


def _coaxial(a: _Face, b: _Face) -> bool:
    parallel = abs(float(a.way @ b.way)) > 1.0 - _WAY
    return parallel and float(np.linalg.norm(np.cross(b.origin - a.origin, a.way))) < _NEAR


def _same(a: Sequence[Loop], b: Sequence[Loop]) -> bool:
    """Whether two sides have the same outlines: as many loops, each as large and reaching as far as its like."""

    def told(loops: Sequence[Loop]) -> list[tuple[float, ...]]:
        return sorted((round(area([lp]), 3), *(round(v, 3) for v in extent(lp))) for lp in loops)

    return len(a) == len(b) and np.allclose(told(a), told(b), atol=2e-3)
