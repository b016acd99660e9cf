"""The frame a picked face or edge stands for at the end of a joint."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vireo.core.assembly.pose import Floats
from vireo.core.geometry import Triple, dot, plane_frame, unit
from vireo.core.naming import Pick, Topology, make_pick, resolve
from vireo.core.naming.topology import EdgeInfo
from vireo.core.trouble import Trouble


class EndTrouble(Trouble):
    """A joint end that has no frame, or whose pick is lost."""

    code = "joint_end"


@dataclass(frozen=True)
class EndFrame:
    """Origin (mm) and axes (3x3, columns x, y, z) in the component's own coordinates.

    `outward` says that z points out of material, so that two such ends meet face to face.
    """

    origin: Floats
    axes: Floats
    outward: bool


def _frame(origin: Triple, z: Triple, outward: bool) -> EndFrame:
    frame = plane_frame(origin, z)
    return EndFrame(np.array(origin), frame.matrix, outward)


def _on_axis(origin: Triple, axis: Triple, at: Triple) -> Triple:
    """The foot of `at` on an axis."""
    t = dot(axis, (at[0] - origin[0], at[1] - origin[1], at[2] - origin[2]))
    return (origin[0] + t * axis[0], origin[1] + t * axis[1], origin[2] + t * axis[2])


def end_frame(pick: Pick, topology: Topology) -> EndFrame:
    """Where a pick holds: centre and normal of a flat face, axis of a round one, centre and
    axis of a circular edge, middle and direction of a straight one.

    Raises EndTrouble when the pick is lost (with the best match) or has no axis.
    """
    found = resolve(pick, topology)
    if found.index is None:
        hint = f"; the nearest {pick.kind} is {found.score:.0%} alike" if found.proposal else ""
        raise EndTrouble(f"the picked {pick.kind} is no longer on the part{hint}")
    if pick.kind == "face":
        face = topology.faces[found.index]
        if face.kind == "plane" and face.direction is not None:
            return _frame(face.at, face.direction, True)
        if face.direction is not None and face.kind in ("cylinder", "cone", "torus"):
            axis = _steady(face.direction)
            return _frame(_on_axis(face.origin, axis, face.at), axis, False)
        raise EndTrouble(f"a {face.kind} face gives no axis; pick a flat or round face or an edge")
    if pick.kind == "edge":
        edge = topology.edges[found.index]
        if edge.kind == "circle" and edge.centre is not None and edge.direction is not None:
            out = _outward(edge, topology)
            return _frame(edge.centre, out or _steady(edge.direction), out is not None)
        if edge.kind == "line" and edge.direction is not None:
            return _frame(edge.at, _steady(edge.direction), False)
    raise EndTrouble("this pick gives no axis; pick a flat or round face, or an edge")


def _steady(axis: Triple) -> Triple:
    """An axis has no side of its own: the one pointing along +Z, else +Y, else +X, is taken."""
    a = unit(axis)
    lead = next((c for c in (a[2], a[1], a[0]) if abs(c) > 1e-9), 1.0)
    return a if lead > 0 else (-a[0], -a[1], -a[2])


def _outward(edge: EdgeInfo, topology: Topology) -> Triple | None:
    """The outward normal of a flat face the circle lies in, when there is one."""
    assert edge.direction is not None
    for i in edge.faces:
        face = topology.faces[i]
        if (
            face.kind == "plane"
            and face.direction
            and abs(dot(face.direction, edge.direction)) > 0.9999
        ):
            return face.direction
    return None


def proposed(pick: Pick, topology: Topology) -> Pick | None:
    """The pick to offer in place of a lost one."""
    found = resolve(pick, topology)
    if found.index is not None or found.proposal is None:
        return None
    return make_pick(topology, pick.body, pick.kind, found.proposal)
