"""Frames and ports: a place with directions, to sketch on, turn about, and join by."""

from __future__ import annotations

import math
from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame, Triple, dot, plane_frame, unit
from vireo.core.kernel.transform import rolled
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.datum import Datum
from vireo.core.part.places import line_of, place_of_pick
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sketchdata import SketchData
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class FrameFields(f.StepFields):
    at: tuple[Pick, ...] = f.picks(
        "At", "any", "Click a corner, a round edge or a face (none: the origin)", free=True
    )
    facing: tuple[Pick, ...] = f.picks(
        "Z along", "any", "Click a flat or round face, or an edge (none: as at, or upwards)",
        free=True,
    )  # fmt: skip
    clock: tuple[Pick, ...] = f.picks(
        "X towards", "any", "Click an edge, a face or a corner (none: by itself)", free=True
    )
    flip: bool = f.toggle("Other way")
    turn: Formula = f.quantity("angle", "Turned by", "0 deg", least=-360, most=360)
    x: Formula = f.length("Shift X", "0 mm")
    y: Formula = f.length("Shift Y", "0 mm")
    z: Formula = f.length("Shift Z", "0 mm")


def frame_of(fields: FrameFields, ctx: Context) -> Frame:
    """The frame its fields describe. Raises StepTrouble."""
    origin: Triple = (0.0, 0.0, 0.0)
    if fields.at:
        origin = place_of_pick(fields.at[0], "at", ctx)
    z = _facing(fields, ctx)
    if fields.flip:
        z = (-z[0], -z[1], -z[2])
    frame = plane_frame(origin, z)
    x = frame.x
    if fields.clock:
        towards = _towards(fields.clock[0], origin, ctx)
        lean = dot(towards, z)
        flat = (towards[0] - lean * z[0], towards[1] - lean * z[1], towards[2] - lean * z[2])
        if dot(flat, flat) < 1e-12:
            raise StepTrouble("X cannot point along Z: choose another direction", ["field:clock"])
        x = unit(flat)
    x = rolled(x, z, ctx.value("turn"))
    placed = Frame(origin, x, z)
    shift = (ctx.value("x"), ctx.value("y"), ctx.value("z"))
    return Frame(placed.out(shift), x, z)


def _facing(fields: FrameFields, ctx: Context) -> Triple:
    if fields.facing:
        return unit(line_of("pick", fields.facing[:1], "facing", ctx)[1])
    if fields.at and fields.at[0].kind in ("face", "edge"):
        try:
            return unit(line_of("pick", fields.at[:1], "at", ctx)[1])
        except StepTrouble:
            return (0.0, 0.0, 1.0)
    return (0.0, 0.0, 1.0)


def _towards(pick: Pick, origin: Triple, ctx: Context) -> Triple:
    if pick.kind != "vertex":
        return line_of("pick", (pick,), "clock", ctx)[1]
    p = place_of_pick(pick, "clock", ctx)
    way = (p[0] - origin[0], p[1] - origin[1], p[2] - origin[2])
    if math.hypot(*way) < 1e-9:
        raise StepTrouble("that corner is the origin itself", ["field:clock"])
    return unit(way)


@register
class FrameStep(StepKind[FrameFields]):
    kind = "frame"
    label = "Frame"
    group = "Refer"
    icon = "frame"
    order = 40
    line = "An origin with directions of its own: to sketch on, turn and mirror about"
    Fields = FrameFields
    example = """
seat = part.frame("Seat", at=[top], clock=[rim])
"""

    def build(self, fields: FrameFields, ctx: Context) -> Outcome:
        frame = frame_of(fields, ctx)
        flat = SketchData(ctx.step, frame, (), {})
        return Outcome(sketch=flat, datum=Datum("frame", frame))


class PortFields(FrameFields):
    sort: Literal["seat", "shaft", "flange", "screw", "pipe", "snap", "other"] = f.choice(
        "Kind", "other",
        {"seat": "Seat", "shaft": "Shaft", "flange": "Flange", "screw": "Screw", "pipe": "Pipe",
         "snap": "Snap", "other": "Other"},
    )  # fmt: skip
    turns: bool = f.toggle("May turn about its axis")


@register
class Port(StepKind[PortFields]):
    kind = "port"
    label = "Port"
    group = "Refer"
    icon = "port"
    line = "A named place others snap to, join and route by: origin, axis, clocking"
    Fields = PortFields
    example = """
seat = part.port("Seat", at=[top], sort="seat")
"""

    def build(self, fields: PortFields, ctx: Context) -> Outcome:
        frame = frame_of(fields, ctx)
        flat = SketchData(ctx.step, frame, (), {})
        return Outcome(
            sketch=flat, datum=Datum("port", frame, word=fields.sort, turns=fields.turns)
        )

    def caption(self, fields: PortFields) -> str:
        return fields.sort
