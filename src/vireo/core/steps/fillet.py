"""Fillet: edges rounded with one radius."""

from __future__ import annotations

from vireo.core.kernel.blend import fillet
from vireo.core.naming import Pick
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome
from vireo.core.part.edging import treat_edges
from vireo.core.part.kind import StepKind, register


class FilletFields(f.StepFields):
    edges: tuple[Pick, ...] = f.picks("Edges", "edge", "Click edges to round")
    radius: str = f.length("Radius", "3 mm", above=0, key="R")


@register
class Fillet(StepKind[FilletFields]):
    kind = "fillet"
    label = "Fillet"
    group = "Edges"
    icon = "fillet"
    line = "Round edges with one radius"
    Fields = FilletFields
    deciding = ("radius",)

    def build(self, fields: FilletFields, ctx: Context) -> Outcome:
        return treat_edges(ctx, fields.edges, ctx.value("radius"), fillet, "Fillet", "radius")
