"""Copies along a curve."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.locate import along_wire
from vireo.core.kernel.transform import Move
from vireo.core.part.context import Context
from vireo.core.part.copying import CopyFields, copied, left_in
from vireo.core.part.paths import PathFields, paths_of
from vireo.core.part.places import whole_number
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class CurveCopyFields(CopyFields, PathFields):
    count: Formula = f.quantity("number", "Number", "5", least=2, most=1000, key="×")
    spread: Literal["whole", "step"] = f.choice(
        "Spread", "whole", {"whole": "Over all of it", "step": "By a spacing"}
    )
    spacing: Formula = f.length("Spacing", "20 mm", above=0, when={"spread": ["step"]})
    turning: Literal["turn", "keep"] = f.choice(
        "Copies", "turn", {"turn": "Turn with it", "keep": "Keep their way"}
    )


@register
class CurveCopies(StepKind[CurveCopyFields]):
    kind = "copies_curve"
    forms = ("solid", "surface")
    label = "Copies along a curve"
    group = "Copy"
    icon = "copiesCurve"
    order = 42
    line = "Steps or bodies along a sketched path, edges or a helix; the first stands at its start"
    Fields = CurveCopyFields
    example = """
s = Sketch()
s.line(s.point(0, 0), s.point(200, 0))
along = part.copies_curve("Along", steps=[block], path=part.sketch(drawing=s), count=3)
"""
    deciding = ("count",)

    def build(self, fields: CurveCopyFields, ctx: Context) -> Outcome:
        paths = paths_of(fields, ctx)
        if len(paths) != 1:
            raise StepTrouble("copies go along one path: pick a face with one rim")
        path = paths[0]
        n = whole_number(ctx.value("count"), "The number", "count", 2)
        if fields.spread == "whole":
            step = path.length / (n if path.closed else n - 1)
        else:
            step = ctx.value("spacing")
            if step * (n - 1) > path.length * (1 + 1e-9):
                room = int(path.length / step + 1e-9) + 1
                raise StepTrouble(
                    f"{n} copies {step:g} mm apart are longer than the path of "
                    f"{path.length:.4g} mm; {room} fit",
                    ["field:count"],
                )
        frames = along_wire(path.wire, [k * step for k in range(n)])
        if fields.turning == "turn":
            moves = [Move.between(frames[0], f) for f in frames]
        else:
            at = [frame.origin for frame in frames]
            moves = [Move.shift(tuple(b - a for a, b in zip(at[0], p, strict=True))) for p in at]  # type: ignore[arg-type]
        places = [(k + 1, lambda m=m: m) for k, m in enumerate(moves) if k]
        return copied(fields, ctx, left_in(fields, places))
