"""Unfold: bends laid flat, to work on the sheet as it lies; Refold bends them again."""

from __future__ import annotations

from dataclasses import replace

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sheeting import BendsFields, bends_chosen, handed, panel_picked
from vireo.core.part.trouble import StepTrouble


class UnfoldFields(BendsFields):
    stays: tuple[Pick, ...] = f.picks(
        "Stays", "face", "Click the flat piece that stays where it is", free=True
    )


@register
class Unfold(StepKind[UnfoldFields]):
    kind = "sheet_unfold"
    label = "Unfold"
    group = "Sheet"
    icon = "unfold"
    order = 85
    line = "Lay bends flat, to cut and draw across them; Refold bends them again"
    Fields = UnfoldFields
    example = """
s = Sketch()
s.box(100, 0, 160, 40)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
sheet = part.bodies[1]
part.sheet_flange("Wall", edges=[sheet.edge_at(130, 0, 1.5)], length=20)
part.sheet_unfold("Laid flat", into=[sheet.id])
"""

    def build(self, fields: UnfoldFields, ctx: Context) -> Outcome:
        id, chosen = bends_chosen(ctx, fields)
        body = ctx.sheet(id)
        wanted = [b for b in chosen or body.sheet.bends if b not in body.opened]
        if not wanted:
            raise StepTrouble(
                "these bends lie flat already"
                if body.sheet.bends
                else "this sheet has no bends yet",
                [f"step:{ctx.step}"],
            )
        if fields.stays:
            body = body.rooted(panel_picked(ctx, fields.stays, "stays", id))
        made = replace(body, opened=(*body.opened, *wanted))
        return handed(ctx, {id: made}, {*made.sheet.panels, *made.sheet.bends})
