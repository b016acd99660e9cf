"""Extrude: a profile swept straight: a new body, added, cut away, or the overlap."""

from __future__ import annotations

import math
from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame, dot, plane_frame
from vireo.core.kernel.grow import prism
from vireo.core.kernel.profile import Outline
from vireo.core.kernel.shape import Body
from vireo.core.kernel.surfaces import extruded
from vireo.core.kernel.trim import plane_face, run_on, shifted, stopped
from vireo.core.naming import Pick
from vireo.core.naming.grammar import face_name
from vireo.core.part.context import Context
from vireo.core.part.fitting import fitted
from vireo.core.part.merge import delivered, reach_through, stands_alone
from vireo.core.part.places import PlaneWord, plane_of_pick
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.profile import SOLID, ProfileFields, profile_of, surface_chains
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class ExtrudeFields(ProfileFields):
    reach: Literal["one", "symmetric", "two", "through", "next", "upto", "plane", "body"] = f.choice(
        "Reach", "one",
        {"one": "One side", "symmetric": "Both sides", "two": "Two depths", "through": "Through",
         "next": "To next", "upto": "Up to", "plane": "Up to a plane", "body": "Up to a body"},
    )  # fmt: skip
    depth: Formula = f.length(
        "Depth", "10 mm", above=0, when={"reach": ["one", "symmetric", "two"]}
    )
    back: Formula = f.length("Depth behind", "10 mm", above=0, when={"reach": ["two"]})
    upto: tuple[Pick, ...] = f.picks(
        "Up to", "any", "Click a face or a corner to stop at", when={"reach": ["upto"]}
    )
    plane: PlaneWord = f.choice(
        "The plane", "XY", {"XY": "XY", "XZ": "XZ", "YZ": "YZ"},
        datums=["plane", "frame", "port"], when={"reach": ["plane"]},
    )  # fmt: skip
    stop: tuple[str, ...] = f.bodies("Up to the bodies", when={"reach": ["body"]})
    short: Formula = f.length(
        "Stop short by", "0 mm", when={"reach": ["upto", "next", "plane", "body"]}
    )
    start: Formula = f.length("Start off by", "0 mm", when={"reach": ["!through"]})
    draft: Formula = f.quantity("angle", "Draft", "0 deg", least=-80, most=80, when=SOLID)
    flip: bool = f.toggle("Other way", when={"reach": ["!through", "!symmetric"]})
    result: f.Result = f.result(when=SOLID)
    into: tuple[str, ...] = f.into(SOLID)


@register
class Extrude(StepKind[ExtrudeFields]):
    kind = "extrude"
    label = "Extrude"
    group = "Grow"
    icon = "extrude"
    order = 10
    line = "Sweep regions or a thin wall of a sketch straight into a body or a cut"
    Fields = ExtrudeFields
    example = """
s = Sketch()
s.box(10, 10, 30, 18)
boss = part.extrude("Boss", sketch=part.sketch(drawing=s, plane=top), depth=5, draft=3, result="add")
"""
    copyable = True
    deciding = ("depth",)

    def build(self, fields: ExtrudeFields, ctx: Context) -> Outcome:
        frame = ctx.sketch(fields.sketch).frame
        if fields.profile == "surface":
            return self._surface(fields, ctx, frame)
        outline = profile_of(fields, ctx)
        if fields.reach != "through" and (off := ctx.value("start")):
            frame = Frame(frame.out((0.0, 0.0, off)), frame.x, frame.z)
        draft = ctx.value("draft")
        tool = (
            fitted(lambda d: self._tool(fields, ctx, outline, frame, d), draft, "draft", "a draft of",
                   "deg")
            if draft else self._tool(fields, ctx, outline, frame, 0.0)
        )  # fmt: skip
        return delivered(ctx, fields, tool, "this extrusion")

    def _surface(self, fields: ExtrudeFields, ctx: Context, frame: Frame) -> Outcome:
        if fields.reach in ("through", "next", "upto", "plane", "body"):
            raise StepTrouble(
                "a surface is extruded by a depth; split it where it should stop", ["field:reach"]
            )
        low, high = self._span(fields, ctx)
        off = ctx.value("start")
        chains = surface_chains(fields.sketch, fields.chains, ctx)
        return stands_alone(ctx, extruded(chains, frame, low + off, high + off, ctx.step))

    def _span(self, fields: ExtrudeFields, ctx: Context) -> tuple[float, float]:
        """From where to where along the normal of the sketch (mm)."""
        depth = ctx.value("depth")
        low, high = {
            "one": (0.0, depth), "symmetric": (-depth / 2, depth / 2),
            "two": (-ctx.value("back") if fields.reach == "two" else 0.0, depth),
        }[fields.reach]  # fmt: skip
        if fields.flip and fields.reach != "symmetric":
            low, high = -high, -low
        return low, high

    def _tool(
        self, fields: ExtrudeFields, ctx: Context, outline: Outline, frame: Frame, draft: float
    ) -> Body:
        if fields.reach == "through":
            low, high = reach_through(ctx, fields.into, frame)
            return prism(outline, frame, low, high, ctx.step, draft)
        if fields.reach in ("next", "upto", "plane", "body"):
            return self._stopped(fields, ctx, outline, frame, draft)
        low, high = self._span(fields, ctx)
        return prism(outline, frame, low, high, ctx.step, draft)

    def _stopped(
        self, fields: ExtrudeFields, ctx: Context, outline: Outline, frame: Frame, draft: float
    ) -> Body:
        sign = -1.0 if fields.flip else 1.0
        short = ctx.value("short")
        by = (-sign * short * frame.z[0], -sign * short * frame.z[1], -sign * short * frame.z[2])
        ids = ctx.body_ids()
        tools = []
        far = 0.0
        if fields.reach == "body":
            if not fields.stop:
                raise StepTrouble("choose the bodies it stops at", ["field:stop"])
            ids = list(fields.stop)
        if fields.reach in ("next", "body"):
            if not ids:
                raise StepTrouble("there is no body ahead to stop at; give a depth instead")
            tools = [shifted(ctx.seen(id).shape, by) for id in ids]
        elif fields.reach == "plane":
            at, normal = plane_of_pick(fields.plane, (), "plane", ctx)
            tools = [shifted(plane_face(Frame(at, plane_frame(at, normal).x, normal)), by)]
            far = max(far, 1.1 * math.dist(at, frame.origin) + abs(short))
        else:
            if len(fields.upto) != 1:
                raise StepTrouble("pick the one face or corner it should stop at", ["field:upto"])
            index, topology = ctx.find(fields.upto[0], "upto", fields.upto)
            if fields.upto[0].kind == "vertex":
                at = topology.vertices[index].at
                rise = dot((at[0] - frame.origin[0], at[1] - frame.origin[1],
                            at[2] - frame.origin[2]), frame.z) * sign - short  # fmt: skip
                if rise <= 0:
                    raise StepTrouble("the corner to stop at lies behind the sketch: try Other way")
                low, high = (0.0, rise) if sign > 0 else (-rise, 0.0)
                return prism(outline, frame, low, high, ctx.step, draft)
            if fields.upto[0].kind != "face":
                raise StepTrouble("it can stop at a face or a corner, not at an edge")
            face = ctx.seen(fields.upto[0].body).faces[index]
            tools = [shifted(run_on(face), by)]
        if ids or fields.reach != "plane":
            below, above = reach_through(ctx, (), frame)
            far = max(far, abs(below) + abs(short), abs(above) + abs(short))
        # A leaning plane is met further off than its nearest place.
        far = 2.0 * far + 1.0 if fields.reach == "plane" else far
        low, high = (0.0, far) if sign > 0 else (-far, 0.0)
        start, end = ("start", "end") if sign > 0 else ("end", "start")
        long = prism(outline, frame, low, high, ctx.step, draft)
        return stopped(
            long,
            tools,
            face_name(ctx.step, "cap", start),
            face_name(ctx.step, "cap", end),
            "this extrusion",
        )
