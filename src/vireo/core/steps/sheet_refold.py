"""Refold: bends that were laid flat bent again, with what was done to them since."""

from __future__ import annotations

from dataclasses import replace

from vireo.core.declared.step import StepKind, register
from vireo.core.part.context import Context
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sheeting import BendsFields, bends_chosen, handed
from vireo.core.part.trouble import StepTrouble


@register
class Refold(StepKind[BendsFields]):
    kind = "sheet_refold"
    label = "Refold"
    group = "Sheet"
    icon = "refold"
    order = 90
    line = "Bend again what Unfold laid flat, with what was cut since"
    Fields = BendsFields
    example = """
s = Sketch()
s.box(100, 0, 160, 40)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
sheet = part.bodies[1]
part.sheet_flange("Wall", edges=[sheet.edge_at(130, 0, 1.5)], length=20)
part.sheet_unfold("Laid flat", into=[sheet.id])
part.sheet_refold("Bent again", into=[sheet.id])
"""

    def build(self, fields: BendsFields, ctx: Context) -> Outcome:
        id, chosen = bends_chosen(ctx, fields)
        body = ctx.sheet(id)
        wanted = set(chosen or body.opened)
        if not wanted & set(body.opened):
            raise StepTrouble("none of these bends lies flat", [f"step:{ctx.step}"])
        made = replace(body, opened=tuple(b for b in body.opened if b not in wanted))
        return handed(ctx, {id: made}, {*made.sheet.panels, *made.sheet.bends})
