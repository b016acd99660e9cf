"""Sketch: curves and points on a base plane or a planar face."""

from __future__ import annotations

from vireo.core.geometry import BASE_PLANES
from vireo.core.part.context import Context, Outcome, StepTrouble
from vireo.core.part.fields import PlaneRef, StepFields, hidden
from vireo.core.part.kind import StepKind, register
from vireo.core.part.sketchdata import SketchData
from vireo.core.sketch import Drawing, curves_of, solve_drawing
from vireo.core.sketch.solved import free_points


class SketchFields(StepFields):
    plane: PlaneRef = hidden("plane", PlaneRef())
    drawing: Drawing = hidden("drawing", Drawing())


@register
class Sketch(StepKind[SketchFields]):
    kind = "sketch"
    label = "Sketch"
    group = "Sketch"
    icon = "sketch"
    line = "Draw curves on a plane or a flat face"
    Fields = SketchFields

    def build(self, fields: SketchFields, ctx: Context) -> Outcome:
        if fields.plane.face is not None:
            frame = ctx.frame_of_face(fields.plane.face, "plane.face")
        elif fields.plane.base in BASE_PLANES:
            frame = BASE_PLANES[fields.plane.base]
        else:
            raise StepTrouble("a sketch lies on XY, XZ, YZ or a planar face")
        solved = solve_drawing(fields.drawing, ctx.names)
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
        )
        return Outcome(sketch=data)

    def caption(self, fields: SketchFields) -> str:
        curves = sum(1 for e in fields.drawing.entities if e.type != "point")
        points = len(free_points(fields.drawing))
        if curves:
            return f"{curves} curve{'s' * (curves != 1)}"
        return f"{points} point{'s' * (points != 1)}" if points else "empty"
