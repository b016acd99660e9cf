"""Revolve: a profile turned about a line of its sketch."""

from __future__ import annotations

import math
from typing import Literal

from vireo.core.curves import Line2, Pair
from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.grow import revolved
from vireo.core.kernel.surfaces import turned
from vireo.core.part.context import Context
from vireo.core.part.merge import delivered, stands_alone
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.profile import SOLID, ProfileFields, profile_of, surface_chains
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class RevolveFields(ProfileFields):
    axis: str = f.axis("sketch", "About")
    reach: Literal["whole", "one", "symmetric", "two"] = f.choice(
        "Reach", "whole",
        {"whole": "All round", "one": "One way", "symmetric": "Both ways", "two": "Two angles"},
    )  # fmt: skip
    angle: Formula = f.quantity(
        "angle", "Angle", "90 deg", above=0, most=360, when={"reach": ["one", "symmetric", "two"]}
    )
    back: Formula = f.quantity(
        "angle", "Angle behind", "30 deg", above=0, most=360, when={"reach": ["two"]}
    )
    flip: bool = f.toggle("Other way", when={"reach": ["one", "two"]})
    result: f.Result = f.result(when=SOLID)
    into: tuple[str, ...] = f.into(SOLID)


@register
class Revolve(StepKind[RevolveFields]):
    kind = "revolve"
    label = "Revolve"
    group = "Grow"
    icon = "revolve"
    order = 20
    line = "Turn regions or a thin wall about a line of their sketch"
    Fields = RevolveFields
    example = """
s = Sketch()
s.box(80, 0, 90, 20)
ring = part.revolve("Ring", sketch=part.sketch(drawing=s, plane="XZ"), axis="y_axis", reach="one", angle=90)
"""
    copyable = True
    deciding = ("angle",)

    def build(self, fields: RevolveFields, ctx: Context) -> Outcome:
        origin, way = axis_of(fields.axis, fields.sketch, ctx)
        start, end = 0.0, 2.0 * math.pi
        if fields.reach != "whole":
            angle = ctx.value("angle")
            start, end = 0.0, angle
            if fields.reach == "symmetric":
                start, end = -angle / 2, angle / 2
            elif fields.reach == "two":
                start = -ctx.value("back")
                if end - start > 2.0 * math.pi + 1e-9:
                    raise StepTrouble("the two angles together are more than a full turn")
            if fields.flip and fields.reach != "symmetric":
                start, end = -end, -start
        frame = ctx.sketch(fields.sketch).frame
        if fields.profile == "surface":
            chains = surface_chains(fields.sketch, fields.chains, ctx)
            return stands_alone(ctx, turned(chains, frame, origin, way, start, end, ctx.step))
        tool = revolved(profile_of(fields, ctx), frame, origin, way, start, end, ctx.step)
        return delivered(ctx, fields, tool, "this turned body")


def axis_of(axis: str, sketch: str, ctx: Context) -> tuple[Pair, Pair]:
    """Origin and direction, in the sketch, of one of its axes or lines (aids included)."""
    if axis in ("x_axis", "y_axis"):
        return (0.0, 0.0), (1.0, 0.0) if axis == "x_axis" else (0.0, 1.0)
    data = ctx.sketch(sketch)
    line = dict([*data.aids, *data.curves]).get(axis)
    if line is None:
        raise StepTrouble(
            f"the line {axis} it turns about is not in the sketch {data.name}",
            [f"step:{ctx.step}", f"step:{sketch}", "field:axis"],
        )
    if not isinstance(line, Line2):
        raise StepTrouble("it turns about a straight line", [f"step:{ctx.step}", "field:axis"])
    return line.a, (line.b[0] - line.a[0], line.b[1] - line.a[1])
