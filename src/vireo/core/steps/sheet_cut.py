"""Cut sheet: regions of a sketch cut out of a flat piece, or across bends as they lie in the flat."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.grow import prism
from vireo.core.kernel.profile import Outline, outline_of
from vireo.core.kernel.region import combined, loops_of
from vireo.core.naming.grammar import words_of
from vireo.core.panels.loops import Loop
from vireo.core.part.context import Context
from vireo.core.part.merge import reach_through
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sheeting import changed, handed
from vireo.core.part.trouble import StepTrouble
from vireo.core.sheet.cutting import cut_flat, cut_square
from vireo.core.sheet.planes import panels_parallel
from vireo.core.trouble import BadInput


class SheetCutFields(f.StepFields):
    sketch: str = f.sketch()
    regions: tuple[f.RegionPick, ...] = f.regions("sketch")
    into: tuple[str, ...] = f.bodies("Sheet")
    way: Literal["wall", "flat", "through"] = f.choice(
        "Cut", "wall",
        {"wall": "This flat piece", "flat": "Across bends, in the flat", "through": "Straight through all"},
    )  # fmt: skip
    toward: Literal["both", "ahead", "behind"] = f.choice(
        "Towards", "both", {"both": "Both sides", "ahead": "Above the sketch", "behind": "Below it"},
        when={"way": ["through"]},
    )  # fmt: skip


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
        if fields.way == "through":
            return self._through(fields, ctx, outline)
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

    def _through(self, fields: SheetCutFields, ctx: Context, outline: Outline) -> Outcome:
        """Cut out of every sheet that regions swept straight meet."""
        ids = list(fields.into) or ctx.sheet_ids()
        if not ids:
            raise StepTrouble("there is no sheet yet: Plate makes one", [f"step:{ctx.step}"])
        frame = ctx.sketch(fields.sketch).frame
        low, high = reach_through(ctx, ids, frame)
        low = 0.0 if fields.toward == "ahead" else low
        high = 0.0 if fields.toward == "behind" else high
        if high - low <= 0.0:
            raise StepTrouble("there is no sheet on that side of the sketch", ["field:toward"])
        tool = prism(outline, frame, low, high, ctx.step)
        made, new = {}, set()
        missed: BadInput | None = None

        def name(face: str) -> str:
            """Walls are called after the curve that cut them."""
            return f"{ctx.step}.{words_of(face)[-1]}" if face else ctx.step

        for id in ids:
            before = ctx.sheet(id)
            try:
                made[id] = before.with_(cut_square(before, tool, name))
            except BadInput as trouble:
                if len(ids) == 1 or "meets nothing" not in trouble.text:
                    raise
                missed = trouble
                continue
            new |= changed(before, made[id])
        if not made and missed is not None:
            raise missed
        return handed(ctx, made, new)
