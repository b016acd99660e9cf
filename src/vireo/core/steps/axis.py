"""Axis: a line to turn, copy and measure about."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame, Triple, cross, dot, plane_frame, unit
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.datum import Datum
from vireo.core.part.places import line_of, meeting, place_of_pick
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble


class AxisFields(f.StepFields):
    form: Literal["along", "points", "planes", "normal"] = f.choice(
        "Form", "along",
        {"along": "Of an edge or round face", "points": "Through two places",
         "planes": "Where two planes meet", "normal": "Upright on a face"},
    )  # fmt: skip
    of: tuple[Pick, ...] = f.picks(
        "Of", "any", "Click a straight or round edge, or a round face", when={"form": ["along"]}
    )
    through: tuple[Pick, ...] = f.picks(
        "Through", "any", "Click two corners, round edges or balls", when={"form": ["points"]}
    )
    planes: tuple[Pick, ...] = f.picks(
        "Planes", "face", "Click two flat faces", when={"form": ["planes"]}
    )
    face: tuple[Pick, ...] = f.picks(
        "Face", "face", "Click the face it stands on", when={"form": ["normal"]}
    )
    at: tuple[Pick, ...] = f.picks(
        "At", "any", "Click the corner or round edge it goes through", when={"form": ["normal"]}
    )
    flip: bool = f.toggle("Other way")


@register
class Axis(StepKind[AxisFields]):
    kind = "axis"
    label = "Axis"
    group = "Refer"
    icon = "axis"
    order = 20
    line = "A line to turn and copy about: of an edge, through places, upright on a face"
    Fields = AxisFields
    example = """
hinge = part.axis("Hinge", form="along", of=[rim])
"""

    def build(self, fields: AxisFields, ctx: Context) -> Outcome:
        at, way = {
            "along": self._along, "points": self._points, "planes": self._planes,
            "normal": self._normal,
        }[fields.form](fields, ctx)  # fmt: skip
        if fields.flip:
            way = (-way[0], -way[1], -way[2])
        return Outcome(datum=Datum("axis", Frame(at, plane_frame(at, way).x, unit(way)), 60.0))

    def _along(self, fields: AxisFields, ctx: Context) -> tuple[Triple, Triple]:
        return line_of("pick", fields.of, "of", ctx)

    def _points(self, fields: AxisFields, ctx: Context) -> tuple[Triple, Triple]:
        if len(fields.through) != 2:
            raise StepTrouble("pick two places it goes through", ["field:through"])
        a, b = (place_of_pick(p, "through", ctx, fields.through) for p in fields.through)
        way = (b[0] - a[0], b[1] - a[1], b[2] - a[2])
        if dot(way, way) < 1e-12:
            raise StepTrouble("the two places are one", ["field:through"])
        return a, way

    def _planes(self, fields: AxisFields, ctx: Context) -> tuple[Triple, Triple]:
        if len(fields.planes) != 2:
            raise StepTrouble("pick two flat faces", ["field:planes"])
        one, two = (ctx.frame_of_face(p, "planes", fields.planes) for p in fields.planes)
        way = cross(one.z, two.z)
        if dot(way, way) < 1e-12:
            raise StepTrouble("the two faces are parallel and never meet", ["field:planes"])
        return meeting(one, two), way

    def _normal(self, fields: AxisFields, ctx: Context) -> tuple[Triple, Triple]:
        if len(fields.face) != 1 or len(fields.at) != 1:
            raise StepTrouble("pick a flat face and a place", ["field:face", "field:at"])
        return place_of_pick(fields.at[0], "at", ctx), ctx.frame_of_face(
            fields.face[0], "face", fields.face
        ).z
