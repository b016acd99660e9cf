"""Faces leant so that a body leaves its mould: about a plane, or about the edges of a parting."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle
from OCP.gp import gp_Pln

from vireo.core.geometry import Frame, Triple, cross, dot, opposite, plane_frame, unit
from vireo.core.kernel.dress import smooth_groups
from vireo.core.kernel.gate import KernelTrouble, checked
from vireo.core.kernel.measure import (
    area_centre,
    area_of,
    box_of,
    describe_edge,
    describe_face,
    volume_of,
)
from vireo.core.kernel.place import direction, point
from vireo.core.kernel.shape import Body, Key, faces_of, items
from vireo.core.kernel.witness import budget


class Lean(NamedTuple):
    """A face to lean: it stays where the plane crosses it and narrows along the pull."""

    face: int
    about: Frame
    pull: Triple


def drafted(body: Body, sides: Sequence[int], neutral: Frame, angle: float) -> Body:
    """Faces leant by `angle` (rad) about the neutral plane, narrowing along its z.

    Raises KernelTrouble for faces that cannot lean or an angle that folds them.
    """
    return leant(body, [Lean(i, neutral, neutral.z) for i in sides], angle)


def _within(body: Body, leans: Sequence[Lean], angle: float, change: float) -> None:
    """That leaning faces swept no more than wedges from the plane they turn about, run on by
    half at their borders; faces that run on smoothly lean along. Raises WitnessTrouble."""
    room = 0.0
    alike = {lean.face: lean for lean in leans}
    for group in smooth_groups(body, list(alike)):
        lead = next(alike[i] for i in group if i in alike)
        alike |= {i: lead for i in group if i not in alike}
    for index, lean in alike.items():
        face = body.faces[index]
        o, z = lean.about.origin, lean.about.z
        low, high = box_of(face)
        corners = [(x, y, w) for x in (low[0], high[0]) for y in (low[1], high[1])
                   for w in (low[2], high[2])]  # fmt: skip
        tall = max(abs(sum((c[k] - o[k]) * z[k] for k in range(3))) for c in corners)
        room += 1.5 * area_of(face) * tall * math.tan(abs(angle)) + tall**3 * math.tan(angle) ** 2
    budget("the draft", change, -room, room)


def leant(body: Body, leans: Sequence[Lean], angle: float) -> Body:
    """Faces leant by `angle` (rad), each about its own plane and pull. Names stay.

    Raises KernelTrouble for faces that cannot lean or an angle that folds them.
    """
    maker = BRepOffsetAPI_DraftAngle(body.shape)
    for lean in leans:
        plane = gp_Pln(point(lean.about.origin), direction(lean.about.z))
        maker.Add(body.faces[lean.face], direction(lean.pull), angle, plane)
        if not maker.AddDone():
            kind = describe_face(body.faces[lean.face])[0]
            raise KernelTrouble(
                f"a {kind} face cannot be leant by {math.degrees(abs(angle)):g} deg; flat, "
                "cylindrical and conical ones can, before their edges are rounded"
            )
    try:
        maker.Build()
    except Exception as error:  # the kernel has several kinds for this
        raise KernelTrouble("the leaning faces do not meet") from error
    if not maker.IsDone():
        raise KernelTrouble("the leaning faces do not meet")
    shape = checked("the draft", maker.Shape())
    _within(body, leans, angle, volume_of(shape) - volume_of(body.shape))
    named: dict[Key, str] = {}
    for face, name in body.named_faces():
        made = items(maker.Generated(face)) or items(maker.Modified(face)) or [face]
        for m in made:
            named[Key(m)] = name
    return Body(shape, tuple(named.get(Key(f), "draft") for f in faces_of(shape)))


def off_the_parting(body: Body, edges: Sequence[int], pull: Triple, both: bool) -> list[Lean]:
    """How the faces at the edges of a parting line lean, each about its own edge.

    A face on the side the mould is pulled to narrows along the pull; with `both`, one on the
    other side narrows the other way, else it stays. Flat faces square to the pull stay. Raises
    KernelTrouble for edges a face cannot turn about and for two that differ on one face.
    """
    leans: dict[int, Lean] = {}
    for edge in edges:
        at, about = _pivot(body, edge, pull)
        for face in body.edge_faces[edge]:
            kind, _, way, _ = describe_face(body.faces[face])
            square = kind == "plane" and way is not None and abs(dot(way, pull)) > 1.0 - 1e-9
            if square:
                continue
            if kind != "plane" and abs(dot(about.z, pull)) < 1.0 - 1e-9:
                raise KernelTrouble(
                    f"a {kind} face leans about an edge square to the pull only; this one is not"
                )
            c = area_centre(body.faces[face])
            # About.z is square to the edge, so what counts is how the face lies across it.
            up = dot((c[0] - at[0], c[1] - at[1], c[2] - at[2]), about.z) > 0.0
            if not up and not both:
                continue
            lean = Lean(face, about, pull if up else opposite(pull))
            other = leans.setdefault(face, lean)
            if not _alike(other.about, about):
                raise KernelTrouble(
                    f"the face {body.names[face]} has two parting edges that are not in line: "
                    "split it between them first"
                )
    if not leans:
        side = "at these edges stands along the pull" if both else "lies on the pulled side of them"
        raise KernelTrouble(f"no face {side}")
    return list(leans.values())


def _pivot(body: Body, edge: int, pull: Triple) -> tuple[Triple, Frame]:
    """The middle of an edge, and the plane through it that a face at it turns about."""
    told = describe_edge(body.edges[edge])
    at, way = told["at"], told["direction"]
    assert isinstance(at, tuple)
    if told["kind"] == "line":
        assert isinstance(way, tuple)
        across = cross(way, cross(pull, way))
        if dot(across, across) < 1e-12:
            raise KernelTrouble("an edge along the pull cannot part the mould")
        return at, plane_frame(at, unit(across))
    if told["kind"] == "circle" and isinstance(way, tuple) and abs(dot(way, pull)) > 1.0 - 1e-9:
        return at, plane_frame(at, pull)
    raise KernelTrouble(
        "faces lean about straight edges, and about round ones square to the pull; "
        "split the faces along such first"
    )


def _alike(a: Frame, b: Frame) -> bool:
    """Whether two planes are one, whichever way they look."""
    off = tuple(q - p for p, q in zip(a.origin, b.origin, strict=True))
    return abs(dot(a.z, b.z)) > 1.0 - 1e-9 and abs(dot(a.z, (off[0], off[1], off[2]))) < 1e-6
