"""Corners: corners of flat pieces of a sheet rounded or bevelled; it stays a sheet."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sheeting import changed, corners_of, handed
from vireo.core.quantity import Formula
from vireo.core.sheet.corners import eased_corner


class SheetCornerFields(f.StepFields):
    edges: tuple[Pick, ...] = f.picks(
        "Corners", "edge", "Click the short upright edges where two walls meet"
    )
    form: Literal["round", "bevel"] = f.choice("Form", "round", {"round": "Round", "bevel": "Bevel"})  # fmt: skip
    size: Formula = f.length("Size", "5 mm", above=0, key="r")


@register
class SheetCorner(StepKind[SheetCornerFields]):
    kind = "sheet_corner"
    label = "Corners"
    group = "Sheet"
    icon = "fillet"
    order = 75
    line = "Round or bevel corners of flat pieces; it stays a sheet"
    Fields = SheetCornerFields
    example = """
s = Sketch()
s.box(100, 0, 160, 40)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
sheet = part.bodies[1]
part.sheet_corner("Corners", edges=[sheet.edge_at(100, 0, 0.75), sheet.edge_at(160, 40, 0.75)], size=6)
"""
    deciding = ("size",)

    def build(self, fields: SheetCornerFields, ctx: Context) -> Outcome:
        made, new = {}, set()
        for id, (before, corners) in corners_of(ctx, fields.edges, "edges").items():
            sheet = before.sheet
            for panel, first, second in corners:
                loops = list(sheet.panels[panel].loops)
                # Each corner put in moves those behind it: pieces are found by their names and ends anew.
                n, i = next(
                    (n, i) for n, lp in enumerate(loops) for i, s in enumerate(lp)
                    if s.name == first and lp[(i + 1) % len(lp)].name == second
                )  # fmt: skip
                name = f"{ctx.step}.{first}.{second}"
                loops[n] = eased_corner(loops[n], i, ctx.value("size"), fields.form, name)
                sheet = sheet.with_(replace(sheet.panels[panel], loops=tuple(loops)))
            made[id] = before.with_(sheet)
            new |= changed(before, made[id])
        return handed(ctx, made, new)
