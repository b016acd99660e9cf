"""Bead: a groove pressed into a sheet along lines and arcs, to make it stiff."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.panels.forms import Pressing, arched, pointed, raised
from vireo.core.panels.loops import Loop
from vireo.core.part.context import Context
from vireo.core.part.pressing import FormFields, along, press
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.profile import curves_of
from vireo.core.quantity import Formula


class BeadFields(FormFields):
    sketch: str = f.sketch("Path")
    chains: tuple[str, ...] = f.curves("sketch", "Along")
    shape: Literal["round", "flat", "ridge"] = f.choice(
        "Section", "round", {"round": "Arched", "flat": "Flat top", "ridge": "Ridge"}
    )
    width: Formula = f.length("Width", "12 mm", above=0)
    height: Formula = f.length("Height", "3 mm", above=0)
    angle: Formula = f.quantity(
        "angle", "Wall angle", "60 deg", above=0, most=90, when={"shape": ["flat"]}
    )
    radius: Formula = f.length("Inner radius", "1.5 mm", least=0, key="r")
    ends: Literal["formed", "slit", "open"] = f.choice(
        "Ends", "formed", {"formed": "Round", "slit": "Slit", "open": "Punched open"}
    )


@register
class Bead(StepKind[BeadFields]):
    kind = "sheet_bead"
    label = "Bead"
    group = "Sheet"
    icon = "bead"
    order = 77
    line = "Press stiffening beads into a sheet along lines and arcs of a sketch"
    Fields = BeadFields
    example = """
s = Sketch()
s.box(100, 0, 200, 80)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
c = Sketch()
c.line(c.point(120, 40), c.point(180, 40))
part.sheet_bead("Stiffener", sketch=part.sketch(drawing=c, plane="XY"), width=12, height=3)
"""
    deciding = ("width", "height")

    def build(self, fields: BeadFields, ctx: Context) -> Outcome:
        half, height, radius = 0.5 * ctx.value("width"), ctx.value("height"), ctx.value("radius")
        angle = ctx.value("angle") if fields.shape == "flat" else 0.0

        def made(path: Loop, t: float) -> Pressing:
            section = {
                "round": lambda: arched(t, half, height, radius),
                "flat": lambda: raised(t, half, height, radius, radius, angle),
                "ridge": lambda: pointed(t, half, height, radius, radius),
            }[fields.shape]()
            return Pressing("bead", t, section, path, "both", fields.ends)

        curves = curves_of(fields.sketch, fields.chains, ctx, "bead")
        return press(ctx, fields.sketch, along(curves, "bead"), fields, made, "bead")
