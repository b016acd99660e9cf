"""Draft: faces leant so that a part leaves its mould."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextlib import suppress
from functools import partial
from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame, Triple, dot, opposite, plane_frame
from vireo.core.kernel.direct import split_faces
from vireo.core.kernel.dress import running_on
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.lean import Lean, drafted, leant, off_the_parting
from vireo.core.kernel.measure import area_centre
from vireo.core.kernel.shape import Body
from vireo.core.kernel.trim import plane_face
from vireo.core.naming import Pick
from vireo.core.naming.grammar import whole_of
from vireo.core.part.context import Context
from vireo.core.part.fitting import fitted, put_earlier
from vireo.core.part.picking import faces_by_body, told
from vireo.core.part.places import PlaneWord, WayWord, along, based, line_of, plane_of_pick
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula
from vireo.core.trouble import Offer

_PLANE = {"by": ["plane"]}
_LINE = {"by": ["line"]}
_PULL, _PULL_PICK = along("Pulled along", "pull", "Z", _LINE)


class DraftFields(f.StepFields):
    by: Literal["plane", "line"] = f.choice(
        "About", "plane", {"plane": "A plane", "line": "A parting line"}
    )
    faces: tuple[Pick, ...] = f.picks("Faces", "face", "Click faces to lean", when=_PLANE)
    edges: tuple[Pick, ...] = f.picks(
        "Parting line", "edge", "Click the edges the faces turn about", when=_LINE
    )
    angle: Formula = f.quantity("angle", "Angle", "2 deg", least=-80, most=80)
    about: PlaneWord = based("Plane", when=_PLANE)
    face: tuple[Pick, ...] = f.picks(
        "Neutral face",
        "face",
        "Click the flat face that keeps its outline",
        when={**_PLANE, "about": ["face"]},
    )
    height: Formula = f.length("Plane shifted by", "0 mm", when={**_PLANE, "about": ["!face"]})
    pull: WayWord = _PULL
    way: tuple[Pick, ...] = _PULL_PICK
    both: bool = f.toggle("Both ways from it")
    flip: bool = f.toggle("Pull the other way")


@register
class Draft(StepKind[DraftFields]):
    kind = "draft"
    copyable = True
    works_on = ("faces", "edges")
    label = "Draft"
    group = "Faces"
    icon = "draft"
    order = 20
    line = "Lean faces about a neutral plane or a parting line, narrowing the way they are pulled"
    Fields = DraftFields
    example = """
lean = part.draft("Lean", faces=[body.face_at(30, 0, 10)], about="XY", angle=2)
"""
    deciding = ("angle",)

    def build(self, fields: DraftFields, ctx: Context) -> Outcome:
        angle = ctx.value("angle")
        if abs(angle) < 1e-9:
            raise StepTrouble("a draft needs an angle", ["field:angle"])
        return (
            _about_line(fields, angle, ctx)
            if fields.by == "line"
            else _about_plane(fields, angle, ctx)
        )


def _about_plane(fields: DraftFields, angle: float, ctx: Context) -> Outcome:
    if not fields.faces:
        raise StepTrouble("pick the faces to lean", ["field:faces"])
    at, normal = plane_of_pick(fields.about, fields.face, "face", ctx)
    if fields.about != "face":
        shift = ctx.value("height")
        at = (at[0] + shift * normal[0], at[1] + shift * normal[1], at[2] + shift * normal[2])
    # A face looks out of the body: it is pulled the way the body lies behind it.
    if fields.flip != (fields.about == "face"):
        normal = opposite(normal)
    frame = plane_frame(at, normal)
    neutral = Frame(at, frame.x, frame.z)
    lean = _both if fields.both else drafted
    outcome = Outcome()
    for id, faces in faces_by_body(fields.faces, "faces", ctx).items():
        body = ctx.body(id)
        outcome.bodies[id] = _fitted(partial(lean, body, faces, neutral), body, faces, angle, ctx)
        outcome.notes += told(running_on(body, faces), "leant", ctx)
    return outcome


def _about_line(fields: DraftFields, angle: float, ctx: Context) -> Outcome:
    if not fields.edges:
        raise StepTrouble("pick the edges of the parting line", ["field:edges"])
    _, pull = line_of(fields.pull, fields.way, "way", ctx)
    pull = opposite(pull) if fields.flip else pull
    outcome = Outcome()
    for id, edges in faces_by_body(fields.edges, "edges", ctx).items():
        body = ctx.body(id)
        leans = _leans(body, edges, pull, fields)
        faces = [lean.face for lean in leans]
        outcome.bodies[id] = _fitted(partial(leant, body, leans), body, faces, angle, ctx)
        outcome.notes += told(running_on(body, faces), "leant", ctx)
    return outcome


def _leans(body: Body, edges: Sequence[int], pull: Triple, fields: DraftFields) -> list[Lean]:
    """Raises StepTrouble, with an offer to pull the other way where that works."""
    try:
        return off_the_parting(body, edges, pull, fields.both)
    except KernelTrouble as error:
        offers = []
        with suppress(KernelTrouble):
            off_the_parting(body, edges, opposite(pull), fields.both)
            offers = [Offer(label="Pull the other way", fields={"flip": not fields.flip})]
        raise StepTrouble(error.text, ["field:edges"], offers) from error


def _fitted(
    attempt: Callable[[float], Body], body: Body, faces: Sequence[int], angle: float, ctx: Context
) -> Body:
    beside = {body.names[i] for i in _beside(body, faces)}
    advice, offers = put_earlier(ctx, beside, ("fillet", "chamfer"))
    return fitted(attempt, angle, "angle", "a draft of", "deg", advice=advice, offers=offers)


def _beside(body: Body, faces: Sequence[int]) -> set[int]:
    """Faces that share an edge with some."""
    chosen = set(faces)
    return {i for pair in body.edge_faces if chosen & set(pair) for i in pair} - chosen


def _both(body: Body, faces: Sequence[int], neutral: Frame, angle: float) -> Body:
    """Faces parted where the plane crosses them, each half narrowing away from it."""
    names = {body.names[i] for i in faces}
    z = neutral.z
    parted = split_faces(body, faces, plane_face(neutral), "parting")
    halves: dict[bool, list[int]] = {True: [], False: []}
    for i, name in enumerate(parted.names):
        if whole_of(name, "parting") in names:
            c = area_centre(parted.faces[i])
            rise = dot((c[0] - neutral.origin[0], c[1] - neutral.origin[1],
                        c[2] - neutral.origin[2]), z)  # fmt: skip
            halves[rise > 0].append(i)
    if not halves[True] or not halves[False]:
        raise KernelTrouble("the plane does not part these faces")
    leans = [Lean(i, neutral, z) for i in halves[True]]
    return leant(parted, leans + [Lean(i, neutral, opposite(z)) for i in halves[False]], angle)
