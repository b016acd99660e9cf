"""Imported body: the solids of a STEP file kept with the project."""

from __future__ import annotations

from vireo.core.kernel.exchange import read_step
from vireo.core.kernel.gate import checked
from vireo.core.kernel.shape import Body
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome
from vireo.core.part.kind import StepKind, register


class ImportFields(f.StepFields):
    file: str = f.hidden("file")
    source: str = f.hidden("source", "")


@register
class Import(StepKind[ImportFields]):
    kind = "import"
    label = "Import"
    group = "Hidden"
    icon = "import"
    line = "Solids of a STEP file"
    Fields = ImportFields

    def build(self, fields: ImportFields, ctx: Context) -> Outcome:
        bodies = read_step(ctx.blob(fields.file), ctx.step)
        names = [f"b_{ctx.step}"] + [f"b_{ctx.step}_{k}" for k in range(1, len(bodies))]
        found: dict[str, Body | None] = {}
        for name, body in zip(names, bodies, strict=True):
            found[name] = Body(checked("the imported solid", body.shape), body.names)
        return Outcome(bodies=found)

    def caption(self, fields: ImportFields) -> str:
        return fields.source
