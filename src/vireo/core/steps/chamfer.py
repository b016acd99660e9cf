"""Chamfer: edges bevelled by equal lengths, two lengths, or a length and an angle."""

from __future__ import annotations

import math
from functools import partial
from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.blend import chamfer
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.edging import Group, treat_edges
from vireo.core.part.products.outcome import Outcome
from vireo.core.quantity import Formula


class ChamferFields(f.StepFields):
    edges: tuple[Pick, ...] = f.picks("Edges", "edge", "Click edges to bevel")
    form: Literal["equal", "two", "angle"] = f.choice(
        "Form", "equal", {"equal": "Equal", "two": "Two lengths", "angle": "Angle"}
    )
    size: Formula = f.length("Size", "1 mm", above=0, key="×45°")
    second: Formula = f.length("Other length", "2 mm", above=0, when={"form": ["two"]})
    angle: Formula = f.quantity(
        "angle", "Angle", "30 deg", above=0, most=89, when={"form": ["angle"]}
    )
    flip: bool = f.toggle("Other side first", when={"form": ["two", "angle"]})


@register
class Chamfer(StepKind[ChamferFields]):
    kind = "chamfer"
    copyable = True
    works_on = ("edges", "more")
    label = "Chamfer"
    group = "Edges"
    icon = "chamfer"
    order = 20
    line = "Bevel edges: equal, two lengths, or a length and an angle"
    Fields = ChamferFields
    example = """
bevel = part.chamfer("Bevel", edges=[rim], form="angle", size=1.5, angle=30)
"""
    deciding = ("size",)

    def build(self, fields: ChamferFields, ctx: Context) -> Outcome:
        size = ctx.value("size")
        ratio = 1.0
        if fields.form == "two":
            ratio = ctx.value("second") / size
        elif fields.form == "angle":
            ratio = math.tan(ctx.value("angle"))
        treat = partial(chamfer, ratio=ratio, flip=fields.flip)
        return treat_edges(ctx, [Group("edges", fields.edges)], size, treat, "Chamfer", "size")
