"""Thicken: faces given a thickness, as a body or put into others."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.direct import thickened
from vireo.core.kernel.shape import Body
from vireo.core.kernel.sweep import together
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.fitting import fitted
from vireo.core.part.merge import delivered
from vireo.core.part.picking import faces_by_body
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class ThickenFields(f.StepFields):
    faces: tuple[Pick, ...] = f.picks("Faces", "face", "Click faces that hang together", free=True)
    surfaces: tuple[str, ...] = f.bodies("Whole surfaces")
    thickness: Formula = f.length("Thickness", "2 mm", above=0, key="t")
    side: Literal["out", "in"] = f.choice("Side", "out", {"out": "Outwards", "in": "Inwards"})
    result: f.Result = f.result()
    into: tuple[str, ...] = f.into()


@register
class Thicken(StepKind[ThickenFields]):
    kind = "thicken"
    forms = ("solid", "surface")
    label = "Thicken"
    group = "Faces"
    icon = "thicken"
    order = 45
    line = "Give faces a thickness: a lining, a cover, a pad"
    Fields = ThickenFields
    example = """
skin = part.thicken("Skin", faces=[top], thickness=1.5)
"""
    copyable = True
    deciding = ("thickness",)

    def build(self, fields: ThickenFields, ctx: Context) -> Outcome:
        sign = 1.0 if fields.side == "out" else -1.0
        chosen = faces_by_body(fields.faces, "faces", ctx)
        for id in fields.surfaces:
            chosen[id] = list(range(len(ctx.body(id).faces)))
        if not chosen:
            raise StepTrouble("pick faces, or choose surfaces to thicken", ["field:faces"])

        def attempt(t: float) -> Body:
            made = [
                thickened(ctx.body(id), faces, sign * t, ctx.step) for id, faces in chosen.items()
            ]
            return together(made, "thickening")

        tool = fitted(attempt, ctx.value("thickness"), "thickness", "a thickness of")
        return delivered(ctx, fields, tool, "this thickening")
