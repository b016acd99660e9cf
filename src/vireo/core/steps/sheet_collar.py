"""Collar: a hole drawn out of the sheet to an upright wall round its bore."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.panels.forms import Pressing, collared
from vireo.core.panels.loops import Loop
from vireo.core.part.context import Context
from vireo.core.part.pressing import FormFields, at_points, press
from vireo.core.part.products.outcome import Outcome
from vireo.core.quantity import Formula
from vireo.core.sheet.forming import piloted


class CollarFields(FormFields):
    sketch: str = f.sketch("Place on")
    points: tuple[str, ...] = f.points("sketch")
    bore: Formula = f.length("Bore", "6 mm", above=0, key="Ø")
    height: Formula = f.length("Height", "3 mm", above=0)
    radius: Formula = f.length("Inner radius", "0.5 mm", least=0, key="r")
    walls: Literal["sheet", "own"] = f.choice(
        "Wall", "own", {"own": "Drawn thinner", "sheet": "As thick as the sheet"}
    )
    wall: Formula = f.length("Wall thickness", "0.8 mm", above=0, key="t", when={"walls": ["own"]})


@register
class Collar(StepKind[CollarFields]):
    kind = "sheet_collar"
    label = "Collar"
    group = "Sheet"
    icon = "collar"
    order = 79
    line = "Draw holes of a sheet out to a collar, for a thread or a bearing; the blank gets the hole it is drawn from"
    Fields = CollarFields
    example = """
s = Sketch()
s.box(100, 0, 200, 80)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
c = Sketch()
c.point(130, 40)
c.point(170, 40)
part.sheet_collar("Screw holes", sketch=part.sketch(drawing=c, plane="XY"), bore=6, height=2)
"""
    deciding = ("bore", "height")

    def build(self, fields: CollarFields, ctx: Context) -> Outcome:
        bore, height, radius = (ctx.value(k) for k in ("bore", "height", "radius"))
        own = ctx.value("wall") if fields.walls == "own" else None

        def made(_: Loop, t: float) -> Pressing:
            return piloted(
                Pressing("collar", t, collared(t, bore, height, radius, t if own is None else own))
            )

        drawn = at_points(ctx, fields.sketch, fields.points)
        return press(ctx, fields.sketch, drawn, fields, made, "collar")
