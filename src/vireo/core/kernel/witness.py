"""Second witnesses of solids: they judge a result by other means than made it.

The kernel calls wrong solids done and valid. Lines are shot through the operands and the result
and cut with their faces one by one: along each, the result must be the Boolean combination of
the operands, and no place may lie inside twice. Volumes must lie within what areas, lengths and
angles allow. What is refused names a place that proves it.
"""

from __future__ import annotations

import itertools
import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.gp import gp_Dir, gp_Lin, gp_Pnt
from OCP.IntCurveSurface import IntCurveSurface_TransitionOnCurve as Transition
from OCP.TopAbs import TopAbs_IN, TopAbs_ON
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.locate import inner_point
from vireo.core.kernel.mesh import preview_deflection, tessellate
from vireo.core.kernel.shape import Body, Key, edges_of, solids_of
from vireo.core.kernel.skin import Patch, skin_of
from vireo.core.triangles.meeting import crossing, meetings, welded

Vector = NDArray[np.float64]
Operation = Literal["add", "cut", "overlap"]

#: How often each witness was asked, and how often it refused: read by the benchmark page.
ASKED: Counter[str] = Counter()
FIRED: Counter[str] = Counter()


class WitnessTrouble(KernelTrouble):
    """The kernel called a solid done that is not what the operation makes."""

    code = "witness"


def _refuse(witness: str, text: str, at: Vector | None = None) -> WitnessTrouble:
    FIRED[witness] += 1
    where = [] if at is None else ["point:" + ",".join(f"{c:.3f}" for c in at)]
    return WitnessTrouble(text, where)


# Lines


@dataclass(frozen=True, eq=False)
class Line:
    """A straight line through `at` (mm) along the unit vector `way`; each is itself alone."""

    at: Vector
    way: Vector

    def point(self, t: float) -> Vector:
        return self.at + t * self.way


@dataclass(frozen=True)
class Crossing:
    """Where a line goes through a face: how far along (mm), and +1 inwards, -1 outwards."""

    t: float
    step: int


#: A stretch this short along a line (mm) is within what the kernel's tolerances leave open.
HAIR = 2e-4


class Unclear(Exception):
    """A line grazes an edge or a face, so that it proves nothing."""


#: What cutters of faces answered for lines.
Known = dict[tuple[Patch, Line], list[Crossing]]


class Lined:
    """Solids made ready to be cut by lines. Those made with the same `known` share what their
    common faces answered: most of a body is the same before and after a step."""

    def __init__(self, shapes: Sequence[TopoDS_Shape], known: Known) -> None:
        skins = [skin_of(s) for s in shapes]
        self.faces = [f for s in skins for f in s.faces]
        self._boxes = np.concatenate([s.boxes for s in skins])
        self._patches = [p for s in skins for p in s.patches]
        self._known = known
        self._aimed: dict[Line, list[tuple[Patch, float, float]]] = {}

    def aim(self, lines: Sequence[Line]) -> None:
        """Find for many lines at once which faces they may go through, and where."""
        if not lines:
            return
        at = np.array([line.at for line in lines])[:, None]
        way = np.array([line.way for line in lines])[:, None]
        with np.errstate(divide="ignore", invalid="ignore"):
            one = (self._boxes[:, :3] - 1e-6 - at) / way
            two = (self._boxes[:, 3:] + 1e-6 - at) / way
        near, far = np.minimum(one, two).max(axis=2), np.maximum(one, two).min(axis=2)
        for k, line in enumerate(lines):
            self._aimed[line] = [
                (self._patches[i], float(near[k, i]) - 1e-3, float(far[k, i]) + 1e-3)
                for i in np.flatnonzero(near[k] <= far[k])
            ]

    def crossings(self, line: Line) -> list[Crossing]:
        """All places where the line goes through faces, in order. Raises Unclear."""
        if line not in self._aimed:
            self.aim([line])
        shot = gp_Lin(gp_Pnt(*map(float, line.at)), gp_Dir(*map(float, line.way)))
        found: list[Crossing] = []
        for patch, near, far in self._aimed[line]:
            key = (patch, line)
            if key not in self._known:
                self._known[key] = _through(patch.cutter, shot, near, far)
            found += self._known[key]
        found.sort(key=lambda c: c.t)
        return found


def _through(cutter: Any, shot: gp_Lin, low: float, high: float) -> list[Crossing]:
    """Where a line goes through a face. Raises Unclear on its border or along it."""
    cutter.Perform(shot, low, high)
    if not cutter.IsDone():
        raise Unclear
    found = []
    for k in range(1, cutter.NbPnt() + 1):
        step = _STEPS.get(cutter.Transition(k))
        if step is None or cutter.State(k) == TopAbs_ON:
            raise Unclear
        found.append(Crossing(float(cutter.WParameter(k)), step))
    return found


_STEPS = {Transition.IntCurveSurface_In: 1, Transition.IntCurveSurface_Out: -1}

Stretches = list[tuple[float, float]]


def depths(crossings: Sequence[Crossing]) -> list[tuple[float, float, int]]:
    """How often the pieces of a line between crossings lie inside: 0 or 1 in a sound solid.
    Raises Unclear when what goes in does not come out."""
    found, depth = [], 0
    for a, b in itertools.pairwise(crossings):
        depth += a.step
        found.append((a.t, b.t, depth))
    if sum(c.step for c in crossings):
        raise Unclear
    return found


def inside(crossings: Sequence[Crossing], most: int = 1) -> Stretches:
    """The stretches of a line that lie inside, of several solids together up to `most` deep.
    Raises Unclear when it is deeper or inside out: `unmet` tells why."""
    found: Stretches = []
    for a, b, depth in depths(crossings):
        if not 0 <= depth <= most:
            raise Unclear
        if depth and found and found[-1][1] == a:
            found[-1] = (found[-1][0], b)
        elif depth:
            found.append((a, b))
    return found


def _combined(operation: Operation, base: Stretches, tools: Stretches) -> Stretches:
    """The Boolean combination of stretches: what the result must have along the line."""
    marks = sorted({t for s in (base, tools) for pair in s for t in pair})
    found: Stretches = []
    for a, b in itertools.pairwise(marks):
        m = 0.5 * (a + b)
        in_base = any(x < m < y for x, y in base)
        in_tool = any(x < m < y for x, y in tools)
        kept = {
            "add": in_base or in_tool,
            "cut": in_base and not in_tool,
            "overlap": in_base and in_tool,
        }[operation]
        if kept and found and found[-1][1] == a:
            found[-1] = (found[-1][0], b)
        elif kept:
            found.append((a, b))
    return found


def _all_differing(one: Stretches, two: Stretches) -> Stretches:
    """The stretches that are in one and not in the other."""
    marks = sorted({t for s in (one, two) for pair in s for t in pair})
    found: Stretches = []
    for a, b in itertools.pairwise(marks):
        m = 0.5 * (a + b)
        if any(x < m < y for x, y in one) != any(x < m < y for x, y in two):
            if found and found[-1][1] == a:
                found[-1] = (found[-1][0], b)
            else:
                found.append((a, b))
    return found


def _differing(one: Stretches, two: Stretches) -> tuple[float, float] | None:
    """The longest stretch that is in one and not in the other, when longer than a hair."""
    longest = max(_all_differing(one, two), key=lambda s: s[1] - s[0], default=(0.0, 0.0))
    return longest if longest[1] - longest[0] > HAIR else None


@lru_cache(maxsize=1)
def _ways() -> Vector:
    """Directions spread over the sphere by the golden angle, none along an axis or a diagonal."""
    k = np.arange(64) + 0.37
    z = 1.0 - 2.0 * k / 64.0
    a = k * math.pi * (3.0 - math.sqrt(5.0)) + 0.731
    r = np.sqrt(1.0 - z * z)
    return np.stack([r * np.cos(a), r * np.sin(a), z], axis=1)


def _place_on(face: TopoDS_Face, share: float) -> Vector:
    """A place on a face's surface over the box of its parameters: near it, if not on it."""
    s = BRepAdaptor_Surface(face)
    u0, u1, v0, v1 = (
        s.FirstUParameter(), s.LastUParameter(), s.FirstVParameter(), s.LastVParameter(),
    )  # fmt: skip
    p = s.Value(u0 + share * (u1 - u0), v0 + (0.31 + 0.4 * share) * (v1 - v0))
    return np.array([p.X(), p.Y(), p.Z()])


def _lines_through(faces: Sequence[TopoDS_Face], most: int) -> list[Line]:
    """Lines that go through places on faces, each through two of them: far and near alike."""
    chosen = list(faces)
    if len(chosen) > 2 * most:
        stride = len(chosen) / (2 * most)
        chosen = [chosen[int(k * stride)] for k in range(2 * most)]
    if not chosen:
        return []
    shares = (0.43, 0.61, 0.27, 0.53, 0.36)
    places = [_place_on(f, shares[i % 5]) for i, f in enumerate(chosen)]
    ways = _ways()
    lines = []
    for k in range(min(most, max(3, (len(places) + 1) // 2))):
        a, b = places[k % len(places)], places[(k + len(places) // 2) % len(places)]
        way = b - a
        length = float(np.linalg.norm(way))
        turned = ways[(17 * k) % 64]
        # Faces opposite each other are joined askew, so that edges between are not grazed.
        way = turned if length < 1e-6 or len(places) < 3 else way / length + 0.13 * turned
        lines.append(Line(a, way / np.linalg.norm(way)))
    return lines


def _state(shape: TopoDS_Shape, at: Vector) -> bool | None:
    """Whether a place lies inside by the kernel's own point test, None on the skin."""
    for solid in solids_of(shape):
        found = BRepClass3d_SolidClassifier(solid, gp_Pnt(*map(float, at)), HAIR / 4)
        if found.State() == TopAbs_IN:
            return True
        if found.State() == TopAbs_ON:
            return None
    return False


# Witnesses


def membership(
    operation: Operation, base: Body, tools: Sequence[Body], result: TopoDS_Shape, what: str
) -> None:
    """That along lines through what changed and far from it, a result is the Boolean combination
    of its operands. Raises WitnessTrouble with a place where it is not."""
    ASKED["membership"] += 1
    known: Known = {}
    made, old = Lined([result], known), Lined([base.shape], known)
    new = Lined([t.shape for t in tools], known)
    was = {Key(f) for f in old.faces}
    changed = [f for f in made.faces if Key(f) not in was]
    lines = _lines_through([*changed, *new.faces], _count(len(changed)))
    for solid in (made, old, new):
        solid.aim(lines)
    for line in lines:
        try:
            had = inside(old.crossings(line))
            took = inside(new.crossings(line), len(tools))
            through = made.crossings(line)
            _alternating(made, line, through, what)
            has = inside(through)
        except Unclear:
            continue
        wanted = _combined(operation, had, took)
        wrong = _differing(wanted, has)
        if wrong is None:
            continue
        at = line.point(0.5 * (wrong[0] + wrong[1]))
        if not _proved(operation, base.shape, [t.shape for t in tools], result, at):
            continue
        raise _refuse(
            "membership",
            f"{what} went wrong in the geometry kernel near ({_words(at)}): material is "
            f"{'missing' if _state(result, at) is False else 'left'} there",
            at,
        )


def _count(changed: int) -> int:
    return min(10, 3 + changed // 8)


def _proved(
    operation: Operation, base: TopoDS_Shape, tools: Sequence[TopoDS_Shape],
    result: TopoDS_Shape, at: Vector,
) -> bool:  # fmt: skip
    """Whether the kernel's own point test says so too, at a place clear of all skins."""
    states = [_state(s, at) for s in (base, *tools, result)]
    if any(s is None for s in states):
        return False
    had, *took, has = states
    wanted = {
        "add": had or any(took), "cut": had and not any(took), "overlap": had and any(took),
    }[operation]  # fmt: skip
    return bool(wanted) != bool(has)


def unmet(body: Body, what: str) -> None:
    """That a solid's skin does not go through itself or lie in itself: its triangles are asked,
    and where they say so the true faces. Raises WitnessTrouble with a place."""
    ASKED["self-meeting"] += 1
    made = Lined([body.shape], {})
    for line in _lines_through(made.faces, _count(len(made.faces))):
        try:
            _alternating(made, line, made.crossings(line), what)
        except Unclear:
            continue
    mesh = tessellate(body, 3 * preview_deflection(body), 0.5)
    points, triangles = welded(mesh.points, mesh.triangles)
    for meeting in meetings(points, triangles):
        at = np.array(meeting.at)
        around = 4 * mesh.deflection
        spots = [at, *(at + around * way for way in _ways()[::9])]
        if any(_nearby_too(made, spot) for spot in spots):
            raise _refuse("self-meeting", f"{what} passes through itself near ({_words(at)})", at)


def uncrossed(body: Body, what: str) -> None:
    """That a surface does not go through itself: its triangles are asked, and where they say so
    finer ones, which do not show what was only their coarseness. Raises WitnessTrouble."""
    ASKED["self-meeting"] += 1
    coarse = preview_deflection(body)
    for deflection, turn in ((3 * coarse, 0.5), (0.3 * coarse, 0.1)):
        mesh = tessellate(body, deflection, turn)
        found = crossing(*welded(mesh.points, mesh.triangles))
        if not found:
            return
    at = np.array(found[0].at)
    raise _refuse("self-meeting", f"{what} passes through itself near ({_words(at)})", at)


def _alternating(made: Lined, line: Line, through: Sequence[Crossing], what: str) -> None:
    """That a line goes in and out of a solid by turns. Raises WitnessTrouble, or Unclear."""
    for a, b, depth in depths(through):
        if depth in (0, 1) or b - a < 50 * HAIR:
            continue
        at = line.point(0.5 * (a + b))
        if _nearby_too(made, at):
            raise _refuse("self-meeting", f"{what} passes through itself near ({_words(at)})", at)


def _nearby_too(made: Lined, at: Vector) -> bool:
    """Whether other lines through the same place find it inside twice as well: a graze that was
    counted once does not show on all of them."""
    agreed = 0
    for way in _ways()[[5, 23, 41, 58]]:
        try:
            found = depths(made.crossings(Line(at, way)))
        except Unclear:
            continue
        depth = next((d for a, b, d in found if a < 0.0 < b), 0)
        if depth in (0, 1):
            return False
        agreed += 1
    return agreed >= 2


def budget(
    what: str, change: float, low: float, high: float, slack: float = 0.0, of: str = "volume"
) -> None:
    """That a volume (mm3), or an area (mm2), moved by no more than geometry allows. Raises
    WitnessTrouble."""
    ASKED["volume"] += 1
    room = slack + 1e-6 * max(abs(low), abs(high), 1.0)
    if not low - room <= change <= high + room:
        unit = "mm³" if of == "volume" else "mm²"
        allowed = f"{low:.4g}" if math.isclose(low, high) else f"{low:.4g} to {high:.4g}"
        raise _refuse(
            "volume",
            f"{what} went wrong in the geometry kernel: the {of} changed by {change:.4g} {unit}, "
            f"where its sizes allow {allowed} {unit}",
        )


def swept_budget(
    what: str, change: float, pieces: Sequence[tuple[float, float, float]], loose: float = 0.03
) -> None:
    """That faces which moved along their normals swept what they cover: each piece is its area
    before and after (mm2) and how far it went (mm, outwards positive).

    Between the two the area runs as a polynomial of second degree, so that the volume is the
    trapezium's up to half the difference of the areas; `loose` is for neighbours that end on the
    way. What the areas may differ by is for the caller to judge. Raises WitnessTrouble.
    """
    middle = sum(0.5 * (a + b) * d for a, b, d in pieces)
    room = sum((0.5 * abs(b - a) + loose * (a + b)) * abs(d) for a, b, d in pieces)
    budget(what, change, middle - room, middle + room)


def confined(
    before: TopoDS_Shape, after: TopoDS_Shape, faces: Sequence[TopoDS_Face], reach: float, what: str
) -> None:
    """That material came and went only within a reach (mm) of some faces. Raises WitnessTrouble
    with a place further off."""
    ASKED["reach"] += 1
    known: Known = {}
    old, made = Lined([before], known), Lined([after], known)
    was = {Key(f) for f in old.faces}
    changed = [f for f in made.faces if Key(f) not in was]
    lines = _lines_through([*changed, *faces], _count(len(changed)))
    for solid in (made, old):
        solid.aim(lines)
    for line in lines:
        try:
            had = inside(old.crossings(line))
            through = made.crossings(line)
            _alternating(made, line, through, what)
            has = inside(through)
        except Unclear:
            continue
        for a, b in _all_differing(had, has):
            at = line.point(0.5 * (a + b))
            spot = BRepBuilderAPI_MakeVertex(gp_Pnt(*map(float, at))).Vertex()
            if b - a > HAIR and all(
                BRepExtrema_DistShapeShape(spot, f).Value() > reach for f in faces
            ):
                raise _refuse(
                    "reach",
                    f"{what} went wrong in the geometry kernel: it changed the body near "
                    f"({_words(at)}), away from the chosen faces",
                    at,
                )


def left_behind(after: TopoDS_Shape, faces: Sequence[TopoDS_Face], what: str) -> None:
    """That faces which were to move are no longer where they were: a place within each is off the
    skin of the result. Raises WitnessTrouble with the place of one that stayed."""
    ASKED["moved"] += 1
    skin = skin_of(after).patches
    for face in faces:
        place = inner_point(face)
        at = np.array([place.X(), place.Y(), place.Z()])
        spot = BRepBuilderAPI_MakeVertex(place).Vertex()
        for patch in skin:
            near = (patch.box[:3] - 1e-6 <= at).all() and (at <= patch.box[3:] + 1e-6).all()
            if near and BRepExtrema_DistShapeShape(spot, patch.face).Value() < 1e-7:
                raise _refuse(
                    "moved",
                    f"{what} went wrong in the geometry kernel: the face at ({_words(at)}) "
                    "stayed where it was",
                    at,
                )


def boxed(operation: Operation, base: Body, tools: Sequence[Body], result: TopoDS_Shape,
          what: str) -> None:  # fmt: skip
    """That corners and middles of edges of a result lie in the box its operands allow. Raises
    WitnessTrouble with a place outside."""
    ASKED["box"] += 1
    boxes = [_loose(b.shape) for b in ((base, *tools) if operation == "add" else (base,))]
    if operation == "add":
        low = np.min([b[0] for b in boxes], axis=0)
        high = np.max([b[1] for b in boxes], axis=0)
    else:
        low, high = boxes[0]
    least, most = _loose(result)
    if (least >= low - 1e-3).all() and (most <= high + 1e-3).all():
        return
    was = {Key(e) for b in (base, *tools) for e in b.edges}
    for edge in edges_of(result):
        if Key(edge) in was or BRep_Tool.Degenerated_s(edge):
            continue
        curve = BRepAdaptor_Curve(edge)
        for k in (0.0, 0.5):
            p = curve.Value((1 - k) * curve.FirstParameter() + k * curve.LastParameter())
            at = np.array([p.X(), p.Y(), p.Z()])
            if (at < low - 1e-3).any() or (at > high + 1e-3).any():
                raise _refuse(
                    "box", f"{what} went wrong in the geometry kernel: it reaches ({_words(at)}), "
                    "outside of what it was made of", at,
                )  # fmt: skip


def _loose(shape: TopoDS_Shape) -> tuple[Vector, Vector]:
    boxes = skin_of(shape).boxes
    return boxes[:, :3].min(axis=0), boxes[:, 3:].max(axis=0)


def _words(at: Vector) -> str:
    return ", ".join(f"{c + 0.0:.1f}" for c in at)
