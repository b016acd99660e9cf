"""Sheet round a solid: flat faces of it made one sheet, bent over their edges and open at others."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.sides import FlatSide, flat_sides
from vireo.core.naming import Pick
from vireo.core.naming.grammar import body_name
from vireo.core.part.context import Context
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.ruling import RuledFields, ruled
from vireo.core.part.sheeting import handed
from vireo.core.part.trouble import StepTrouble
from vireo.core.sheet.wrapping import Wrap, wrapped


class _Picked(f.StepFields):
    faces: tuple[Pick, ...] = f.picks(
        "Faces", "face", "Click flat faces that become sheet, the one that stays flat first"
    )
    edges: tuple[Pick, ...] = f.picks(
        "Open at", "edge", "Click edges the sheet is open at; others are found", free=True
    )
    side: Literal["in", "out"] = f.choice(
        "Material", "in", {"in": "Inside the faces", "out": "On the faces"}
    )
    solid: Literal["gone", "kept"] = f.choice(
        "The solid", "gone", {"gone": "Is used up", "kept": "Stays"}
    )


class WrapFields(RuledFields, _Picked):
    """What is picked first, then what it is made by."""


@register
class SheetWrap(StepKind[WrapFields]):
    kind = "sheet_wrap"
    label = "Sheet round a solid"
    group = "Sheet"
    icon = "wrap"
    order = 105
    line = (
        "Make flat faces of a solid one sheet, bent over their edges and ripped open at the others"
    )
    Fields = WrapFields
    example = """
part.primitive("Block", width=80, depth=50, height=30, x=100, result="new")
box = part.bodies[-1]
part.sheet_wrap("Tray", faces=[box.face_at(140, 25, 0), box.face_at(100, 25, 15), box.face_at(180, 25, 15)])
"""
    deciding = ("thickness",)

    def build(self, fields: WrapFields, ctx: Context) -> Outcome:
        if not fields.faces:
            raise StepTrouble(
                "click flat faces of a solid, the one that stays flat first", ["field:faces"]
            )
        bodies = {p.body for p in (*fields.faces, *fields.edges)}
        if len(bodies) != 1:
            raise StepTrouble("faces and edges of one solid at a time", ["field:faces"])
        (id,) = bodies
        body = ctx.body(id)
        indices = [ctx.find(p, "faces", fields.faces)[0] for p in fields.faces]
        if len(set(indices)) < len(indices):
            raise StepTrouble("a face is picked twice", ["field:faces"])
        found = flat_sides(body, indices)
        sides: list[FlatSide] = []
        for side in found:
            if side is None:
                raise StepTrouble("only flat faces become flat pieces of a sheet", ["field:faces"])
            sides.append(side)
        opened = []
        for pick in fields.edges:
            index, topology = ctx.find(pick, "edges", fields.edges)
            opened.append(frozenset(topology.edges[index].faces))
        by = ruled(fields, ctx)
        wrap = Wrap(by.thickness, by.radius, by.rule, by.gap, fields.side == "in", by.relief)
        made = wrapped(sides, opened, wrap, ctx.step)
        outcome = handed(ctx, {body_name(ctx.step): made}, {*made.sheet.panels, *made.sheet.bends})
        if fields.solid == "gone":
            outcome.bodies[id] = None
        return outcome
