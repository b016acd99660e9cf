"""Plane: a place to sketch on, made from faces, edges and corners."""

from __future__ import annotations

from typing import Literal

from vireo.core.geometry import Frame, Triple, cross, dot, plane_frame, unit
from vireo.core.naming import Pick
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome, StepTrouble
from vireo.core.part.kind import StepKind, register
from vireo.core.part.places import plane_of_pick, turned_about
from vireo.core.part.sketchdata import SketchData

_ON = {"form": ["shifted", "turned"]}


class PlaneFields(f.StepFields):
    form: Literal["shifted", "turned", "midway", "points"] = f.choice(
        "Form", "shifted",
        {"shifted": "Shifted", "turned": "Turned about an edge", "midway": "Midway",
         "points": "Three corners"},
    )  # fmt: skip
    base: Literal["XY", "XZ", "YZ", "face"] = f.choice(
        "From", "XY", {"XY": "XY", "XZ": "XZ", "YZ": "YZ", "face": "Face"}, when=_ON
    )
    face: tuple[Pick, ...] = f.picks(
        "Face", "face", "Click a flat face", when={"base": ["face"], "form": ["shifted", "turned"]}
    )
    by: str = f.length("Shift", "20 mm", when={"form": ["shifted"]})
    edge: tuple[Pick, ...] = f.picks(
        "Edge", "edge", "Click the straight edge it turns about", when={"form": ["turned"]}
    )
    angle: str = f.quantity(
        "angle", "Angle", "45 deg", least=-360, most=360, when={"form": ["turned"]}
    )
    between: tuple[Pick, ...] = f.picks(
        "Between", "face", "Click two flat faces", when={"form": ["midway"]}
    )
    through: tuple[Pick, ...] = f.picks(
        "Through", "vertex", "Click three corners", when={"form": ["points"]}
    )


@register
class Plane(StepKind[PlaneFields]):
    kind = "plane"
    label = "Plane"
    group = "Refer"
    icon = "plane"
    line = "Shifted, turned about an edge, midway between faces, through three corners"
    Fields = PlaneFields
    deciding = ("by", "angle")

    def build(self, fields: PlaneFields, ctx: Context) -> Outcome:
        frame = {
            "shifted": self._shifted, "turned": self._turned, "midway": self._midway,
            "points": self._points,
        }[fields.form](fields, ctx)  # fmt: skip
        # A plane is kept as a sketch without curves: where it lies is all there is to it.
        return Outcome(sketch=SketchData(ctx.step, frame, (), {}))

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
        one, two = (ctx.frame_of_face(p, "between") for p in fields.between)
        facing = -1.0 if dot(one.z, two.z) < 0 else 1.0
        z2: Triple = (facing * two.z[0], facing * two.z[1], facing * two.z[2])
        lean = cross(one.z, z2)
        if dot(lean, lean) < 1e-18:
            a, b = dot(one.origin, one.z), dot(two.origin, one.z)
            k = 0.5 * (a + b)
            return plane_frame((k * one.z[0], k * one.z[1], k * one.z[2]), one.z)
        # Leaning faces: the plane that halves their angle, through the line they meet in.
        z = unit((one.z[0] + z2[0], one.z[1] + z2[1], one.z[2] + z2[2]))
        return plane_frame(_meeting(one, two, lean), z)

    def _points(self, fields: PlaneFields, ctx: Context) -> Frame:
        if len(fields.through) != 3:
            raise StepTrouble("pick three corners", ["field:through"])
        p = []
        for pick in fields.through:
            index, topology = ctx.find(pick, "through", fields.through)
            p.append(topology.vertices[index].at)
        u, v = (tuple(q[k] - p[0][k] for k in range(3)) for q in p[1:])
        n = cross(u, v)  # type: ignore[arg-type]
        if dot(n, n) < 1e-16:
            raise StepTrouble("the three corners lie in one line", ["field:through"])
        return plane_frame(p[0], n)

    def caption(self, fields: PlaneFields) -> str:
        return {"midway": "midway", "points": "three corners"}.get(fields.form, "")


def _meeting(one: Frame, two: Frame, along: Triple) -> Triple:
    """A point on the line in which two planes meet (Goldman, Graphics Gems, 1990)."""
    a, b = dot(one.origin, one.z), dot(two.origin, two.z)
    k = dot(along, along)
    u, v = cross(two.z, along), cross(along, one.z)
    sign = 1.0 if dot(cross(one.z, two.z), along) > 0 else -1.0
    p = [sign * (a * u[i] + b * v[i]) / k for i in range(3)]
    return (p[0], p[1], p[2])
