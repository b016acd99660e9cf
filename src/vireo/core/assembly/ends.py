"""The frame a picked face, edge or corner stands for at the end of a joint."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np

from vireo.core.declared.joint import EndFrame, EndTrouble, Nature
from vireo.core.geometry import Frame, Triple, dot, plane_frame, unit
from vireo.core.naming import Pick, Topology, make_pick, resolve
from vireo.core.naming.topology import EdgeInfo, FaceInfo

__all__ = [
    "EndFrame", "EndTrouble", "alike", "datum_frame", "end_frame", "middle", "proposed",
]  # fmt: skip


def _frame(
    origin: Triple, z: Triple, outward: bool, nature: Nature, radius: float = 0.0
) -> EndFrame:
    frame = plane_frame(origin, z)
    return EndFrame(np.array(origin), frame.matrix, outward, nature, radius)


def _on_axis(origin: Triple, axis: Triple, at: Triple) -> Triple:
    """The foot of `at` on an axis."""
    t = dot(axis, (at[0] - origin[0], at[1] - origin[1], at[2] - origin[2]))
    return (origin[0] + t * axis[0], origin[1] + t * axis[1], origin[2] + t * axis[2])


def end_frame(pick: Pick, topology: Topology) -> EndFrame:
    """Where a pick holds: centre and normal of a flat face, axis of a round one, middle of a ball,
    centre and axis of a circular edge, middle and direction of a straight one, a corner itself.

    Raises EndTrouble when the pick is lost (with the best match) or stands for none of these.
    """
    found = resolve(pick, topology)
    if found.index is None:
        hint = f"; the nearest {pick.kind} is {found.score:.0%} alike" if found.proposal else ""
        raise EndTrouble(f"the picked {pick.kind} is no longer on the part{hint}")
    if pick.kind == "vertex":
        return _frame(topology.vertices[found.index].at, (0.0, 0.0, 1.0), False, "point")
    if pick.kind == "edge":
        return _of_edge(topology.edges[found.index], topology)
    return _of_face(topology.faces[found.index])


def _of_face(face: FaceInfo) -> EndFrame:
    radius = (face.radius or 0.0) * (-1 if face.hollow else 1)
    if face.kind == "plane" and face.direction is not None:
        return _frame(face.at, face.direction, True, "plane")
    if face.kind == "sphere":
        return _frame(face.origin, (0.0, 0.0, 1.0), False, "point", radius)
    if face.direction is not None and face.kind in ("cylinder", "cone", "torus"):
        axis = _steady(face.direction)
        at = _on_axis(face.origin, axis, face.at)
        # Only a cylinder touches along its length at one distance from its axis.
        return _frame(at, axis, False, "axis", radius if face.kind == "cylinder" else 0.0)
    raise EndTrouble(f"a {face.kind} face gives no axis; pick a flat or round face or an edge")


def _of_edge(edge: EdgeInfo, topology: Topology) -> EndFrame:
    if edge.kind == "circle" and edge.centre is not None and edge.direction is not None:
        out = _outward(edge, topology)
        axis = out or _steady(edge.direction)
        return _frame(edge.centre, axis, out is not None, "axis")
    if edge.kind == "line" and edge.direction is not None:
        return _frame(edge.at, _steady(edge.direction), False, "axis")
    # Where it runs is asked of the part itself.
    return _frame(edge.at, (0.0, 0.0, 1.0), False, "curve")


def datum_frame(form: str, frame: Frame) -> EndFrame:
    """What a datum of a part is to a joint. A port and a plane face along z, as faces do."""
    nature: Nature = {"plane": "plane", "axis": "axis", "point": "point"}.get(form, "frame")  # type: ignore[assignment]
    return EndFrame(np.array(frame.origin), frame.matrix, form in ("port", "plane"), nature)


def alike(pick: Pick, topology: Topology) -> list[EndFrame]:
    """All other round edges or faces of the part that are as large and look the same way as the
    picked one, in the order of their names. Raises EndTrouble when the pick is lost."""
    found = resolve(pick, topology)
    if found.index is None:
        raise EndTrouble(f"the picked {pick.kind} is no longer on the part")
    if pick.kind == "face":
        faces = topology.faces
        mine = _of_face(faces[found.index])
        others = [
            (f.name, _of_face(f)) for i, f in enumerate(faces)
            if i != found.index and f.kind == faces[found.index].kind and f.kind == "cylinder"
        ]  # fmt: skip
    elif pick.kind == "edge":
        edges = topology.edges
        one = edges[found.index]
        mine = _of_edge(one, topology)
        if one.kind != "circle":
            return []
        others = [
            (" ".join(topology.faces[k].name for k in e.faces), _of_edge(e, topology))
            for i, e in enumerate(edges)
            if i != found.index and e.kind == "circle" and e.closed == one.closed
            and _bores(e, topology) == _bores(one, topology)
            and abs((e.radius or 0.0) - (one.radius or 0.0)) < 1e-6 * (one.radius or 1.0)
        ]  # fmt: skip
    else:
        return []
    return [
        frame for _, frame in sorted(others, key=lambda x: _counted(x[0]))
        if abs(frame.radius - mine.radius) < 1e-6 * max(abs(mine.radius), 1.0)
        and frame.outward == mine.outward
        and float(frame.axes[:, 2] @ mine.axes[:, 2]) > 1 - 1e-9
    ]  # fmt: skip


def _bores(edge: EdgeInfo, topology: Topology) -> bool:
    """Whether an edge is the mouth of a bore."""
    return any(
        topology.faces[i].kind == "cylinder" and topology.faces[i].hollow for i in edge.faces
    )


def _counted(name: str) -> list[tuple[int, str]]:
    """Sorts 2 before 10."""
    return [(int(w), "") if w.isdigit() else (-1, w) for w in re.split(r"(\d+)", name)]


def middle(one: EndFrame, other: EndFrame) -> EndFrame:
    """The middle plane of two parallel flat faces, with their distance as its width.

    Raises EndTrouble for faces that are not flat, not parallel or in one plane.
    """
    if one.nature != "plane" or other.nature != "plane":
        raise EndTrouble("the middle is taken of two flat faces")
    z = one.axes[:, 2]
    if abs(float(z @ other.axes[:, 2])) < 1 - 1e-9:
        raise EndTrouble("the two faces are not parallel: there is no middle between them")
    across = float(z @ (other.origin - one.origin))
    if abs(across) < 1e-9:
        raise EndTrouble("the two faces lie in one plane: there is nothing between them")
    # Walls look at each other, the faces of a tab away from each other.
    return replace(one, origin=one.origin + 0.5 * across * z, outward=False, width=-across)


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
