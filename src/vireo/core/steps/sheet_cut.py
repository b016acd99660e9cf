"""Cut sheet: regions of a sketch cut out of a flat piece, or across bends as they lie in the flat."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.profile import outline_of
from vireo.core.kernel.region import combined, loops_of
from vireo.core.panels.loops import Loop
from vireo.core.part.context import Context
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sheeting import changed, handed
from vireo.core.part.trouble import StepTrouble
from vireo.core.sheet.cutting import cut_flat
from vireo.core.sheet.planes import panels_parallel


class SheetCutFields(f.StepFields):
    sketch: str = f.sketch()
    regions: tuple[f.RegionPick, ...] = f.regions("sketch")
    into: tuple[str, ...] = f.bodies("Sheet")
    way: Literal["wall", "flat"] = f.choice(
        "Cut", "wall", {"wall": "This flat piece", "flat": "Across bends, in the flat"}
    )


@register
class SheetCut(StepKind[SheetCutFields]):
    kind = "sheet_cut"
    label = "Cut sheet"
    group = "Sheet"
    icon = "cut"
    order = 70
    line = (
        "Cut regions of a sketch out of a sheet, square to it; across bends as they lie in the flat"
    )
    Fields = SheetCutFields
    example = """
s = Sketch()
s.box(100, 0, 160, 40)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
c = Sketch()
c.circle(c.point(130, 20), 6)
part.sheet_cut("Opening", sketch=part.sketch(drawing=c, plane="XY"))
"""

    def build(self, fields: SheetCutFields, ctx: Context) -> Outcome:
        chosen = ctx.regions(fields.sketch, fields.regions, "regions")
        outline = outline_of(ctx.arrangement(fields.sketch), chosen)
        tool: list[Loop] = []
        for face in outline.faces:
            tool += loops_of(face, outline.roles, ctx.step)
        frame = ctx.sketch(fields.sketch).frame
        ids = list(fields.into) or ctx.sheet_ids()
        if not ids:
            raise StepTrouble("there is no sheet yet: Plate makes one", [f"step:{ctx.step}"])
        found = []
        for id in ids:
            body = ctx.sheet(id)
            for panel, carried, off in panels_parallel(body, frame):
                # Walls are told from those of other cuts by the step.
                seen = [
                    tuple(replace(s, name=f"{ctx.step}.{s.name}") for s in lp)
                    for lp in carried(tool)
                ]
                if combined("common", body.sheet.panels[panel].loops, seen, ctx.step):
                    found.append((abs(off), id, panel, seen))
        if not found:
            raise StepTrouble(
                "the regions lie over no flat piece of a sheet: draw them on the face that is to be cut",
                [f"step:{fields.sketch}"],
            )
        _, id, panel, seen = min(found, key=lambda x: x[0])
        before = ctx.sheet(id)
        through = None if fields.way == "flat" else before.opened
        made = before.with_(cut_flat(before.sheet, panel, seen, ctx.step, through))
        return handed(ctx, {id: made}, changed(before, made))
