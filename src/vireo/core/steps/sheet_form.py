"""Pressed outline: a region of one's own pressed out of a sheet."""

from __future__ import annotations

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.profile import outline_of
from vireo.core.kernel.region import loops_of
from vireo.core.panels.forms import Pressing, walled
from vireo.core.panels.loops import Loop
from vireo.core.part.context import Context
from vireo.core.part.pressing import FormFields, in_arcs, press
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class PressedFormFields(FormFields):
    sketch: str = f.sketch("Outline")
    regions: tuple[f.RegionPick, ...] = f.regions("sketch")
    height: Formula = f.length("Height", "3 mm", above=0)
    angle: Formula = f.quantity("angle", "Wall angle", "60 deg", above=0, most=90)
    radius: Formula = f.length("Inner radius at the sheet", "1.5 mm", least=0, key="r")
    crown: Formula = f.length("Inner radius at the top", "1.5 mm", least=0)


@register
class PressedForm(StepKind[PressedFormFields]):
    kind = "sheet_form"
    label = "Pressed outline"
    group = "Sheet"
    icon = "pressed"
    order = 80
    line = "Press an outline you drew into a sheet: its region stays flat, its walls lean and are rounded"
    Fields = PressedFormFields
    example = """
s = Sketch()
s.box(100, 0, 200, 80)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
c = Sketch()
c.box(130, 25, 170, 55)
part.sheet_form("Seat", sketch=part.sketch(drawing=c, plane="XY"), height=4)
"""
    deciding = ("height",)

    def build(self, fields: PressedFormFields, ctx: Context) -> Outcome:
        height, angle, radius, crown = (
            ctx.value(k) for k in ("height", "angle", "radius", "crown")
        )
        chosen = ctx.regions(fields.sketch, fields.regions, "regions")
        outline = outline_of(ctx.arrangement(fields.sketch), chosen)
        drawn = []
        for face in outline.faces:
            loops = loops_of(face, outline.roles, ctx.step)
            if len(loops) > 1:
                raise StepTrouble(
                    "an outline that is pressed has no holes: cut them afterwards, or press them as another",
                    [f"step:{fields.sketch}", "field:regions"],
                )
            path = in_arcs(loops[0])
            drawn.append((path[0].name, path))

        def made(path: Loop, t: float) -> Pressing:
            return Pressing(
                "pressed outline", t, walled(t, height, radius, crown, angle), path, "ring"
            )

        return press(ctx, fields.sketch, drawn, fields, made, "pressed outline")
