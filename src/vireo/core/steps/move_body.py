"""Move bodies: shifted, turned, or copied so."""

from __future__ import annotations

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.transform import carried
from vireo.core.naming.grammar import behind, body_name
from vireo.core.part.context import Context
from vireo.core.part.motion import MotionFields, motion_of
from vireo.core.part.products.outcome import Outcome


class MoveFields(MotionFields):
    bodies: tuple[str, ...] = f.bodies("Bodies")
    copy_: bool = f.toggle("Leave the original")


@register
class MoveBody(StepKind[MoveFields]):
    kind = "move_body"
    forms = ("solid", "surface")
    label = "Move bodies"
    group = "Copy"
    icon = "move"
    order = 60
    line = "Turn and shift bodies, or copies of them"
    Fields = MoveFields
    example = """
turned = part.move_body("Turned", bodies=[body.id], x=5, angle=30)
"""

    def build(self, fields: MoveFields, ctx: Context) -> Outcome:
        move = motion_of(fields, ctx)
        ids = ctx.chosen(fields.bodies, "move")
        outcome = Outcome()
        for id in ids:
            own, mark = id, ""
            if fields.copy_:
                own, mark = body_name(ctx.step, behind(id) if len(ids) > 1 else ""), ctx.step
            outcome.bodies[own] = carried(ctx.body(id), move, mark)
            if (sheet := ctx.sheet_carried(id, move, mark)) is not None:
                outcome.sheets[own] = sheet
        return outcome
