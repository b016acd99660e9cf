"""Replace face: a face put onto the surface of another, or onto a plane."""

from __future__ import annotations

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame, plane_frame
from vireo.core.kernel.direct import replaced, surface_of
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.trim import plane_face, shifted
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.places import PlaneWord, based, plane_of_pick
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class ReplaceFields(f.StepFields):
    face: tuple[Pick, ...] = f.picks("Face", "face", "Click the face to replace")
    onto: PlaneWord = based("Onto", "face")
    target: tuple[Pick, ...] = f.picks(
        "Onto the face", "face", "Click the face whose surface it goes onto",
        when={"onto": ["face"]},
    )  # fmt: skip
    shift: Formula = f.length("Plane shifted by", "0 mm", when={"onto": ["!face"]})


@register
class ReplaceFace(StepKind[ReplaceFields]):
    kind = "replace_face"
    label = "Replace face"
    group = "Faces"
    icon = "replaceFace"
    order = 60
    line = "Put a face onto another surface; its neighbours follow"
    Fields = ReplaceFields
    example = """
level = part.replace_face("Level", face=[top], onto="XY", shift=25)
"""

    def build(self, fields: ReplaceFields, ctx: Context) -> Outcome:
        if len(fields.face) != 1:
            raise StepTrouble("pick the one face to replace", ["field:face"])
        index, _ = ctx.find(fields.face[0], "face", fields.face)
        if fields.onto == "face":
            if len(fields.target) != 1:
                raise StepTrouble("pick the face it goes onto", ["field:target"])
            other, _ = ctx.find(fields.target[0], "target", fields.target)
            target = surface_of(ctx.seen(fields.target[0].body), other)
        else:
            at, z = plane_of_pick(fields.onto, (), "onto", ctx)
            d = ctx.value("shift")
            frame = plane_frame(at, z)
            target = shifted(plane_face(Frame(at, frame.x, z)), (d * z[0], d * z[1], d * z[2]))
        body = fields.face[0].body
        try:
            made = replaced(ctx.body(body), index, target, ctx.step)
        except KernelTrouble as error:
            raise StepTrouble(
                f"the face cannot be put there: {error.text}", ["field:face"]
            ) from error
        return Outcome(bodies={body: made})
