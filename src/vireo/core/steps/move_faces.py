"""Move faces: a boss, a pocket, a bore taken elsewhere on its body."""

from __future__ import annotations

from vireo.core.kernel.direct import moved_faces
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.transform import Move
from vireo.core.naming import Pick
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome, StepTrouble
from vireo.core.part.kind import StepKind, register
from vireo.core.part.picking import faces_by_body
from vireo.core.part.places import WayWord, along, line_of

_AXIS, _AXIS_PICK = along("Turned about", "axis", "Z")


class MoveFacesFields(f.StepFields):
    faces: tuple[Pick, ...] = f.picks(
        "Faces", "face", "Click all faces of a boss, a pocket or a bore"
    )
    x: str = f.length("X", "0 mm")
    y: str = f.length("Y", "0 mm")
    z: str = f.length("Z", "0 mm")
    angle: str = f.quantity("angle", "Turn", "0 deg", least=-360, most=360)
    axis: WayWord = _AXIS
    axis_pick: tuple[Pick, ...] = _AXIS_PICK


@register
class MoveFaces(StepKind[MoveFacesFields]):
    kind = "move_faces"
    label = "Move faces"
    group = "Faces"
    icon = "moveFaces"
    line = "Move flat faces, or take a boss, a pocket or a bore elsewhere; the body follows"
    Fields = MoveFacesFields

    def build(self, fields: MoveFacesFields, ctx: Context) -> Outcome:
        move = Move.shift((ctx.value("x"), ctx.value("y"), ctx.value("z")))
        if abs(angle := ctx.value("angle")) > 1e-12:
            at, way = line_of(fields.axis, fields.axis_pick, "axis_pick", ctx)
            move = Move.turn(at, way, angle).then(move)
        if move.rests:
            raise StepTrouble("nothing moves: give a shift or an angle")
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
