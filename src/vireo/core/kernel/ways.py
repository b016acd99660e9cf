"""An edge with all that runs on smoothly from it, as one way."""

from __future__ import annotations

from collections import defaultdict

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.Geom import Geom_BSplineCurve
from OCP.GeomConvert import GeomConvert, GeomConvert_CompCurveToBSplineCurve
from OCP.TopoDS import TopoDS_Edge

from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.sections import whole_curve
from vireo.core.kernel.shape import Body
from vireo.core.naming import Topology
from vireo.core.ways import Floats, Way

#: Edges run on smoothly where their directions differ by less than this (rad).
_SMOOTH = 2e-3


def way_of(body: Body, topology: Topology, edge: int) -> Way:
    """A picked edge and, from either end, the next that bounds a face with it and goes on the same
    way, as far as that leads or around. Raises KernelTrouble for an edge that cannot be followed."""
    chain, closed = _chain(body, topology, edge)
    maker = GeomConvert_CompCurveToBSplineCurve()
    for index in chain:
        if not maker.Add(
            GeomConvert.CurveToBSplineCurve_s(whole_curve(body.edges[index])), 1e-4, True
        ):
            raise KernelTrouble("the edge cannot be followed: its pieces do not hang together")
    made = maker.BSplineCurve()
    if made.IsPeriodic():
        made.SetNotPeriodic()
    return _plain(made, closed)


def _plain(made: Geom_BSplineCurve, closed: bool) -> Way:
    count = made.NbPoles()
    poles = [made.Pole(i + 1) for i in range(count)]
    knots = [
        made.Knot(i + 1) for i in range(made.NbKnots()) for _ in range(made.Multiplicity(i + 1))
    ]
    return Way(
        int(made.Degree()),
        np.array(knots),
        np.array([[p.X(), p.Y(), p.Z()] for p in poles]),
        np.array([made.Weight(i + 1) for i in range(count)]),
        closed,
    )


def _chain(body: Body, topology: Topology, edge: int) -> tuple[list[int], bool]:
    """Edges in the order they are run through, and whether they come back to where they began."""
    at: dict[int, list[int]] = defaultdict(list)
    for i, e in enumerate(topology.edges):
        if not e.seam and not e.closed:
            for v in e.ends:
                at[v].append(i)
    one = topology.edges[edge]
    if one.closed or len(one.ends) < 2:
        return [edge], True
    before: list[int] = []
    after: list[int] = []
    for k, side in enumerate((before, after)):
        here, corner = edge, one.ends[1 - k]
        while True:
            found = _next(body, topology, at[corner], here, corner)
            if found == edge:
                return [edge, *side] if k else [*reversed(side), edge], True
            if found is None or found in before or found in after:
                break
            side.append(found)
            ends = topology.edges[found].ends
            here, corner = found, ends[1] if ends[0] == corner else ends[0]
    return [*reversed(before), edge, *after], False


def _next(body: Body, topology: Topology, others: list[int], here: int, corner: int) -> int | None:
    """The one edge that goes on where another arrives; None where there is none, or a choice."""
    faces = set(topology.edges[here].faces)
    place = np.array(topology.vertices[corner].at)
    arriving = -_leaving(body.edges[here], place)
    found = [
        i
        for i in others
        if i != here
        and faces & set(topology.edges[i].faces)
        and float(np.linalg.norm(np.cross(arriving, _leaving(body.edges[i], place)))) < _SMOOTH
        and float(arriving @ _leaving(body.edges[i], place)) > 0
    ]
    return found[0] if len(found) == 1 else None


def _leaving(edge: TopoDS_Edge, place: Floats) -> Floats:
    """The direction in which an edge leaves one of its ends."""
    curve = BRepAdaptor_Curve(edge)
    ends = []
    for t, sense in ((curve.FirstParameter(), 1.0), (curve.LastParameter(), -1.0)):
        p, d = curve.Value(t), curve.DN(t, 1)
        way = sense * np.array([d.X(), d.Y(), d.Z()])
        length = float(np.linalg.norm(way))
        off = float(np.linalg.norm(np.array([p.X(), p.Y(), p.Z()]) - place))
        ends.append((off, way / length if length > 1e-12 else np.zeros(3)))
    return min(ends, key=lambda x: x[0])[1]
