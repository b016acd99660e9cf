"""Move bodies: shifted, turned, or copied so."""

from __future__ import annotations

from vireo.core.kernel.transform import Move, carried
from vireo.core.naming import Pick
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome, StepTrouble
from vireo.core.part.kind import StepKind, register
from vireo.core.part.places import WayWord, along, line_of

_AXIS, _AXIS_PICK = along("Turned about", "axis", "Z")


class MoveFields(f.StepFields):
    bodies: tuple[str, ...] = f.bodies("Bodies")
    x: str = f.length("X", "0 mm")
    y: str = f.length("Y", "0 mm")
    z: str = f.length("Z", "0 mm")
    angle: str = f.quantity("angle", "Turn", "0 deg", least=-360, most=360)
    axis: WayWord = _AXIS
    axis_pick: tuple[Pick, ...] = _AXIS_PICK
    copy_: bool = f.toggle("Leave the original")


@register
class MoveBody(StepKind[MoveFields]):
    kind = "move_body"
    label = "Move bodies"
    group = "Copy"
    icon = "move"
    line = "Turn and shift bodies, or copies of them"
    Fields = MoveFields

    def build(self, fields: MoveFields, ctx: Context) -> Outcome:
        move = Move.shift((ctx.value("x"), ctx.value("y"), ctx.value("z")))
        if abs(angle := ctx.value("angle")) > 1e-12:
            at, way = line_of(fields.axis, fields.axis_pick, "axis_pick", ctx)
            move = Move.turn(at, way, angle).then(move)
        if move.rests:
            raise StepTrouble("nothing moves: give a shift or an angle")
        ids = ctx.chosen(fields.bodies, "move")
        outcome = Outcome()
        for id in ids:
            if fields.copy_:
                suffix = f"_{id[2:]}" if len(ids) > 1 else ""
                outcome.bodies[f"b_{ctx.step}{suffix}"] = carried(ctx.body(id), move, ctx.step)
            else:
                outcome.bodies[id] = carried(ctx.body(id), move)
        return outcome
