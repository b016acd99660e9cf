"""Copies along one or two directions."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.transform import Move
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.copying import CopyFields, copied, left_in
from vireo.core.part.places import WayWord, along, line_of, whole_number
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula

_FIRST, _FIRST_PICK = along("Along", "way")
_SECOND, _SECOND_PICK = along("And along", "way2", "Y")


class LinearCopyFields(CopyFields):
    way: WayWord = _FIRST
    way_pick: tuple[Pick, ...] = _FIRST_PICK
    count: Formula = f.quantity("number", "Number", "3", least=1, most=1000, key="×")
    spacing: Formula = f.length("Spacing", "20 mm")
    count2: Formula = f.quantity("number", "Rows", "1", least=1, most=1000)
    way2: WayWord = _SECOND
    way2_pick: tuple[Pick, ...] = _SECOND_PICK
    spacing2: Formula = f.length("Row spacing", "20 mm")
    measure: Literal["step", "whole"] = f.choice(
        "Spacing is", "step", {"step": "From one to the next", "whole": "From first to last"}
    )


@register
class LinearCopies(StepKind[LinearCopyFields]):
    kind = "copies_linear"
    forms = ("solid", "surface")
    label = "Copies along a line"
    group = "Copy"
    icon = "copies"
    order = 10
    line = "Steps or bodies in a row, or in rows; the first is number 1"
    Fields = LinearCopyFields
    example = """
row = part.copies_linear("Row", steps=[block], count=3, spacing=80, way="X")
"""
    deciding = ("count", "spacing")

    def build(self, fields: LinearCopyFields, ctx: Context) -> Outcome:
        n = whole_number(ctx.value("count"), "The number", "count")
        rows = whole_number(ctx.value("count2"), "The number of rows", "count2")
        _, u = line_of(fields.way, fields.way_pick, "way_pick", ctx)
        a, b = ctx.value("spacing"), ctx.value("spacing2")
        v = u
        if rows > 1:
            _, v = line_of(fields.way2, fields.way2_pick, "way2_pick", ctx)
        if (n > 1 and abs(a) < 1e-6) or (rows > 1 and abs(b) < 1e-6):
            raise StepTrouble("without a spacing the copies would lie on one another")
        if fields.measure == "whole":
            a, b = a / max(n - 1, 1), b / max(rows - 1, 1)

        def shift(i: int, j: int) -> Move:
            return Move.shift((
                i * a * u[0] + j * b * v[0], i * a * u[1] + j * b * v[1],
                i * a * u[2] + j * b * v[2],
            ))  # fmt: skip

        places = [(i, j) for j in range(rows) for i in range(n)]
        moves = [(k + 1, lambda i=i, j=j: shift(i, j)) for k, (i, j) in enumerate(places) if k > 0]
        return copied(fields, ctx, left_in(fields, moves))
