"""Sketch: curves and points on a base plane or a planar face."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from vireo.core.declared.fields import Brought, PlaneRef, StepFields, Underlay, hidden
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import BASE_PLANES, Frame
from vireo.core.part.context import Context
from vireo.core.part.links import Place, brought_curves
from vireo.core.part.places import number, turned_about
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sketchdata import SketchData
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import ANGLE, LENGTH
from vireo.core.sketch import Drawing, curves_of, solve_drawing
from vireo.core.sketch.linking import relink
from vireo.core.sketch.solved import aids_of, free_points


class SketchFields(StepFields):
    plane: PlaneRef = hidden("plane", PlaneRef())
    drawing: Drawing = hidden("drawing", Drawing())
    brought: tuple[Brought, ...] = hidden("brought", ())
    underlays: tuple[Underlay, ...] = hidden("underlays", ())


def plane_of(plane: PlaneRef, ctx: Context) -> Frame:
    """The frame a sketch lies in."""
    if plane.plane is not None:
        frame = ctx.sketch(plane.plane).frame
    elif plane.face is not None:
        frame = ctx.frame_of_face(plane.face, "plane.face")
    elif plane.base in BASE_PLANES:
        frame = BASE_PLANES[plane.base]
    else:
        raise StepTrouble("a sketch lies on XY, XZ, YZ, a flat face or a plane")
    if plane.edge is not None:
        turn = number(plane.angle, "the angle of the plane", ANGLE, ctx)
        frame = turned_about(plane.edge, "plane.edge", frame, turn, ctx)
    shift = number(plane.offset, "the shift of the plane", LENGTH, ctx)
    return Frame(frame.out((0.0, 0.0, shift)), frame.x, frame.z) if shift else frame


@register
class Sketch(StepKind[SketchFields]):
    kind = "sketch"
    label = "Sketch"
    group = "Sketch"
    icon = "sketch"
    line = "Draw curves on a plane or a flat face"
    version = 2
    Fields = SketchFields
    example = """
s = Sketch()
s.box(10, 10, 30, 18)
flat = part.sketch("On top", drawing=s, plane=top)
upright = part.sketch("Upright", drawing=s, plane="XZ")
"""

    def build(self, fields: SketchFields, ctx: Context) -> Outcome:
        frame = plane_of(fields.plane, ctx)
        drawing = fields.drawing
        place = Place(frame, fields.underlays)
        for one in fields.brought:
            drawing = relink(drawing, one.id, *brought_curves(one, fields.brought, place, ctx))
        solved = solve_drawing(drawing, ctx.names)
        if not solved.holds:
            first = solved.troubles[0]
            raise StepTrouble(first.text, [f"step:{ctx.step}", *first.where], first.offers)
        if solved.troubles:
            first = solved.troubles[0]
            raise StepTrouble(first.text, [f"step:{ctx.step}", *first.where])
        data = SketchData(
            name=ctx.step,
            frame=frame,
            curves=curves_of(solved.drawing),
            points=free_points(solved.drawing),
            freedom=solved.freedom,
            aids=aids_of(solved.drawing),
        )
        return Outcome(sketch=data)

    def uses(self, fields: SketchFields) -> set[str]:
        own = {b.sketch for b in fields.brought if b.sketch is not None}
        return own | ({fields.plane.plane} if fields.plane.plane else set())

    def files(self, fields: Mapping[str, Any]) -> set[str]:
        return {u["file"] for u in fields.get("underlays", ())}

    def caption(self, fields: SketchFields) -> str:
        curves = sum(1 for e in fields.drawing.entities if e.type != "point")
        points = len(free_points(fields.drawing))
        if curves:
            return f"{curves} curve{'s' * (curves != 1)}"
        return f"{points} point{'s' * (points != 1)}" if points else "empty"
