"""Fillet: edges rounded, with one radius, with another at some, or varying along them."""

from __future__ import annotations

from functools import partial
from typing import Literal

from vireo.core.kernel.blend import fillet
from vireo.core.naming import Pick
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome
from vireo.core.part.edging import Group, treat_edges
from vireo.core.part.kind import StepKind, register


class FilletFields(f.StepFields):
    edges: tuple[Pick, ...] = f.picks("Edges", "edge", "Click edges to round")
    radius: str = f.length("Radius", "3 mm", above=0, key="R")
    form: Literal["even", "varying"] = f.choice(
        "Along the edge", "even", {"even": "Even", "varying": "Varying"}
    )
    end: str = f.length("Radius at the end", "5 mm", above=0, when={"form": ["varying"]})
    flip: bool = f.toggle("From the other end", when={"form": ["varying"]})
    others: tuple[Pick, ...] = f.picks(
        "Other radius at", "edge", "Click edges with a radius of their own", free=True
    )
    other: str = f.length("Other radius", "1 mm", above=0)


@register
class Fillet(StepKind[FilletFields]):
    kind = "fillet"
    label = "Fillet"
    group = "Edges"
    icon = "fillet"
    line = "Round edges and all that runs on smoothly from them"
    Fields = FilletFields
    deciding = ("radius",)

    def build(self, fields: FilletFields, ctx: Context) -> Outcome:
        radius = ctx.value("radius")
        groups = [Group("edges", fields.edges)]
        if fields.others:
            groups.append(Group("others", fields.others, ctx.value("other") / radius))
        grow = ctx.value("end") / radius if fields.form == "varying" else 1.0
        treat = partial(fillet, grow=grow, flip=fields.flip)
        return treat_edges(ctx, groups, radius, treat, "Fillet", "radius")
