"""Copies round an axis."""

from __future__ import annotations

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.transform import Move, spread
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.copying import CopyFields, copied, left_in
from vireo.core.part.places import WayWord, along, line_of, whole_number
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula

_AXIS, _AXIS_PICK = along("About", "axis", "Z")


class CircularCopyFields(CopyFields):
    axis: WayWord = _AXIS
    axis_pick: tuple[Pick, ...] = _AXIS_PICK
    count: Formula = f.quantity("number", "Number", "6", least=1, most=1000, key="×")
    angle: Formula = f.quantity("angle", "Spread over", "360 deg", least=-360, most=360)


@register
class CircularCopies(StepKind[CircularCopyFields]):
    kind = "copies_circular"
    forms = ("solid", "surface")
    label = "Copies round an axis"
    group = "Copy"
    icon = "copies_round"
    order = 20
    line = "Steps or bodies spread over an angle; the first is number 1"
    Fields = CircularCopyFields
    example = """
ring = part.copies_circular("Ring", steps=[block], count=4, axis="Z")
"""
    deciding = ("count",)

    def build(self, fields: CircularCopyFields, ctx: Context) -> Outcome:
        n = whole_number(ctx.value("count"), "The number", "count")
        angle = ctx.value("angle")
        if abs(angle) < 1e-9:
            raise StepTrouble("without an angle the copies would lie on one another")
        at, way = line_of(fields.axis, fields.axis_pick, "axis_pick", ctx)
        turn = spread(angle, n)
        moves = [(k + 1, lambda k=k: Move.turn(at, way, k * turn)) for k in range(1, n)]
        return copied(fields, ctx, left_in(fields, moves))
