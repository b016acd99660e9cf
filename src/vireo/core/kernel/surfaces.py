"""Surface bodies grown from chains of curves: swept straight, turned, along a path, through
sections; and parted. The faces a curve makes are named ``<step>/side/<curve>``."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

from OCP.BRep import BRep_Builder
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Transform,
)
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
from OCP.collections import List_TopoDS_Shape as ShapeList
from OCP.gp import gp_Ax1, gp_Pnt, gp_Trsf
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape, TopoDS_Shell, TopoDS_Wire

from vireo.core.curves import Curve2, Pair, crossings, self_crossing
from vireo.core.geometry import Frame
from vireo.core.kernel.boolean import carry, splitter
from vireo.core.kernel.forms.kind import sound
from vireo.core.kernel.gate import finite
from vireo.core.kernel.locate import length_of
from vireo.core.kernel.measure import area_of
from vireo.core.kernel.outline import placed_edge
from vireo.core.kernel.place import direction, point, vector
from vireo.core.kernel.profile import JOIN
from vireo.core.kernel.shape import Body, Key, ancestors, compound_of, edges_of, faces_of, items
from vireo.core.kernel.sweep import Path, Way, refuse_folds, swept_skin
from vireo.core.kernel.trouble import KernelTrouble
from vireo.core.kernel.witness import WitnessTrouble, uncrossed
from vireo.core.naming.grammar import face_name

#: Relative room of an area against its closed form.
_HAIR = 1e-6


@dataclass(frozen=True)
class Chain:
    """Curves that run on into each other, in space, with what each edge came from."""

    wire: TopoDS_Wire
    roles: dict[Key, str]
    #: The curves in their plane, as they were drawn.
    curves: tuple[tuple[str, Curve2], ...]

    @property
    def closed(self) -> bool:
        return bool(self.wire.Closed())


def chains_of(curves: Sequence[tuple[str, Curve2]], frame: Frame) -> list[Chain]:
    """The chains some curves of a sketch make, each an open or a closed run. Raises KernelTrouble
    where they branch or cross."""
    _apart_but_for_ends(curves)
    return [_chain(group, frame) for group in _hanging(curves)]


def _hanging(curves: Sequence[tuple[str, Curve2]]) -> list[list[tuple[str, Curve2]]]:
    """Curves in groups that share ends."""
    groups: list[list[tuple[str, Curve2]]] = []
    for one in curves:
        meets = [g for g in groups if any(_touch(one[1], other) for _, other in g)]
        groups = [g for g in groups if g not in meets]
        groups.append([*(c for g in meets for c in g), one])
    return groups


def _apart_but_for_ends(curves: Sequence[tuple[str, Curve2]]) -> None:
    """That curves meet end to end and nowhere else: a surface would pass through itself there."""
    for id, curve in curves:
        loop = self_crossing(curve)
        if loop:
            raise KernelTrouble(f"the curve {id} crosses itself near {_words(loop[0])}")
    boxes = [_box(c) for _, c in curves]
    for (i, (a, one)), (j, (b, two)) in itertools.combinations(enumerate(curves), 2):
        if any(
            boxes[i][k] > boxes[j][k + 2] + JOIN or boxes[j][k] > boxes[i][k + 2] + JOIN
            for k in (0, 1)
        ):
            continue
        for _, _, at in crossings(one, two):
            if not all(any(math.dist(at, e) < JOIN for e in c.ends) for c in (one, two)):
                raise KernelTrouble(
                    f"the curves {a} and {b} meet near {_words(at)} other than end to end: a "
                    "surface would pass through itself there"
                )
        if all(_on(two, p) for p in _along(one, 5)[1:-1]) or all(
            _on(one, p) for p in _along(two, 5)[1:-1]
        ):
            raise KernelTrouble(f"the curves {a} and {b} lie on each other")


def _words(p: Pair) -> str:
    return f"({p[0]:.1f}, {p[1]:.1f})"


def _box(curve: Curve2) -> tuple[float, float, float, float]:
    """Low and high in x and y, a little more than the curve: of chords and their bulge."""
    points = curve.points(0.05)
    xs, ys = [p[0] for p in points], [p[1] for p in points]
    room = 0.01 * (max(xs) - min(xs) + max(ys) - min(ys))
    return min(xs) - room, min(ys) - room, max(xs) + room, max(ys) + room


def _on(curve: Curve2, p: Pair) -> bool:
    return (
        math.dist(p, curve.at(min(max(curve.parameter(p), curve.range[0]), curve.range[1]))) < JOIN
    )


def _ends(curve: Curve2) -> tuple[Pair, ...]:
    a, b = curve.ends
    return () if math.dist(a, b) < JOIN else (a, b)


def _touch(a: Curve2, b: Curve2) -> bool:
    return any(math.dist(p, q) < JOIN for p in _ends(a) for q in _ends(b))


def _chain(curves: Sequence[tuple[str, Curve2]], frame: Frame) -> Chain:
    edges = [(id, e) for id, c in curves if (e := placed_edge(c, frame)) is not None]
    if not edges:
        raise KernelTrouble("the chosen curves have no length")
    for _, curve in curves:
        for p in _ends(curve):
            there = [i for i, c in curves for q in _ends(c) if math.dist(p, q) < JOIN]
            if len(there) > 2:
                raise KernelTrouble(
                    f"the curves {', '.join(dict.fromkeys(there))} branch where they meet: choose "
                    "those that make one run"
                )
    listed = ShapeList()
    for _, e in edges:
        listed.Append(e)
    maker = BRepBuilderAPI_MakeWire()
    maker.Add(listed)
    if not maker.IsDone() or len(edges_of(maker.Wire())) < len(edges):
        raise KernelTrouble("the chosen curves do not hang together end to end")
    wire = maker.Wire()
    middles = [(id, _middle(e)) for id, e in edges]
    roles = {
        Key(e): min(middles, key=lambda m: m[1].Distance(_middle(e)))[0] for e in edges_of(wire)
    }
    return Chain(wire, roles, tuple(curves))


def _middle(edge: TopoDS_Edge) -> gp_Pnt:
    curve = BRepAdaptor_Curve(edge)
    return curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()))


def _bodied(what: str, shapes: Sequence[TopoDS_Shape], named: dict[Key, str], step: str) -> Body:
    whole = shapes[0] if len(shapes) == 1 else compound_of(list(shapes))
    shape = sound(what, whole, "surface")
    names = tuple(named.get(Key(f), face_name(step, "side")) for f in faces_of(shape))
    return Body(shape, names)


def _held(what: str, found: float, wanted: float) -> None:
    """That an area is what it must be by closed form. Raises WitnessTrouble."""
    if abs(found - wanted) > _HAIR * max(wanted, 1.0):
        raise WitnessTrouble(f"{what} has an area of {found:.6g} mm² where it must be {wanted:.6g}")


def extruded(chains: Sequence[Chain], frame: Frame, low: float, high: float, step: str) -> Body:
    """Chains swept straight along z of a frame, from one height to another (mm).

    Each face must have the length of its curve times the height for its area.
    """
    finite(low, high)
    shapes: list[TopoDS_Shape] = []
    named: dict[Key, str] = {}
    z = frame.z
    lift = gp_Trsf()
    lift.SetTranslation(vector(z, low))
    for chain in chains:
        placed = BRepBuilderAPI_Transform(chain.wire, lift, True, False)
        maker = BRepPrimAPI_MakePrism(placed.Shape(), vector(z, high - low))
        for edge in edges_of(chain.wire):
            for f in items(maker.Generated(placed.ModifiedShape(edge))):
                named[Key(f)] = face_name(step, "side", chain.roles[Key(edge)])
                _held("the surface", area_of(TopoDS.Face(f)), length_of(edge) * (high - low))
        shapes.append(maker.Shape())
    return _bodied("the surface", shapes, named, step)


def turned(
    chains: Sequence[Chain], frame: Frame, origin: Pair, way: Pair, start: float, end: float,
    step: str,
) -> Body:  # fmt: skip
    """Chains turned about an axis in their plane, from one angle to another (rad).

    Each face must have the area Pappus gives: the way of its curve's centre times its length.
    """
    finite(*origin, *way, start, end)
    at, tip = frame.out(origin), frame.out((origin[0] + way[0], origin[1] + way[1]))
    axis = gp_Ax1(point(at), direction((tip[0] - at[0], tip[1] - at[1], tip[2] - at[2])))
    whole = end - start > 2 * math.pi - 1e-9
    shapes: list[TopoDS_Shape] = []
    named: dict[Key, str] = {}
    sides = {_side(id, c, origin, way) for chain in chains for id, c in chain.curves}
    if len(sides) > 1 and end - start > math.pi + 1e-9:
        raise KernelTrouble(
            "the curves lie on both sides of the axis: turned by more than half a turn they would "
            "pass through each other"
        )
    for chain in chains:
        turn = gp_Trsf()
        turn.SetRotation(axis, start)
        placed = BRepBuilderAPI_Transform(chain.wire, turn, True, False)
        try:
            maker = (
                BRepPrimAPI_MakeRevol(placed.Shape(), axis)
                if whole else BRepPrimAPI_MakeRevol(placed.Shape(), axis, end - start)
            )  # fmt: skip
            made = maker.Shape()
        except Exception as error:
            raise KernelTrouble("the curves cannot be turned about this axis") from error
        for edge in edges_of(chain.wire):
            for f in items(maker.Generated(placed.ModifiedShape(edge))):
                named[Key(f)] = face_name(step, "side", chain.roles[Key(edge)])
        wanted = sum(_swept(c, origin, way) for _, c in chain.curves) * (end - start)
        _held("the turned surface", sum(area_of(f) for f in faces_of(made)), wanted)
        shapes.append(made)
    return _bodied("the turned surface", shapes, named, step)


def _off(p: Pair, origin: Pair, way: Pair) -> float:
    """Signed distance of a place from an axis in its plane."""
    return ((p[1] - origin[1]) * way[0] - (p[0] - origin[0]) * way[1]) / math.hypot(*way)


def _along(curve: Curve2, count: int) -> list[Pair]:
    first, last = curve.range
    return [curve.at(first + (last - first) * k / count) for k in range(count + 1)]


def _side(id: str, curve: Curve2, origin: Pair, way: Pair) -> bool:
    """On which side of an axis a curve lies. Raises KernelTrouble where it lies on none or both."""
    off = [_off(p, origin, way) for p in _along(curve, 200)]
    if min(off) < -1e-6 and max(off) > 1e-6:
        raise KernelTrouble(f"the curve {id} crosses the axis it turns about")
    if max(abs(v) for v in off) < 1e-6:
        raise KernelTrouble(f"the curve {id} lies on the axis it turns about")
    return max(off) > 1e-6


def _swept(curve: Curve2, origin: Pair, way: Pair) -> float:
    """Area a curve sweeps about an axis per radian: its length times how far its centre is off, by
    chords, once and twice as fine, and what those two lead to (Richardson)."""

    def by_chords(count: int) -> float:
        points = _along(curve, count)
        return sum(
            math.dist(p, q) * abs(_off(((p[0] + q[0]) / 2, (p[1] + q[1]) / 2), origin, way))
            for p, q in itertools.pairwise(points)
        )

    return (4.0 * by_chords(1024) - by_chords(512)) / 3.0


def swept(chains: Sequence[Chain], path: Path, way: Way, step: str) -> Body:
    """Chains, where they lie, taken along a path. Raises KernelTrouble."""
    shapes: list[TopoDS_Shape] = []
    named: dict[Key, str] = {}
    for chain in chains:
        if way.keep == "follow":
            refuse_folds(chain.wire, path)
        skin = swept_skin(chain.wire, chain.roles, path, way, step)
        _meets("the swept surface", skin.shape, [chain.wire])
        named |= {Key(f): n for f, n in skin.named_faces()}
        shapes.append(skin.shape)
    made = _bodied("the swept surface", shapes, named, step)
    uncrossed(made, "the swept surface")
    return made


def lofted(sections: Sequence[Chain], ruled: bool, step: str) -> Body:
    """A surface through sections, all open or all closed, each of one chain. Raises
    KernelTrouble."""
    if len({s.closed for s in sections}) > 1:
        raise KernelTrouble("the sections of a surface are all open or all closed")
    maker = BRepOffsetAPI_ThruSections(False, ruled, 1e-6)
    maker.CheckCompatibility(True)
    for section in sections:
        maker.AddWire(section.wire)
    try:
        maker.Build()
        shape = maker.Shape()
    except Exception as error:
        raise KernelTrouble("no surface goes through these sections") from error
    named: dict[Key, str] = {}
    for edge in edges_of(sections[0].wire):
        made = maker.GeneratedFace(edge)
        if made is not None and not made.IsNull():
            role = sections[0].roles[Key(edge)]
            named |= {Key(f): face_name(step, "side", role) for f in faces_of(made)}
    _meets("the surface", shape, [s.wire for s in sections])
    made = _bodied("the surface", [shape], named, step)
    uncrossed(made, "the surface")
    return made


def _meets(what: str, skin: TopoDS_Shape, wires: Sequence[TopoDS_Wire]) -> None:
    """That a surface goes through the curves it was made of. Raises WitnessTrouble."""
    for wire in wires:
        for edge in edges_of(wire):
            curve = BRepAdaptor_Curve(edge)
            first, last = curve.FirstParameter(), curve.LastParameter()
            for share in (0.02, 0.37, 0.71, 0.98):
                at = curve.Value(first + (last - first) * share)
                vertex = BRepBuilderAPI_MakeVertex(at).Vertex()
                gap = BRepExtrema_DistShapeShape(vertex, skin).Value()
                if gap > 1e-4:
                    raise WitnessTrouble(
                        f"{what} misses the curve it is made of by {gap:.3g} mm near "
                        f"({at.X():.1f}, {at.Y():.1f}, {at.Z():.1f})"
                    )


def parted(body: Body, tool: TopoDS_Shape, new: str, what: str) -> list[Body]:
    """The pieces of a surface cut by faces or a body, with names. Raises KernelTrouble, and
    WitnessTrouble when the pieces together are not the surface."""
    cutter = splitter(body.shape, tool, f"{what}: the surface could not be cut there")
    shape = cutter.Shape()
    names = dict(zip(map(Key, faces_of(shape)), carry([body], cutter, shape, new), strict=True))
    pieces = [
        Body(sound(what, _shell(group), "surface"), tuple(names[Key(f)] for f in group))
        for group in _apart(shape, tool)
    ]
    _held(what, sum(_area(p.shape) for p in pieces), _area(body.shape))
    return pieces


def _area(shape: TopoDS_Shape) -> float:
    return sum(area_of(f) for f in faces_of(shape))


def _shell(faces: Sequence[TopoDS_Face]) -> TopoDS_Shape:
    if len(faces) == 1:
        return faces[0]
    builder, shell = BRep_Builder(), TopoDS_Shell()
    builder.MakeShell(shell)
    for face in faces:
        builder.Add(shell, face)
    return shell


def _apart(shape: TopoDS_Shape, tool: TopoDS_Shape) -> list[list[TopoDS_Face]]:
    """Faces of a cut surface in groups that hang together beside the cut."""
    faces = faces_of(shape)
    index = {Key(f): i for i, f in enumerate(faces)}
    group = list(range(len(faces)))

    def root(i: int) -> int:
        while group[i] != i:
            i = group[i]
        return i

    beside = ancestors(shape, TopAbs_EDGE, TopAbs_FACE)
    for edge in edges_of(shape):
        both = [index[Key(f)] for f in items(beside.FindFromKey(edge))]
        if len(both) > 1 and not _lies_on(edge, tool):
            for other in both[1:]:
                group[root(other)] = root(both[0])
    found: dict[int, list[TopoDS_Face]] = {}
    for i, face in enumerate(faces):
        found.setdefault(root(i), []).append(face)
    return list(found.values())


def _lies_on(edge: TopoDS_Edge, tool: TopoDS_Shape) -> bool:
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    for share in (0.21, 0.5, 0.83):
        vertex = BRepBuilderAPI_MakeVertex(curve.Value(first + (last - first) * share)).Vertex()
        if BRepExtrema_DistShapeShape(vertex, tool).Value() > 1e-6:
            return False
    return True
