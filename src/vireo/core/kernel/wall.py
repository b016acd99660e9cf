"""Thin walls: bands beside open chains and closed runs of plane curves, as outlines."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

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

from vireo.core.curves import Arc2, Curve2, Line2, Pair
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.profile import JOIN, Outline, arrange, edge_of, outline_of, upward, wires_of
from vireo.core.kernel.shape import Key, edges_of, items

Named = tuple[str, Curve2]


def chains_of(curves: Sequence[Named]) -> list[list[Named]]:
    """Curves grouped into runs that hang together end to end, each in the order of a walk.

    Raises KernelTrouble where three or more ends meet: a wall has to know which way to go.
    """
    closed = [[c] for c in curves if math.dist(*c[1].ends) < JOIN]
    rest = [c for c in curves if math.dist(*c[1].ends) >= JOIN]

    def touching(p: Pair) -> list[Named]:
        return [c for c in rest if min(math.dist(p, e) for e in c[1].ends) < 10 * JOIN]

    for _, c in rest:
        for p in c.ends:
            if len(touching(p)) > 2:
                raise KernelTrouble(
                    f"three curves meet at ({p[0]:.4g}, {p[1]:.4g}): choose which of them the "
                    "wall follows"
                )
    found = closed
    left = {id for id, _ in rest}
    for start in rest:
        if start[0] not in left:
            continue
        run = [start]
        left.discard(start[0])
        for end in (1, 0):  # on from its end, then back from its start
            at = start[1].ends[end]
            while True:
                after = next((c for c in touching(at) if c[0] in left), None)
                if after is None:
                    break
                left.discard(after[0])
                run.insert(len(run) if end else 0, after)
                a, b = after[1].ends
                at = b if math.dist(a, at) < 10 * JOIN else a
        found.append(run)
    return found


def wall(curves: Sequence[Named], left: float, right: float, round_ends: bool) -> Outline:
    """The band from `left` to `right` mm beside each run of the curves.

    Left and right go with the walk along open runs; round closed ones left is inside. Roles are
    ``<curve>/left``, ``<curve>/right``, and ``end/<n>`` for the ends of open runs.
    """
    made = Outline([], {})
    for n, run in enumerate(chains_of(curves)):
        if _is_closed(run):
            band = _closed(run, left, right)
        elif _is_straight(run):
            band = _straight(run, left, right, round_ends, n)
        else:
            band = _open(run, left, right, round_ends, n)
        made.faces.extend(band.faces)
        made.roles.update(band.roles)
    return made


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


def _straight(run: Sequence[Named], left: float, right: float, round_: bool, n: int) -> Outline:
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
        named.append((f"{id}/right", Line2(at(a, -right), at(b, -right))))
        named.append((f"{id}/left", Line2(at(b, left), at(a, left))))
    for end, along, turn in ((1, high, 0.0), (0, low, math.pi)):
        role = f"end/{n}.{end}" if n else f"end/{end}"
        if round_:
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
        return wire, {Key(e): f"{id}/{role}" for id, e in edges}
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
    roles = {Key(made): f"{id}/{role}" for id, e in edges for made in items(maker.Generated(e))}
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


def _open(run: Sequence[Named], left: float, right: float, round_ends: bool, n: int) -> Outline:
    wire, edges = _wire(run)
    sign = _left_sign(wire, edges)
    one, roles = _beside(wire, edges, sign * left, True, "left")
    two, more = _beside(wire, edges, -sign * right, True, "right")
    a0, a1 = _ends(one)
    b0, b1 = _ends(two)
    if _point(a0).Distance(_point(b0)) > _point(a0).Distance(_point(b1)):
        b0, b1 = b1, b0
    caps = [_cap(a0, b0, round_ends, wire, 0), _cap(a1, b1, round_ends, wire, 1)]
    listed = ShapeList()
    for part in (one, two):
        for e in edges_of(part):
            listed.Append(e)
    for cap in caps:
        listed.Append(cap)
    maker = BRepBuilderAPI_MakeWire()
    maker.Add(listed)
    if not maker.IsDone():
        raise KernelTrouble("the wall does not close at its ends")
    rim = maker.Wire()
    face = upward(BRepBuilderAPI_MakeFace(gp_Pln(), rim, True).Face())
    named = {**roles, **more}
    for k, cap in enumerate(caps):
        named[Key(cap)] = f"end/{n}.{k}" if n else f"end/{k}"
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
