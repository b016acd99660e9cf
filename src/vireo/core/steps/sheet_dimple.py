"""Dimple: round, arched or with a flat floor, pressed into a sheet."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.panels.forms import Pressing, arched, raised
from vireo.core.panels.loops import Loop
from vireo.core.part.context import Context
from vireo.core.part.pressing import FormFields, at_points, press
from vireo.core.part.products.outcome import Outcome
from vireo.core.quantity import Formula


class DimpleFields(FormFields):
    sketch: str = f.sketch("Place on")
    points: tuple[str, ...] = f.points("sketch")
    shape: Literal["round", "flat"] = f.choice(
        "Floor", "round", {"round": "Arched", "flat": "Flat"}
    )
    width: Formula = f.length("Diameter", "20 mm", above=0, key="Ø")
    height: Formula = f.length("Height", "3 mm", above=0)
    angle: Formula = f.quantity(
        "angle", "Wall angle", "60 deg", above=0, most=90, when={"shape": ["flat"]}
    )
    radius: Formula = f.length("Inner radius", "1.5 mm", least=0, key="r")


@register
class Dimple(StepKind[DimpleFields]):
    kind = "sheet_dimple"
    label = "Dimple"
    group = "Sheet"
    icon = "dimple"
    order = 76
    line = "Press round dimples into a sheet, arched or with a flat floor, at points of a sketch"
    Fields = DimpleFields
    example = """
s = Sketch()
s.box(100, 0, 200, 80)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
c = Sketch()
c.point(130, 40)
c.point(165, 40)
part.sheet_dimple("Feet", sketch=part.sketch(drawing=c, plane="XY"), width=20, height=3, flip=True)
"""
    deciding = ("width", "height")

    def build(self, fields: DimpleFields, ctx: Context) -> Outcome:
        half, height, radius = 0.5 * ctx.value("width"), ctx.value("height"), ctx.value("radius")
        angle = ctx.value("angle") if fields.shape == "flat" else 0.0

        def made(_: Loop, t: float) -> Pressing:
            section = (
                raised(t, half, height, radius, radius, angle)
                if fields.shape == "flat" else arched(t, half, height, radius)
            )  # fmt: skip
            return Pressing("dimple", t, section)

        drawn = at_points(ctx, fields.sketch, fields.points)
        return press(ctx, fields.sketch, drawn, fields, made, "dimple")
