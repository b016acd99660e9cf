"""The rigid motion a step gives: a shift in X, Y, Z after a turn about an axis."""

from __future__ import annotations

from vireo.core.declared import fields as f
from vireo.core.kernel.transform import Move
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.places import WayWord, along, line_of
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula

_AXIS, _AXIS_PICK = along("Turned about", "axis", "Z")


class MotionFields(f.StepFields):
    """Fields shared by the steps that move something."""

    x: Formula = f.length("X", "0 mm")
    y: Formula = f.length("Y", "0 mm")
    z: Formula = f.length("Z", "0 mm")
    angle: Formula = f.quantity("angle", "Turn", "0 deg", least=-360, most=360)
    axis: WayWord = _AXIS
    axis_pick: tuple[Pick, ...] = _AXIS_PICK


def motion_of(fields: MotionFields, ctx: Context) -> Move:
    """The motion. Raises StepTrouble when nothing moves, LostPick for an axis that is gone."""
    move = Move.shift((ctx.value("x"), ctx.value("y"), ctx.value("z")))
    if abs(angle := ctx.value("angle")) > 1e-12:
        at, way = line_of(fields.axis, fields.axis_pick, "axis_pick", ctx)
        move = Move.turn(at, way, angle).then(move)
    if move.rests:
        raise StepTrouble("nothing moves: give a shift or an angle")
    return move
