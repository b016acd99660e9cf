"""Chamfer: edges bevelled by equal lengths."""

from __future__ import annotations

from vireo.core.kernel.blend import chamfer
from vireo.core.naming import Pick
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome
from vireo.core.part.edging import treat_edges
from vireo.core.part.kind import StepKind, register


class ChamferFields(f.StepFields):
    edges: tuple[Pick, ...] = f.picks("Edges", "edge", "Click edges to bevel")
    size: str = f.length("Size", "1 mm", above=0, key="×45°")


@register
class Chamfer(StepKind[ChamferFields]):
    kind = "chamfer"
    label = "Chamfer"
    group = "Edges"
    icon = "chamfer"
    line = "Bevel edges at 45° by one size"
    Fields = ChamferFields
    deciding = ("size",)

    def build(self, fields: ChamferFields, ctx: Context) -> Outcome:
        return treat_edges(ctx, fields.edges, ctx.value("size"), chamfer, "Chamfer", "size")
