"""Pipe: a round rod or tube along a path."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.sweep import Way, pipe, together
from vireo.core.part.context import Context
from vireo.core.part.fitting import fitted
from vireo.core.part.merge import delivered
from vireo.core.part.paths import PathFields, paths_of
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class PipeFields(PathFields):
    diameter: Formula = f.length("Diameter", "10 mm", above=0, key="Ø")
    hollow: Literal["solid", "hollow"] = f.choice(
        "Inside", "solid", {"solid": "Solid", "hollow": "Hollow"}
    )
    wall: Formula = f.length("Wall", "1 mm", above=0, when={"hollow": ["hollow"]})
    result: f.Result = f.result()
    into: tuple[str, ...] = f.into()


@register
class Pipe(StepKind[PipeFields]):
    kind = "pipe"
    label = "Pipe"
    group = "Grow"
    icon = "pipe"
    order = 35
    line = "A round rod or tube along a sketched path or along edges"
    Fields = PipeFields
    example = """
spring = part.pipe("Spring", along="helix", coil=40, pitch=8, turns=3, diameter=3)
"""
    copyable = True
    deciding = ("diameter",)

    def build(self, fields: PipeFields, ctx: Context) -> Outcome:
        paths = paths_of(fields, ctx)
        wall = ctx.value("wall") if fields.hollow == "hollow" else None
        if wall is not None and 2 * wall >= ctx.value("diameter"):
            raise StepTrouble("the wall leaves no room inside the pipe", ["field:wall"])
        way = Way(corners=fields.corners)
        tool = fitted(
            lambda d: together([pipe(p, d, wall, way, ctx.step) for p in paths], "pipes"),
            ctx.value("diameter"), "diameter",
            "a pipe of",
        )  # fmt: skip
        return delivered(ctx, fields, tool, "this pipe")
