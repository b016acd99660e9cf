"""Extrude: regions of a sketch swept straight: a new body, added, cut away, or the overlap."""

from __future__ import annotations

from typing import Literal

from vireo.core.kernel.boolean import combine
from vireo.core.kernel.grow import prism
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome
from vireo.core.part.kind import StepKind, register
from vireo.core.part.merge import merge, reach_through


class ExtrudeFields(f.StepFields):
    sketch: str = f.sketch()
    regions: tuple[f.RegionPick, ...] = f.regions("sketch")
    reach: Literal["one", "symmetric", "through"] = f.choice(
        "Reach", "one", {"one": "One side", "symmetric": "Both sides", "through": "Through"}
    )
    depth: str = f.length("Depth", "10 mm", above=0, when={"reach": ["one", "symmetric"]})
    flip: bool = f.toggle("Other way", when={"reach": ["one"]})
    result: Literal["new", "add", "cut", "overlap"] = f.choice(
        "Result", "new", {"new": "New body", "add": "Add", "cut": "Cut", "overlap": "Overlap"}
    )
    into: tuple[str, ...] = f.bodies("Into", when={"result": ["add", "cut", "overlap"]})


@register
class Extrude(StepKind[ExtrudeFields]):
    kind = "extrude"
    label = "Extrude"
    group = "Grow"
    icon = "extrude"
    line = "Sweep regions of a sketch straight into a body or a cut"
    Fields = ExtrudeFields
    deciding = ("depth",)

    def build(self, fields: ExtrudeFields, ctx: Context) -> Outcome:
        regions = ctx.regions(fields.sketch, fields.regions, "regions")
        data = ctx.sketch(fields.sketch)
        if fields.reach == "through":
            low, high = reach_through(ctx, fields.into, data.frame)
        else:
            depth = ctx.value("depth")
            low, high = (0.0, depth) if fields.reach == "one" else (-depth / 2, depth / 2)
            if fields.flip and fields.reach == "one":
                low, high = -depth, 0.0
        arrangement = ctx.arrangement(fields.sketch)
        tool = prism(arrangement, regions, data.frame, low, high, ctx.step)
        if fields.result == "new":
            return Outcome(bodies={f"b_{ctx.step}": tool})
        return merge(ctx, fields.result, tool, fields.into, "this extrusion", combine)
