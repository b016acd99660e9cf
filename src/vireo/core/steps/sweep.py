"""Sweep: a profile taken along a path."""

from __future__ import annotations

from typing import Literal

from vireo.core.kernel.profile import outline_of
from vireo.core.kernel.sweep import Way, sweep
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome
from vireo.core.part.kind import StepKind, register
from vireo.core.part.merge import delivered
from vireo.core.part.paths import PathFields, path_fields


class SweepFields(PathFields):
    sketch: str = f.sketch("Profile")
    regions: tuple[f.RegionPick, ...] = f.regions("sketch")
    keep: Literal["follow", "upright", "fixed"] = f.choice(
        "Profile turns", "follow",
        {"follow": "With the path", "upright": "Staying upright", "fixed": "Not at all"},
    )  # fmt: skip
    grow: str = f.quantity("number", "Size at the end", "1", above=0.01, most=100)
    result: f.Result = f.result()
    into: tuple[str, ...] = f.into()


@register
class Sweep(StepKind[SweepFields]):
    kind = "sweep"
    label = "Sweep"
    group = "Grow"
    icon = "sweep"
    line = "Take regions of a sketch along a path of another or along edges"
    Fields = SweepFields
    copyable = True

    def build(self, fields: SweepFields, ctx: Context) -> Outcome:
        path = path_fields(fields, ctx)
        chosen = ctx.regions(fields.sketch, fields.regions, "regions")
        outline = outline_of(ctx.arrangement(fields.sketch), chosen)
        data = ctx.sketch(fields.sketch)
        way = Way(fields.corners, fields.keep, grow=ctx.value("grow"))
        tool = sweep(outline, data.frame, path, way, ctx.step)
        return delivered(ctx, fields, tool, "this sweep")
