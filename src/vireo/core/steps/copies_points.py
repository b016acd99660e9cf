"""Copies at the points of a sketch."""

from __future__ import annotations

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.transform import Move
from vireo.core.part.context import Context
from vireo.core.part.copying import CopyFields, copied
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble


class PointCopyFields(CopyFields):
    sketch: str = f.sketch("Places")
    origin: str = f.choice(
        "Counted from", "first", {"first": "The first point", "centre": "The sketch's origin"}
    )


@register
class PointCopies(StepKind[PointCopyFields]):
    kind = "copies_points"
    forms = ("solid", "surface")
    label = "Copies at points"
    group = "Copy"
    icon = "point"
    order = 40
    line = "Steps or bodies at the loose points of a sketch"
    Fields = PointCopyFields
    example = """
s = Sketch()
s.point(0, 0)
s.point(0, 60)
s.point(80, 60)
spread = part.copies_points("Spread", steps=[block], sketch=part.sketch(drawing=s))
"""

    def build(self, fields: PointCopyFields, ctx: Context) -> Outcome:
        data = ctx.sketch(fields.sketch)
        if not data.points:
            raise StepTrouble(
                "the sketch has no loose points; draw points where copies go",
                [f"step:{fields.sketch}"],
            )
        places = {id: data.frame.out(p) for id, p in data.points.items()}
        first = next(iter(places))
        start = places[first] if fields.origin == "first" else data.frame.origin
        moves = []
        for n, (id, p) in enumerate(places.items(), start=1):
            if n in fields.skips or (fields.origin == "first" and id == first):
                continue
            moves.append((id, Move.shift((p[0] - start[0], p[1] - start[1], p[2] - start[2]))))
        return copied(fields, ctx, moves)
