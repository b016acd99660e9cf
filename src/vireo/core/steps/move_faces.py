"""Move faces: a boss, a pocket, a bore taken elsewhere on its body."""

from __future__ import annotations

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.direct import moved_faces
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.motion import MotionFields, motion_of
from vireo.core.part.picking import faces_by_body
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble


class MoveFacesFields(MotionFields):
    faces: tuple[Pick, ...] = f.picks(
        "Faces", "face", "Click all faces of a boss, a pocket or a bore"
    )


@register
class MoveFaces(StepKind[MoveFacesFields]):
    kind = "move_faces"
    label = "Move faces"
    group = "Faces"
    icon = "moveFaces"
    order = 35
    line = "Move flat faces, or take a boss, a pocket or a bore elsewhere; the body follows"
    Fields = MoveFacesFields
    example = """
higher = part.move_faces("Higher", faces=[top], z=2)
"""

    def build(self, fields: MoveFacesFields, ctx: Context) -> Outcome:
        move = motion_of(fields, ctx)
        outcome = Outcome()
        for id, faces in faces_by_body(fields.faces, "faces", ctx).items():
            try:
                outcome.bodies[id] = moved_faces(ctx.body(id), faces, move, ctx.step)
            except KernelTrouble as error:
                raise StepTrouble(
                    f"these faces cannot be moved: {error.text}; onto another face one is put with "
                    "Replace face",
                    ["field:faces"],
                ) from error
        return outcome
