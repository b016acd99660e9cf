"""Sketch: curves and points on a base plane or a planar face."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence

from vireo.core.curves import Curve2, Pair
from vireo.core.geometry import BASE_PLANES, Frame
from vireo.core.kernel.project import projected_edge, projected_point
from vireo.core.part.context import Context, LostPick, Outcome, StepTrouble
from vireo.core.part.fields import Brought, PlaneRef, StepFields, hidden
from vireo.core.part.kind import StepKind, register
from vireo.core.part.sketchdata import SketchData
from vireo.core.quantity import LENGTH, FormulaError, evaluate
from vireo.core.sketch import Drawing, curves_of, solve_drawing
from vireo.core.sketch.linking import relink
from vireo.core.sketch.solved import free_points
from vireo.core.trouble import Offer


class SketchFields(StepFields):
    plane: PlaneRef = hidden("plane", PlaneRef())
    drawing: Drawing = hidden("drawing", Drawing())
    brought: tuple[Brought, ...] = hidden("brought", ())


def plane_of(plane: PlaneRef, ctx: Context) -> Frame:
    """The frame a sketch lies in."""
    if plane.face is not None:
        frame = ctx.frame_of_face(plane.face, "plane.face")
    elif plane.base in BASE_PLANES:
        frame = BASE_PLANES[plane.base]
    else:
        raise StepTrouble("a sketch lies on XY, XZ, YZ or a planar face")
    if plane.offset is None:
        return frame
    where = [f"step:{ctx.step}"]
    try:
        found = evaluate(plane.offset.formula, ctx.names)
    except FormulaError as error:
        raise StepTrouble(f"offset of the plane: {error.text}", where) from error
    if found.dimension != LENGTH:
        raise StepTrouble(f"the offset of the plane is a length, not {found.dimension.name}", where)
    return Frame(frame.out((0.0, 0.0, found.value)), frame.x, frame.z)


def brought_curves(
    one: Brought, every: Sequence[Brought], frame: Frame, ctx: Context
) -> list[tuple[str, Curve2 | Pair]]:
    """What a link brings now: curves and points in the sketch plane. Raises LostPick."""
    try:
        index, topology = ctx.find(one.pick, "brought")
    except LostPick as lost:
        # The offer changes this link and leaves the others.
        for offer in lost.offers:
            new = offer.fields.get("brought")
            dumped = [b.model_dump(mode="json") for b in every]
            put = [{**d, "pick": new} if d["id"] == one.id else d for d in dumped]
            offer.fields["brought"] = put
        rest = [b.model_dump(mode="json") for b in every if b.id != one.id]
        lost.offers.append(Offer(label="Leave it out", fields={"brought": rest}))
        raise
    body = ctx.body(one.pick.body)
    if one.pick.kind == "vertex":
        return [("", projected_point(topology.vertices[index].at, frame))]
    edges = [index]
    if one.pick.kind == "face":
        edges = [i for i, e in enumerate(topology.edges) if index in e.faces]
    found = []
    for i in edges:
        name = hashlib.sha256("|".join(topology.edge_name(i)).encode()).hexdigest()[:5]
        found.append(("" if one.pick.kind == "edge" else name, projected_edge(body, i, frame)))
    return found


@register
class Sketch(StepKind[SketchFields]):
    kind = "sketch"
    label = "Sketch"
    group = "Sketch"
    icon = "sketch"
    line = "Draw curves on a plane or a flat face"
    Fields = SketchFields

    def build(self, fields: SketchFields, ctx: Context) -> Outcome:
        frame = plane_of(fields.plane, ctx)
        drawing = fields.drawing
        for one in fields.brought:
            drawing = relink(drawing, one.id, brought_curves(one, fields.brought, frame, ctx))
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
        )
        return Outcome(sketch=data)

    def caption(self, fields: SketchFields) -> str:
        curves = sum(1 for e in fields.drawing.entities if e.type != "point")
        points = len(free_points(fields.drawing))
        if curves:
            return f"{curves} curve{'s' * (curves != 1)}"
        return f"{points} point{'s' * (points != 1)}" if points else "empty"
