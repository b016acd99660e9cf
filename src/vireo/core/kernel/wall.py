"""Thin walls: bands beside open chains and closed runs of plane curves, as outlines."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeOffset
from OCP.collections import List_TopoDS_Shape as ShapeList
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pln, gp_Pnt
from OCP.TopAbs import TopAbs_WIRE
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Vertex, TopoDS_Wire

from vireo.core.curves import Arc2, Curve2, Line2, Pair, crossings, piece, self_crossing
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.locate import inner_point
from vireo.core.kernel.measure import area_of
from vireo.core.kernel.profile import (
    JOIN,
    Outline,
    arrange,
    cells,
    edge_of,
    holds,
    merged,
    outline_of,
    upward,
    wires_of,
)
from vireo.core.kernel.shape import Key, edges_of, items
from vireo.core.naming.grammar import face_name

Named = tuple[str, Curve2]


def chains_of(curves: Sequence[Named], branch: bool = False) -> list[list[Named]]:
    """Curves grouped into runs that hang together end to end, each in the order of a walk.

    Where three or more ends meet a run has to know which way to go: with `branch` it goes on as
    straight as it can and the others end there, else KernelTrouble is raised.
    """
    closed = [[c] for c in curves if math.dist(*c[1].ends) < JOIN]
    rest = [c for c in curves if math.dist(*c[1].ends) >= JOIN]

    def touching(p: Pair) -> list[Named]:
        return [c for c in rest if min(math.dist(p, e) for e in c[1].ends) < 10 * JOIN]

    nodes = [p for _, c in rest for p in c.ends if len(touching(p)) > 2]
    if nodes and not branch:
        x, y = nodes[0]
        raise KernelTrouble(
            f"three curves meet at ({x:.4g}, {y:.4g}): choose which of them to follow"
        )

    def onwards(c: Named, at: Pair) -> list[Named]:
        there = touching(at)
        return there if len(there) <= 2 else _straightest(there, at).get(c[0], [])

    found = closed
    left = {id for id, _ in rest}
    for start in rest:
        if start[0] not in left:
            continue
        run = [start]
        left.discard(start[0])
        for end in (1, 0):  # on from its end, then back from its start
            at, now = start[1].ends[end], start
            while True:
                after = next((c for c in onwards(now, at) if c[0] in left), None)
                if after is None:
                    break
                left.discard(after[0])
                run.insert(len(run) if end else 0, after)
                a, b = after[1].ends
                at, now = (b if math.dist(a, at) < 10 * JOIN else a), after
        found.append(run)
    return found


def _straightest(there: Sequence[Named], at: Pair) -> dict[str, list[Named]]:
    """Who goes on as whom where several curves end: pairs, the straightest first."""

    def away(c: Named) -> Pair:
        way = c[1].tangent_at(at)
        k = math.hypot(*way)
        sign = 1.0 if math.dist(c[1].ends[0], at) < 10 * JOIN else -1.0
        return (sign * way[0] / k, sign * way[1] / k)

    ways = [(c, away(c)) for c in there]
    bends = sorted(
        ((u[0] * v[0] + u[1] * v[1], a, b) for (a, u), (b, v) in itertools.combinations(ways, 2)),
        key=lambda x: (round(x[0], 9), x[1][0], x[2][0]),
    )
    mates: dict[str, list[Named]] = {}
    for _, a, b in bends:
        if a[0] not in mates and b[0] not in mates:
            mates[a[0]], mates[b[0]] = [b], [a]
    return mates


def wall(curves: Sequence[Named], left: float, right: float, round_ends: bool) -> Outline:
    """The band from `left` to `right` mm beside each run of the curves; where bands cross or
    touch they are one.

    Left and right go with the walk along open runs; round closed ones left is inside. Roles are
    ``<curve>/left``, ``<curve>/right``, and ``end/<n>`` for the ends of open runs.
    """
    bands = []
    for n, run in enumerate(chains_of(curves, branch=True)):
        others = [c for _, c in curves if not any(c is own for _, own in run)]
        bands += _bands(run, left, right, _free_ends(run, others) if round_ends else _SQUARE, n)
    return bands[0] if len(bands) == 1 else _joined(bands)


#: Whether the caps at the start and the end of a run are round.
Caps = tuple[bool, bool]
_SQUARE: Caps = (False, False)
#: How often a run whose band meets itself is halved.
_HALVINGS = 6


def _free_ends(run: Sequence[Named], others: Sequence[Curve2]) -> Caps:
    """Which ends of a run lie clear of other curves: only those are rounded, ends that run into
    another wall stop square inside it."""
    first, last = _run_ends(run)
    return tuple(all(_off(p, c) > 10 * JOIN for c in others) for p in (first, last))  # type: ignore[return-value]


def _off(p: Pair, curve: Curve2) -> float:
    low, high = curve.range
    t = min(max(curve.parameter(p), low), high)
    return min(math.dist(p, q) for q in (curve.at(t), *curve.ends))


def _run_ends(run: Sequence[Named]) -> tuple[Pair, Pair]:
    """Where a walk along an open run starts and ends."""
    if len(run) == 1:
        return run[0][1].ends
    return _apart(run[0][1], run[1][1]), _apart(run[-1][1], run[-2][1])


def _apart(c: Curve2, beside: Curve2) -> Pair:
    """The end of a curve that is further from the next one's ends."""
    return max(c.ends, key=lambda p: min(math.dist(p, q) for q in beside.ends))


def _bands(
    run: Sequence[Named], left: float, right: float, caps: Caps, n: int, halved: int = 0
) -> list[Outline]:
    """The band of a run; in pieces that end flush where as a whole it would meet itself."""
    closed = not halved and _is_closed(run)  # cut open, it still ends where it starts
    if halved < _HALVINGS and _meets_itself(run, closed, left + right):
        one, two = _halves(run)
        # Left is that of the first curve as it is drawn: the second half may begin the other way.
        same = _goes_along(run) == _goes_along(two)
        sides = (left, right) if same else (right, left)
        if closed:
            return _bands([*two, *one], *sides, _SQUARE, n, halved + 1)
        return [
            *_bands(one, left, right, (caps[0], False), n, halved + 1),
            *_bands(two, *sides, (False, caps[1]), n, halved + 1),
        ]
    if closed:
        return [_closed(run, left, right)]
    return [(_straight if _is_straight(run) else _open)(run, left, right, caps, n)]


def _goes_along(run: Sequence[Named]) -> bool:
    """Whether the walk along an open run goes along its first curve as that is drawn."""
    if len(run) == 1:
        return True
    return math.dist(_apart(run[0][1], run[1][1]), run[0][1].ends[0]) < 10 * JOIN


def _halves(run: Sequence[Named]) -> tuple[list[Named], list[Named]]:
    """A run cut in the middle of a curve, so that both halves go on flush there."""
    k = (len(run) - 1) // 2
    id, c = run[k]
    low, high = c.range
    parts = [piece(c, low, 0.5 * (low + high)), piece(c, 0.5 * (low + high), high)]
    after = run[k + 1][1] if k + 1 < len(run) else None
    if after is not None and min(math.dist(c.ends[0], p) for p in after.ends) < 10 * JOIN:
        parts.reverse()
    return [*run[:k], (id, parts[0])], [(id, parts[1]), *run[k + 1 :]]


def _meets_itself(run: Sequence[Named], closed: bool, width: float) -> bool:
    """Whether curves of a run that do not follow each other cross or come nearer than the wall
    is wide, or a free one crosses itself."""
    if any(self_crossing(c) for _, c in run):
        return True
    if len(run) < 3:
        return False
    sampled = [np.array([c.at(float(t)) for t in np.linspace(*c.range, 25)]) for _, c in run]
    last = len(run) - 1
    for i, j in itertools.combinations(range(len(run)), 2):
        if j - i == 1 or (closed and (i, j) == (0, last)):
            continue
        if crossings(run[i][1], run[j][1]):
            return True
        gaps = np.linalg.norm(sampled[i][:, None] - sampled[j][None, :], axis=2)
        if float(gaps.min()) < width and _overtaken(run, i, j, width):
            return True
    return False


def _overtaken(run: Sequence[Named], i: int, j: int, width: float) -> bool:
    """Whether two curves come near by turning back, not by a short piece between them."""
    return sum(c.length for _, c in run[i + 1 : j]) > 2.0 * width or j - i > 2


def _joined(bands: Sequence[Outline]) -> Outline:
    """Bands as one outline: cut at their crossings, the pieces that lie in any kept, borders
    between those dropped."""
    edges = [(band.roles.get(Key(e), "side"), e) for band in bands for f in band.faces
             for e in edges_of(f)]  # fmt: skip
    trouble = "the walls could not be joined where they meet"
    pieces, roles = cells(edges, trouble)
    whole = [f for band in bands for f in band.faces]
    kept = [f for f in pieces if any(holds(w, at) for at in [inner_point(f)] for w in whole)]
    faces = merged(kept)
    area = sum(area_of(f) for f in faces)
    if abs(area - sum(area_of(f) for f in kept)) > 1e-6 * max(area, 1.0):
        raise KernelTrouble(trouble)
    return Outline(faces, roles)


def _is_closed(run: Sequence[Named]) -> bool:
    if len(run) == 1:
        return math.dist(*run[0][1].ends) < JOIN
    first, last = run[0][1].ends, run[-1][1].ends
    if len(run) == 2:
        return all(min(math.dist(p, q) for q in last) < 10 * JOIN for p in first)
    return min(math.dist(p, q) for p in first for q in last) < 10 * JOIN


def _is_straight(run: Sequence[Named]) -> bool:
    """Whether a run is lines in one line: the kernel finds no plane to move it in."""
    first = run[0][1]
    if not all(isinstance(c, Line2) for _, c in run):
        return False
    way = (first.ends[1][0] - first.ends[0][0], first.ends[1][1] - first.ends[0][1])
    return all(
        abs(way[0] * (p[1] - first.ends[0][1]) - way[1] * (p[0] - first.ends[0][0]))
        < 10 * JOIN * math.hypot(*way)
        for _, c in run
        for p in c.ends
    )


def _straight(run: Sequence[Named], left: float, right: float, caps: Caps, n: int) -> Outline:
    (x0, y0), (x1, y1) = run[0][1].ends
    k = math.hypot(x1 - x0, y1 - y0)
    ux, uy = (x1 - x0) / k, (y1 - y0) / k
    places = sorted({round((p[0] - x0) * ux + (p[1] - y0) * uy, 9) for _, c in run for p in c.ends})

    def at(along: float, across: float) -> Pair:
        return (x0 + along * ux - across * uy, y0 + along * uy + across * ux)

    def owner(a: float, b: float) -> str:
        middle = at(0.5 * (a + b), 0.0)
        return min(run, key=lambda c: abs(c[1].parameter(middle) - 0.5))[0]

    low, high = places[0], places[-1]
    named: list[tuple[str, Curve2]] = []
    for a, b in itertools.pairwise(places):
        id = owner(a, b)
        named.append((face_name(id, "right"), Line2(at(a, -right), at(b, -right))))
        named.append((face_name(id, "left"), Line2(at(b, left), at(a, left))))
    for end, along, turn in ((1, high, 0.0), (0, low, math.pi)):
        role = face_name("end", f"{n}.{end}") if n else face_name("end", end)
        first = math.dist(at(along, 0.0), _run_ends(run)[0]) < 10 * JOIN
        if caps[0 if first else 1]:
            centre = at(along, 0.5 * (left - right))
            start = math.atan2(uy, ux) - 0.5 * math.pi + turn
            named.append((role, Arc2(centre, 0.5 * (left + right), start, start + math.pi)))
        else:
            named.append((role, Line2(at(along, -right), at(along, left))))
    found = arrange(tuple(named))
    return outline_of(found, list(found.regions))


def _wire(run: Sequence[Named]) -> tuple[TopoDS_Wire, list[tuple[str, TopoDS_Edge]]]:
    """The run as a wire, with its edges as they lie in it."""
    listed = ShapeList()
    own = []
    for id, curve in run:
        edge = edge_of(curve)
        assert edge is not None
        listed.Append(edge)
        own.append((id, edge))
    maker = BRepBuilderAPI_MakeWire()
    maker.Add(listed)
    if not maker.IsDone():
        raise KernelTrouble("the curves of the wall do not make one run")
    wire = maker.Wire()
    if len(own) == 1:
        return wire, [(own[0][0], edges_of(wire)[0])]
    # The wire has edges of its own, sharing vertices: told apart by their middles.
    inside = []
    for edge in edges_of(wire):
        p = _middle(edge)
        id = min(own, key=lambda o: _middle(o[1]).Distance(p))[0]
        inside.append((id, edge))
    return wire, inside


def _middle(edge: TopoDS_Edge) -> gp_Pnt:
    c = BRepAdaptor_Curve(edge)
    return c.Value(0.5 * (c.FirstParameter() + c.LastParameter()))


def _beside(
    wire: TopoDS_Wire, edges: Sequence[tuple[str, TopoDS_Edge]], by: float, open_: bool, role: str
) -> tuple[TopoDS_Wire, dict[Key, str]]:
    """The wire moved sideways; for open ones to the left of the walk, round closed ones outwards."""
    if abs(by) < 1e-9:
        return wire, {Key(e): face_name(id, role) for id, e in edges}
    maker = BRepOffsetAPI_MakeOffset(wire, GeomAbs_JoinType.GeomAbs_Intersection, open_)
    maker.Perform(by)
    shape = maker.Shape() if maker.IsDone() else None
    wires = []
    if shape is not None and not shape.IsNull():
        walk = TopExp_Explorer(shape, TopAbs_WIRE)
        while walk.More():
            wires.append(TopoDS.Wire(walk.Current()))
            walk.Next()
    if len(wires) != 1:
        raise KernelTrouble(f"a wall {abs(by):g} mm to this side does not fit inside the bends")
    roles = {
        Key(made): face_name(id, role) for id, e in edges for made in items(maker.Generated(e))
    }
    return wires[0], roles


def _closed(run: Sequence[Named], left: float, right: float) -> Outline:
    wire, edges = _wire(run)
    outer, roles = _beside(wire, edges, right, False, "right")
    inner, more = _beside(wire, edges, -left, False, "left")
    face = BRepBuilderAPI_MakeFace(gp_Pln(), outer, True)
    made = upward(face.Face())
    turned = BRepBuilderAPI_MakeFace(gp_Pln(), inner, True)
    hole = upward(turned.Face())
    cut = BRepBuilderAPI_MakeFace(made)
    for edge_wire in wires_of(hole):
        cut.Add(TopoDS.Wire(edge_wire.Reversed()))
    if not cut.IsDone():
        raise KernelTrouble("the wall does not close round its run")
    return Outline([cut.Face()], {**roles, **more})


def _ends(wire: TopoDS_Wire) -> tuple[TopoDS_Vertex, TopoDS_Vertex]:
    first, last = TopoDS_Vertex(), TopoDS_Vertex()
    TopExp.Vertices_s(wire, first, last)
    return first, last


def _point(v: TopoDS_Vertex) -> gp_Pnt:
    return BRep_Tool.Pnt_s(v)


def _open(run: Sequence[Named], left: float, right: float, caps: Caps, n: int) -> Outline:
    wire, edges = _wire(run)
    sign = _left_sign(wire, edges)
    one, roles = _beside(wire, edges, sign * left, True, "left")
    two, more = _beside(wire, edges, -sign * right, True, "right")
    a0, a1 = _ends(one)
    b0, b1 = _ends(two)
    if _point(a0).Distance(_point(b0)) > _point(a0).Distance(_point(b1)):
        b0, b1 = b1, b0
    start = gp_Pnt(*_run_ends(run)[0], 0.0)
    turned = _point(_ends(wire)[0]).Distance(start) > 10 * JOIN
    first, last = caps[::-1] if turned else caps
    closing = [_cap(a0, b0, first, wire, 0), _cap(a1, b1, last, wire, 1)]
    listed = ShapeList()
    for part in (one, two):
        for e in edges_of(part):
            listed.Append(e)
    for cap in closing:
        listed.Append(cap)
    maker = BRepBuilderAPI_MakeWire()
    maker.Add(listed)
    if not maker.IsDone():
        raise KernelTrouble("the wall does not close at its ends")
    rim = maker.Wire()
    face = upward(BRepBuilderAPI_MakeFace(gp_Pln(), rim, True).Face())
    named = {**roles, **more}
    for k, cap in enumerate(closing):
        named[Key(cap)] = face_name("end", f"{n}.{k}") if n else face_name("end", k)
    # The rim may hold copies of what went in: those are found by where they are.
    known = [(key.shape, role) for key, role in named.items()]
    for e in edges_of(face):
        if Key(e) not in named:
            p = _middle(e)
            near = min(known, key=lambda x: _middle(TopoDS.Edge(x[0])).Distance(p))
            named[Key(e)] = near[1]
    return Outline([face], named)


def _cap(
    a: TopoDS_Vertex, b: TopoDS_Vertex, round_: bool, wire: TopoDS_Wire, end: int
) -> TopoDS_Edge:
    """What closes the band at one end: straight, or half a circle bulging outwards."""
    if not round_:
        return BRepBuilderAPI_MakeEdge(a, b).Edge()
    p, q = _point(a), _point(b)
    middle = gp_Pnt(0.5 * (p.X() + q.X()), 0.5 * (p.Y() + q.Y()), 0.0)
    radius = 0.5 * p.Distance(q)
    own = _point(_ends(wire)[end])
    # Outwards is away from the inside of the run, seen from its end.
    inside = _inward(wire, end)
    for normal in (1.0, -1.0):
        circle = gp_Circ(gp_Ax2(middle, gp_Dir(0, 0, normal)), radius)
        edge = BRepBuilderAPI_MakeEdge(circle, a, b).Edge()
        m = _middle(edge)
        if (m.X() - own.X()) * inside[0] + (m.Y() - own.Y()) * inside[1] < 0:
            return edge
    raise KernelTrouble("the round end of the wall could not be placed")


def _inward(wire: TopoDS_Wire, end: int) -> Pair:
    at = _point(_ends(wire)[end])
    for e in edges_of(wire):
        c = BRepAdaptor_Curve(e)
        for t, sign in ((c.FirstParameter(), 1.0), (c.LastParameter(), -1.0)):
            if c.Value(t).Distance(at) < 10 * JOIN:
                d = c.DN(t, 1)
                return (sign * d.X(), sign * d.Y())
    return (1.0, 0.0)


def _left_sign(wire: TopoDS_Wire, edges: Sequence[tuple[str, TopoDS_Edge]]) -> float:
    """+1 when the kernel's positive side of an open wire is the left of the first curve."""
    probe = BRepOffsetAPI_MakeOffset(wire, GeomAbs_JoinType.GeomAbs_Intersection, True)
    hair = 1e-3
    probe.Perform(hair)
    if not probe.IsDone():
        raise KernelTrouble("the run of the wall could not be moved sideways")
    _, edge = edges[0]
    made = items(probe.Generated(edge))
    if not made:
        return 1.0
    c = BRepAdaptor_Curve(edge)
    t = 0.5 * (c.FirstParameter() + c.LastParameter())
    p, d, q = c.Value(t), c.DN(t, 1), _middle(TopoDS.Edge(made[0]))
    return 1.0 if d.X() * (q.Y() - p.Y()) - d.Y() * (q.X() - p.X()) > 0 else -1.0
