"""Point: a place to measure from, copy to and build on."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame, Triple, dot
from vireo.core.kernel.locate import along_edge, length_of
from vireo.core.kernel.measure import mass_properties
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.datum import Datum
from vireo.core.part.places import line_of, place_of_pick
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class PointFields(f.StepFields):
    form: Literal["at", "between", "along", "pierce", "mass"] = f.choice(
        "Form", "at",
        {"at": "At a place, shifted", "between": "Between two places", "along": "Along an edge",
         "pierce": "Where a line meets a face", "mass": "Centre of mass"},
    )  # fmt: skip
    of: tuple[Pick, ...] = f.picks(
        "Of", "any", "Click a corner, a round edge, a ball (none: the origin)",
        when={"form": ["at"]},
    )  # fmt: skip
    x: Formula = f.length("X", "0 mm", when={"form": ["at"]})
    y: Formula = f.length("Y", "0 mm", when={"form": ["at"]})
    z: Formula = f.length("Z", "0 mm", when={"form": ["at"]})
    between: tuple[Pick, ...] = f.picks(
        "Between", "any", "Click two corners or round edges", when={"form": ["between"]}
    )
    share: Formula = f.quantity(
        "number", "Share of the way", "0.5", least=-10, most=10, when={"form": ["between"]}
    )
    edge: tuple[Pick, ...] = f.picks("Edge", "edge", "Click an edge", when={"form": ["along"]})
    length: Formula = f.length("Length along it", "0 mm", least=0, when={"form": ["along"]})
    back: bool = f.toggle("From the other end", when={"form": ["along"]})
    line: tuple[Pick, ...] = f.picks(
        "Line", "any", "Click a straight or round edge, or a round face", when={"form": ["pierce"]}
    )
    face: tuple[Pick, ...] = f.picks("Face", "face", "Click a flat face", when={"form": ["pierce"]})
    bodies: tuple[str, ...] = f.bodies("Bodies", when={"form": ["mass"]})


@register
class Point(StepKind[PointFields]):
    kind = "point"
    label = "Point"
    group = "Refer"
    icon = "point"
    order = 30
    version = 2
    line = "A place: shifted from a corner, between two, along an edge, a centre of mass"
    Fields = PointFields
    example = """
centre = part.point("Centre", form="at", x=30, y=20, z=20)
"""

    def build(self, fields: PointFields, ctx: Context) -> Outcome:
        at = {
            "at": self._at, "between": self._between, "along": self._along,
            "pierce": self._pierce, "mass": self._mass,
        }[fields.form](fields, ctx)  # fmt: skip
        return Outcome(datum=Datum("point", Frame(origin=at)))

    def _at(self, fields: PointFields, ctx: Context) -> Triple:
        at = place_of_pick(fields.of[0], "of", ctx) if fields.of else (0.0, 0.0, 0.0)
        return (at[0] + ctx.value("x"), at[1] + ctx.value("y"), at[2] + ctx.value("z"))

    def _between(self, fields: PointFields, ctx: Context) -> Triple:
        if len(fields.between) != 2:
            raise StepTrouble("pick two places", ["field:between"])
        a, b = (place_of_pick(p, "between", ctx, fields.between) for p in fields.between)
        k = ctx.value("share")
        return (a[0] + k * (b[0] - a[0]), a[1] + k * (b[1] - a[1]), a[2] + k * (b[2] - a[2]))

    def _along(self, fields: PointFields, ctx: Context) -> Triple:
        if len(fields.edge) != 1:
            raise StepTrouble("pick one edge", ["field:edge"])
        index, _ = ctx.find(fields.edge[0], "edge", fields.edge)
        edge = ctx.seen(fields.edge[0].body).edges[index]
        length = ctx.value("length")
        if length > length_of(edge):
            raise StepTrouble(f"the edge is only {length_of(edge):.4g} mm long", ["field:length"])
        return along_edge(edge, length, fields.back)[0]

    def _pierce(self, fields: PointFields, ctx: Context) -> Triple:
        at, way = line_of("pick", fields.line, "line", ctx)
        if len(fields.face) != 1:
            raise StepTrouble("pick one flat face", ["field:face"])
        plane = ctx.frame_of_face(fields.face[0], "face", fields.face)
        slope = dot(way, plane.z)
        if abs(slope) < 1e-9:
            raise StepTrouble("the line runs along the face and never meets it")
        o = plane.origin
        k = dot((o[0] - at[0], o[1] - at[1], o[2] - at[2]), plane.z) / slope
        return (at[0] + k * way[0], at[1] + k * way[1], at[2] + k * way[2])

    def _mass(self, fields: PointFields, ctx: Context) -> Triple:
        ids = ctx.chosen(fields.bodies, "weigh")
        found = [mass_properties(ctx.body(id)) for id in ids]
        heavy = [ctx.weight(id) for id in ids]
        # Without a material the middle is that of the volume.
        by = heavy if sum(heavy) > 0 else [m.volume for m in found]
        x, y, z = (
            sum(w * m.centre[k] for w, m in zip(by, found, strict=True)) / sum(by) for k in range(3)
        )
        return (x, y, z)
