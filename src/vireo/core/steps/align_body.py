"""Align bodies: a body brought to another by two picks, and clocked by two more."""

from __future__ import annotations

import math
from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Triple, cross, dot, plane_frame, unit
from vireo.core.kernel.transform import Move, carried
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.places import line_of, place_of_pick
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class AlignFields(f.StepFields):
    what: tuple[Pick, ...] = f.picks("This", "any", "Click a face, edge or corner of the body")
    to: tuple[Pick, ...] = f.picks("Goes to", "any", "Click where it goes on another body")
    sense: Literal["facing", "along"] = f.choice(
        "Looking", "facing", {"facing": "At each other", "along": "The same way"}
    )
    gap: Formula = f.length("Gap", "0 mm")
    clock: tuple[Pick, ...] = f.picks(
        "Then turn this", "any", "Click a face or edge to clock it by (none: as it is)", free=True
    )
    clock_to: tuple[Pick, ...] = f.picks("Towards", "any", "Click what it turns to", free=True)


@register
class AlignBody(StepKind[AlignFields]):
    kind = "align_body"
    forms = ("solid", "surface")
    label = "Align bodies"
    group = "Copy"
    icon = "align"
    order = 65
    line = "Bring a body to another: face to face, axis on axis, corner on corner"
    Fields = AlignFields
    example = """
part.primitive("Disc", form="cylinder", diameter=20, height=10, x=100)
disc = part.bodies[-1]
on_top = part.align_body("On top", what=[disc.face_at(100, 0, 0)], to=[top])
"""
    deciding = ("gap",)

    def build(self, fields: AlignFields, ctx: Context) -> Outcome:
        if len(fields.what) != 1 or len(fields.to) != 1:
            raise StepTrouble("pick one thing on each body", ["field:what", "field:to"])
        one, two = fields.what[0], fields.to[0]
        if one.body == two.body:
            raise StepTrouble("both picks lie on the same body", ["field:to"])
        a = place_of_pick(one, "what", ctx)
        b = place_of_pick(two, "to", ctx)
        move = Move()
        way: Triple | None = None
        if one.kind != "vertex" and two.kind != "vertex":
            u = unit(line_of("pick", (one,), "what", ctx)[1])
            v = unit(line_of("pick", (two,), "to", ctx)[1])
            way = (-v[0], -v[1], -v[2]) if fields.sense == "facing" else v
            move = _turned(a, u, way)
            gap = ctx.value("gap")
            b = (b[0] + gap * v[0], b[1] + gap * v[1], b[2] + gap * v[2])
        move = move.then(Move.shift((b[0] - a[0], b[1] - a[1], b[2] - a[2])))
        if bool(fields.clock) != bool(fields.clock_to):
            raise StepTrouble("to clock it, pick what turns and what it turns to", ["field:clock"])
        if fields.clock and way is not None:
            move = move.then(self._clocked(fields, ctx, move, b, way))
        if move.rests:
            raise StepTrouble("it is there already")
        sheet = ctx.sheet_carried(one.body, move)
        return Outcome(
            bodies={one.body: carried(ctx.body(one.body), move)},
            sheets={one.body: sheet} if sheet is not None else {},
        )

    def _clocked(
        self, fields: AlignFields, ctx: Context, move: Move, at: Triple, axis: Triple
    ) -> Move:
        u = move.way(unit(line_of("pick", fields.clock[:1], "clock", ctx)[1]))
        v = unit(line_of("pick", fields.clock_to[:1], "clock_to", ctx)[1])
        flat = [_without(w, axis) for w in (u, v)]
        if any(dot(w, w) < 1e-12 for w in flat):
            raise StepTrouble("that runs along the axis it would turn about", ["field:clock"])
        p, q = (unit(w) for w in flat)
        return Move.turn(at, axis, math.atan2(dot(cross(p, q), axis), dot(p, q)))


def _without(v: Triple, along: Triple) -> Triple:
    k = dot(v, along)
    return (v[0] - k * along[0], v[1] - k * along[1], v[2] - k * along[2])


def _turned(at: Triple, start: Triple, end: Triple) -> Move:
    """The shortest turn from one direction to another; about any axis when they are opposite."""
    axis = cross(start, end)
    sine = math.sqrt(dot(axis, axis))
    angle = math.atan2(sine, dot(start, end))
    if sine > 1e-9:
        return Move.turn(at, unit(axis), angle)
    return Move() if angle < 1.0 else Move.turn(at, plane_frame(at, start).x, math.pi)
