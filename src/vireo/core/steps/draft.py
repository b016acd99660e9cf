"""Draft: faces leant so that a part leaves its mould."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from vireo.core.geometry import Frame, dot, plane_frame
from vireo.core.kernel.direct import split_faces
from vireo.core.kernel.dress import running_on
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.grow import drafted
from vireo.core.kernel.measure import area_centre
from vireo.core.kernel.shape import Body
from vireo.core.kernel.trim import plane_face
from vireo.core.naming import Pick
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome, StepTrouble
from vireo.core.part.fitting import fitted, put_earlier
from vireo.core.part.kind import StepKind, register
from vireo.core.part.picking import faces_by_body, told
from vireo.core.part.places import PlaneWord, based, plane_of_pick


class DraftFields(f.StepFields):
    faces: tuple[Pick, ...] = f.picks("Faces", "face", "Click faces to lean")
    angle: str = f.quantity("angle", "Angle", "2 deg", least=-80, most=80)
    about: PlaneWord = based("About")
    face: tuple[Pick, ...] = f.picks(
        "Neutral face",
        "face",
        "Click the flat face that keeps its outline",
        when={"about": ["face"]},
    )
    height: str = f.length("Plane shifted by", "0 mm", when={"about": ["!face"]})
    both: bool = f.toggle("Both ways from the plane")
    flip: bool = f.toggle("Pull the other way")


@register
class Draft(StepKind[DraftFields]):
    kind = "draft"
    label = "Draft"
    group = "Faces"
    icon = "draft"
    order = 20
    line = "Lean faces about a neutral plane, narrowing the way they are pulled"
    Fields = DraftFields
    deciding = ("angle",)

    def build(self, fields: DraftFields, ctx: Context) -> Outcome:
        angle = ctx.value("angle")
        if abs(angle) < 1e-9:
            raise StepTrouble("a draft needs an angle", ["field:angle"])
        at, normal = plane_of_pick(fields.about, fields.face, "face", ctx)
        if fields.about != "face":
            shift = ctx.value("height")
            at = (at[0] + shift * normal[0], at[1] + shift * normal[1], at[2] + shift * normal[2])
        else:
            # A face looks out of the body: it is pulled the way the body lies behind it.
            normal = (-normal[0], -normal[1], -normal[2])
        if fields.flip:
            normal = (-normal[0], -normal[1], -normal[2])
        frame = plane_frame(at, normal)
        neutral = Frame(at, frame.x, frame.z)
        outcome = Outcome()
        for id, faces in faces_by_body(fields.faces, "faces", ctx).items():
            lean = _both if fields.both else drafted
            body = ctx.body(id)
            beside = {body.names[i] for i in _beside(body, faces)}
            advice, offers = put_earlier(ctx, beside, ("fillet", "chamfer"))
            outcome.bodies[id] = fitted(
                partial(lean, body, faces, neutral), angle, "angle", "a draft of", "deg",
                advice=advice, offers=offers,
            )  # fmt: skip
            outcome.notes += told(running_on(ctx.body(id), faces), "leant", ctx)
        return outcome


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
        if name.split("/parting.")[0] in names:
            c = area_centre(parted.faces[i])
            rise = dot((c[0] - neutral.origin[0], c[1] - neutral.origin[1],
                        c[2] - neutral.origin[2]), z)  # fmt: skip
            halves[rise > 0].append(i)
    if not halves[True] or not halves[False]:
        raise KernelTrouble("the plane does not part these faces")
    below = {parted.names[i] for i in halves[False]}
    upper = drafted(parted, halves[True], neutral, angle)
    lower = [i for i, n in enumerate(upper.names) if n in below]
    down = Frame(neutral.origin, neutral.x, (-z[0], -z[1], -z[2]))
    return drafted(upper, lower, down, angle)
