"""Louvre: a slit whose one side is raised to a hood, to let air through."""

from __future__ import annotations

from vireo.core.curves import Line2
from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.panels.forms import Pressing, arched
from vireo.core.panels.loops import SAME, Loop, line
from vireo.core.part.context import Context
from vireo.core.part.pressing import FormFields, backwards, press
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.profile import curves_of
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class LouvreFields(FormFields):
    sketch: str = f.sketch("Slits")
    chains: tuple[str, ...] = f.curves("sketch", "Along")
    width: Formula = f.length("Reach from the slit", "10 mm", above=0)
    height: Formula = f.length("Height", "4 mm", above=0)
    radius: Formula = f.length("Inner radius", "1.5 mm", least=0, key="r")
    other: bool = f.toggle("Hood on the other side of the slit")


@register
class Louvre(StepKind[LouvreFields]):
    kind = "sheet_louvre"
    label = "Louvre"
    group = "Sheet"
    icon = "louvre"
    order = 78
    line = "Slit a sheet along lines of a sketch and raise one side of each slit to a hood"
    Fields = LouvreFields
    example = """
s = Sketch()
s.box(100, 0, 200, 80)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
c = Sketch()
c.line(c.point(120, 30), c.point(180, 30))
c.line(c.point(120, 50), c.point(180, 50))
part.sheet_louvre("Vents", sketch=part.sketch(drawing=c, plane="XY"), width=10, height=4)
"""
    deciding = ("width", "height")

    def build(self, fields: LouvreFields, ctx: Context) -> Outcome:
        reach, height, radius = (ctx.value(k) for k in ("width", "height", "radius"))
        curves = curves_of(fields.sketch, fields.chains, ctx, "louvre")
        drawn = []
        for id, curve in curves:
            if not isinstance(curve, Line2):
                raise StepTrouble(
                    f"the slit of a louvre is straight, and {id} is not",
                    [f"step:{fields.sketch}", "field:chains"],
                )
            if curve.length <= 2.0 * reach + SAME:
                raise StepTrouble(
                    f"the slit {id} is {curve.length:.4g} mm long, and the round ends of the hood take "
                    f"{2.0 * reach:.4g} mm of it: make it longer, or the hood reach less far",
                    [f"step:{fields.sketch}", "field:width"],
                )  # fmt: skip
            one = (id, (line(curve.a, curve.b, id),))
            drawn.append(backwards(one) if fields.other else one)

        def made(path: Loop, t: float) -> Pressing:
            # Its round ends are within the slit.
            ((a, _), (b, _)) = path[0].a, path[0].b
            straight = (line((a + reach, 0.0), (b - reach, 0.0), path[0].name),)
            return Pressing("louvre", t, arched(t, reach, height, radius), straight, "left")

        return press(ctx, fields.sketch, drawn, fields, made, "louvre")
