"""Joggle: a flat piece of a sheet put aside by a height, by two bends that turn back."""

from __future__ import annotations

import math
from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.panels.loops import SAME
from vireo.core.part.context import Context
from vireo.core.part.lining import LineFields, line_on_sheet, own_radius
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sheeting import changed, handed, staying
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula
from vireo.core.sheet.folding import Fold, folded

_BENDS, _RADIUS = own_radius()


class JoggleFields(LineFields):
    height: Formula = f.length("Height", "6 mm", above=0)
    measure: Literal["face", "outer", "inner"] = f.choice(
        "Measured", "face",
        {"face": "Face to face", "outer": "Over both", "inner": "Between both"},
    )  # fmt: skip
    angle: Formula = f.quantity("angle", "Angle", "60 deg", above=0, most=120)
    flip: bool = f.toggle("Other way")
    other: bool = f.toggle("Put the other side aside")
    bends: Literal["sheet", "own"] = _BENDS
    radius: Formula = _RADIUS


@register
class Joggle(StepKind[JoggleFields]):
    kind = "sheet_joggle"
    label = "Joggle"
    group = "Sheet"
    icon = "joggle"
    order = 60
    line = "Put a flat piece aside by a height, by two bends along a line"
    Fields = JoggleFields
    example = """
s = Sketch()
s.box(100, 0, 160, 40)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
l = Sketch()
l.line(l.point(140, -10), l.point(140, 60))
part.sheet_joggle("Joggle", sketch=part.sketch(drawing=l, plane="XY"), height=5, angle=60)
"""
    deciding = ("height",)

    def build(self, fields: JoggleFields, ctx: Context) -> Outcome:
        line = line_on_sheet(fields, ctx)
        before = ctx.sheet(line.body)
        body, p, d = staying(before, line, fields.other)
        t, angle = body.sheet.thickness, ctx.value("angle")
        radius = ctx.value("radius") if fields.bends == "own" else body.radius
        height = ctx.value("height") + {"face": 0.0, "outer": -t, "inner": t}[fields.measure]
        # Both bends together rise by (2 r + t) (1 - cos a), what is flat between them by its sine.
        bent = (2.0 * radius + t) * (1.0 - math.cos(angle))
        web = (height - bent) / math.sin(angle)
        if web <= SAME:
            raise StepTrouble(
                f"the two bends alone rise by {bent:.4g} mm, and {height:.4g} mm is wanted from face to face: take "
                "a smaller angle or radius, or more height",
                [f"step:{ctx.step}", "field:height"],
            )
        turn = angle if line.up != fields.flip else -angle
        names = [
            (f"{ctx.step}/bend/{line.key}{k}", f"{ctx.step}/panel/{line.key}{k}")
            for k in ("", ".2")
        ]
        first = Fold(*names[0], p, d, turn, radius, "start")
        sheet = folded(body.sheet, line.panel, first, body.rule)
        second = Fold(*names[1], (0.0, web), (1.0, 0.0), -turn, radius, "start")
        made = body.with_(folded(sheet, names[0][1], second, body.rule))
        return handed(ctx, {line.body: made}, changed(before, made))
