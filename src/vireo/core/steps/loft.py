"""Loft: a skin through sections of several sketches."""

from __future__ import annotations

from typing import Literal

from vireo.core.kernel.profile import outline_of
from vireo.core.kernel.sweep import Section, loft
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome, StepTrouble
from vireo.core.part.kind import StepKind, register
from vireo.core.part.merge import delivered


class LoftFields(f.StepFields):
    sections: tuple[str, ...] = f.sketches("Through", "Sketches in their order, first to last")
    ruled: Literal["smooth", "ruled"] = f.choice(
        "Between them", "smooth", {"smooth": "Smooth", "ruled": "Straight"}
    )
    closed: bool = f.toggle("Close the ring")
    result: f.Result = f.result()
    into: tuple[str, ...] = f.into()


@register
class Loft(StepKind[LoftFields]):
    kind = "loft"
    label = "Loft"
    group = "Grow"
    icon = "loft"
    line = "A body through sections of several sketches; a lone point ends it in a tip"
    Fields = LoftFields
    copyable = True

    def build(self, fields: LoftFields, ctx: Context) -> Outcome:
        if len(fields.sections) < (3 if fields.closed else 2):
            least = "three" if fields.closed else "two"
            raise StepTrouble(f"choose {least} sketches at least", ["field:sections"])
        sections: list[Section] = []
        last = len(fields.sections) - 1
        for n, id in enumerate(fields.sections):
            data = ctx.sketch(id)
            regions = [r for r in ctx.arrangement(id).regions if r.depth == 0]
            if not regions and len(data.points) == 1 and n in (0, last) and not fields.closed:
                sections.append(Section(tip=data.frame.out(next(iter(data.points.values())))))
                continue
            if len(regions) != 1:
                raise StepTrouble(
                    f"section {n + 1} ({data.name}) has {len(regions) or 'no'} regions; a section is one "
                    "closed outline" + (", or a lone point" if n in (0, last) else ""),
                    [f"step:{id}"],
                )
            sections.append(Section(outline_of(ctx.arrangement(id), regions), data.frame))
        tool = loft(sections, fields.ruled == "ruled", fields.closed, ctx.step)
        return delivered(ctx, fields, tool, "this loft")

    def caption(self, fields: LoftFields) -> str:
        return f"{len(fields.sections)} sections"
