"""Plane: a place to sketch on, made from faces, edges and corners."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame, Triple, cross, dot, plane_frame, unit
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.locate import along_edge, foot_on
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.datum import Datum
from vireo.core.part.places import (
    PlaneWord,
    based,
    meeting,
    place_of_pick,
    plane_of_pick,
    turned_about,
)
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sketchdata import SketchData
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula

_ON = {"form": ["shifted", "turned"]}


class PlaneFields(f.StepFields):
    form: Literal["shifted", "turned", "midway", "points", "tangent", "curve"] = f.choice(
        "Form", "shifted",
        {"shifted": "Shifted", "turned": "Turned about an edge", "midway": "Midway",
         "points": "Three corners", "tangent": "Touching a round face",
         "curve": "Across an edge"},
    )  # fmt: skip
    base: PlaneWord = based("From", when=_ON)
    face: tuple[Pick, ...] = f.picks(
        "Face", "face", "Click a flat face", when={"base": ["face"], "form": ["shifted", "turned"]}
    )
    by: Formula = f.length("Shift", "20 mm", when={"form": ["shifted"]})
    edge: tuple[Pick, ...] = f.picks(
        "Edge", "edge", "Click the straight edge it turns about", when={"form": ["turned"]}
    )
    angle: Formula = f.quantity(
        "angle", "Angle", "45 deg", least=-360, most=360, when={"form": ["turned"]}
    )
    between: tuple[Pick, ...] = f.picks(
        "Between", "face", "Click two flat faces", when={"form": ["midway"]}
    )
    through: tuple[Pick, ...] = f.picks(
        "Through", "any", "Click three corners or round edges", when={"form": ["points"]}
    )
    touch: tuple[Pick, ...] = f.picks(
        "Touching", "face", "Click a cylinder, cone or ball", when={"form": ["tangent"]}
    )
    side: tuple[Pick, ...] = f.picks(
        "On the side of",
        "any",
        "Click a corner or an edge on that side",
        when={"form": ["tangent"]},
    )
    across: tuple[Pick, ...] = f.picks(
        "Across", "edge", "Click the edge it stands across", when={"form": ["curve"]}
    )
    length: Formula = f.length("Length along it", "0 mm", least=0, when={"form": ["curve"]})
    back: bool = f.toggle("From the other end", when={"form": ["curve"]})


@register
class Plane(StepKind[PlaneFields]):
    kind = "plane"
    label = "Plane"
    group = "Refer"
    icon = "plane"
    order = 10
    line = "Shifted, turned, midway, through corners, touching a round face, across an edge"
    Fields = PlaneFields
    example = """
middle = part.plane("Middle", base="XY", by=10)
section = part.sketch("Section", drawing=Sketch(), plane=middle)
"""
    deciding = ("by", "angle")

    def build(self, fields: PlaneFields, ctx: Context) -> Outcome:
        frame = {
            "shifted": self._shifted, "turned": self._turned, "midway": self._midway,
            "points": self._points, "tangent": self._tangent, "curve": self._curve,
        }[fields.form](fields, ctx)  # fmt: skip
        # A plane is kept as a sketch without curves: where it lies is all there is to it.
        return Outcome(sketch=SketchData(ctx.step, frame, (), {}), datum=Datum("plane", frame))

    def _base(self, fields: PlaneFields, ctx: Context) -> Frame:
        at, normal = plane_of_pick(fields.base, fields.face, "face", ctx)
        return plane_frame(at, normal)

    def _shifted(self, fields: PlaneFields, ctx: Context) -> Frame:
        base = self._base(fields, ctx)
        return Frame(base.out((0.0, 0.0, ctx.value("by"))), base.x, base.z)

    def _turned(self, fields: PlaneFields, ctx: Context) -> Frame:
        if len(fields.edge) != 1:
            raise StepTrouble("pick the one straight edge it turns about", ["field:edge"])
        base = self._base(fields, ctx)
        return turned_about(fields.edge[0], "edge", base, ctx.value("angle"), ctx)

    def _midway(self, fields: PlaneFields, ctx: Context) -> Frame:
        if len(fields.between) != 2:
            raise StepTrouble("pick two flat faces", ["field:between"])
        one, two = (ctx.frame_of_face(p, "between", fields.between) for p in fields.between)
        facing = -1.0 if dot(one.z, two.z) < 0 else 1.0
        z2: Triple = (facing * two.z[0], facing * two.z[1], facing * two.z[2])
        lean = cross(one.z, z2)
        if dot(lean, lean) < 1e-18:
            a, b = dot(one.origin, one.z), dot(two.origin, one.z)
            k = 0.5 * (a + b)
            return plane_frame((k * one.z[0], k * one.z[1], k * one.z[2]), one.z)
        # Leaning faces: the plane that halves their angle, through the line they meet in.
        z = unit((one.z[0] + z2[0], one.z[1] + z2[1], one.z[2] + z2[2]))
        return plane_frame(meeting(one, two), z)

    def _points(self, fields: PlaneFields, ctx: Context) -> Frame:
        if len(fields.through) != 3:
            raise StepTrouble("pick three corners", ["field:through"])
        p = [place_of_pick(pick, "through", ctx, fields.through) for pick in fields.through]
        u, v = (tuple(q[k] - p[0][k] for k in range(3)) for q in p[1:])
        n = cross(u, v)  # type: ignore[arg-type]
        if dot(n, n) < 1e-16:
            raise StepTrouble("the three corners lie in one line", ["field:through"])
        return plane_frame(p[0], n)

    def _tangent(self, fields: PlaneFields, ctx: Context) -> Frame:
        """Touches the round face where it is nearest the place that tells the side."""
        if len(fields.touch) != 1 or len(fields.side) != 1:
            raise StepTrouble("pick a round face and a place on its side", ["field:touch"])
        index, topology = ctx.find(fields.touch[0], "touch", fields.touch)
        if topology.faces[index].kind not in ("cylinder", "cone", "sphere"):
            raise StepTrouble("a plane can touch a cylinder, a cone or a ball", ["field:touch"])
        at = place_of_pick(fields.side[0], "side", ctx)
        try:
            foot, normal = foot_on(ctx.seen(fields.touch[0].body).faces[index], at)
        except KernelTrouble as error:
            raise StepTrouble(f"{error.text}: take a place off the axis", ["field:side"]) from error
        return Frame(foot, plane_frame(foot, normal).x, normal)

    def _curve(self, fields: PlaneFields, ctx: Context) -> Frame:
        if len(fields.across) != 1:
            raise StepTrouble("pick the one edge it stands across", ["field:across"])
        index, _ = ctx.find(fields.across[0], "across", fields.across)
        edge = ctx.seen(fields.across[0].body).edges[index]
        try:
            at, way = along_edge(edge, ctx.value("length"), fields.back)
        except KernelTrouble as error:
            raise StepTrouble(error.text, ["field:length"]) from error
        frame = plane_frame(at, way)
        return Frame(at, frame.x, frame.z)

    def caption(self, fields: PlaneFields) -> str:
        return {
            "midway": "midway", "points": "three corners", "tangent": "touching", "curve": "across",
        }.get(fields.form, "")  # fmt: skip
