"""Fold: a flat piece of a sheet bent along a straight line; the blank keeps its size."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.part.context import Context
from vireo.core.part.lining import LineFields, line_on_sheet, own_radius
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sheeting import changed, handed, staying
from vireo.core.quantity import Formula
from vireo.core.sheet.folding import Fold, folded

_BENDS, _RADIUS = own_radius()


class FoldFields(LineFields):
    angle: Formula = f.quantity("angle", "Angle", "90 deg", above=0, most=180)
    flip: bool = f.toggle("Other way")
    other: bool = f.toggle("Turn the other side")
    place: Literal["middle", "start", "end"] = f.choice(
        "The line is", "middle",
        {"middle": "Middle of the bend", "start": "Where it begins", "end": "Where it ends"},
    )  # fmt: skip
    bends: Literal["sheet", "own"] = _BENDS
    radius: Formula = _RADIUS


@register
class SheetFold(StepKind[FoldFields]):
    kind = "sheet_fold"
    label = "Fold"
    group = "Sheet"
    icon = "fold"
    order = 50
    line = "Bend a flat piece along a line drawn on it; the blank keeps its size"
    Fields = FoldFields
    example = """
s = Sketch()
s.box(100, 0, 160, 40)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
l = Sketch()
l.line(l.point(140, -10), l.point(140, 60))
part.sheet_fold("Fold", sketch=part.sketch(drawing=l, plane="XY"), angle=45)
"""
    deciding = ("angle",)

    def build(self, fields: FoldFields, ctx: Context) -> Outcome:
        line = line_on_sheet(fields, ctx)
        before = ctx.sheet(line.body)
        body, p, d = staying(before, line, fields.other)
        angle = ctx.value("angle") if line.up != fields.flip else -ctx.value("angle")
        fold = Fold(
            f"{ctx.step}/bend/{line.key}", f"{ctx.step}/panel/{line.key}", p, d, angle,
            ctx.value("radius") if fields.bends == "own" else body.radius, fields.place,
        )  # fmt: skip
        made = body.with_(folded(body.sheet, line.panel, fold, body.rule))
        return handed(ctx, {line.body: made}, changed(before, made))
