"""Emboss: outlines and text raised from or sunk into flat and cylindrical faces."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame, Triple, dot
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.grow import prism
from vireo.core.kernel.locate import foot_on
from vireo.core.kernel.profile import Outline, outline_of
from vireo.core.kernel.shape import Body, solids_of
from vireo.core.kernel.sweep import together
from vireo.core.kernel.wrap import cylinder_of, wound
from vireo.core.naming import Pick
from vireo.core.naming.grammar import face_name
from vireo.core.part.context import Context
from vireo.core.part.merge import merge
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula

#: Into the face, so that nothing is left between (mm).
_SEATED = 0.05


class EmbossFields(f.StepFields):
    sketch: str = f.sketch("Outlines")
    regions: tuple[f.RegionPick, ...] = f.regions("sketch")
    face: tuple[Pick, ...] = f.picks("On", "face", "Click a flat or cylindrical face")
    way: Literal["raise", "sink"] = f.choice("Way", "raise", {"raise": "Raised", "sink": "Sunk"})
    height: Formula = f.length("Height", "0.5 mm", above=0)


@register
class Emboss(StepKind[EmbossFields]):
    kind = "emboss"
    label = "Emboss"
    group = "Faces"
    icon = "emboss"
    order = 40
    line = "Raise text or outlines from a flat or round face, or sink them into it"
    Fields = EmbossFields
    example = """
s = Sketch()
s.box(10, 10, 30, 18)
mark = part.emboss("Mark", sketch=part.sketch(drawing=s, plane=top), face=[top], way="sink", height=0.4)
"""
    copyable = True
    deciding = ("height",)

    def build(self, fields: EmbossFields, ctx: Context) -> Outcome:
        if len(fields.face) != 1:
            raise StepTrouble("pick the one face it lies on", ["field:face"])
        chosen = ctx.regions(fields.sketch, fields.regions, "regions")
        frame = ctx.sketch(fields.sketch).frame
        index, topology = ctx.find(fields.face[0], "face", fields.face)
        body = ctx.body(fields.face[0].body)
        kind = topology.faces[index].kind
        height = ctx.value("height")
        low, high = (-_SEATED, height) if fields.way == "raise" else (-height, _SEATED)
        made = []
        for n, region in enumerate(chosen):
            outline = outline_of(ctx.arrangement(fields.sketch), [region])
            name = face_name(ctx.step, n) if len(chosen) > 1 else ctx.step
            if kind == "plane":
                made.append(self._flat(outline, frame, body, index, low, high, name))
            elif kind == "cylinder":
                made.append(self._round(outline, frame, body, index, low, high, name))
            else:
                raise StepTrouble(
                    f"text and outlines go onto flat and cylindrical faces, not onto a {kind}",
                    ["field:face"],
                )
        tool = together(made, "the outlines")
        operation: Literal["add", "cut"] = "add" if fields.way == "raise" else "cut"
        into = (fields.face[0].body,)
        outcome = merge(ctx, operation, tool, into, "this emboss")
        before = len(solids_of(body.shape))
        if any(b is not None and len(solids_of(b.shape)) > before for b in outcome.bodies.values()):
            raise StepTrouble("some of it lies beside the face and would float", ["field:sketch"])
        return outcome

    def _flat(
        self, outline: Outline, frame: Frame, body: Body, index: int, low: float, high: float,
        name: str,
    ) -> Body:  # fmt: skip
        at, normal = foot_on(body.faces[index], frame.origin)
        if abs(dot(normal, frame.z)) < 1.0 - 1e-6:
            raise StepTrouble(
                "the sketch must be parallel to a flat face it is put onto", ["field:sketch"]
            )
        sign = 1.0 if dot(normal, frame.z) > 0 else -1.0
        lift = dot(_from(at, frame.origin), frame.z)
        a, b = sorted((lift + sign * low, lift + sign * high))
        return prism(outline, frame, a, b, name)

    def _round(
        self, outline: Outline, frame: Frame, body: Body, index: int, low: float, high: float,
        name: str,
    ) -> Body:  # fmt: skip
        base, axis, radius = cylinder_of(body.faces[index])
        if abs(dot(frame.z, axis)) > 1e-6:
            raise StepTrouble(
                "the sketch must stand beside the cylinder: its plane parallel to the axis",
                ["field:sketch"],
            )
        # It goes onto the side the sketch looks to, so that text reads from there.
        hollow = dot(foot_on(body.faces[index], _out(base, frame.z, radius))[1], frame.z) < 0
        a, b = (radius - high, radius - low) if hollow else (radius + low, radius + high)
        try:
            return wound(outline, frame, (base, axis), radius, a, b, name)
        except KernelTrouble as error:
            raise StepTrouble(f"{error.text}: see that it fits round the cylinder") from error


def _from(a: Triple, b: Triple) -> Triple:
    return (a[0] - b[0], a[1] - b[1], a[2] - b[2])


def _out(base: Triple, way: Triple, by: float) -> Triple:
    return (base[0] + by * way[0], base[1] + by * way[1], base[2] + by * way[2])
