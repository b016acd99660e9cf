"""Split faces: along a plane, a sketch seen square to it, or another face that runs on."""

from __future__ import annotations

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame, plane_frame
from vireo.core.kernel.direct import split_faces
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.trim import curtain, plane_face, run_on, shifted
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.merge import reach_through
from vireo.core.part.picking import faces_by_body
from vireo.core.part.places import PlaneWord, based, plane_of_pick
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class SplitFacesFields(f.StepFields):
    faces: tuple[Pick, ...] = f.picks("Faces", "face", "Click faces to part")
    by: PlaneWord = based("By", other={"sketch": "Sketch"})
    sketch: str = f.later_sketch("Curves", when={"by": ["sketch"]})
    cutter: tuple[Pick, ...] = f.picks(
        "By face", "face", "Click a face: it runs on and parts them", when={"by": ["face"]}
    )
    shift: Formula = f.length("Plane shifted by", "0 mm", when={"by": ["!face", "!sketch"]})


@register
class SplitFaces(StepKind[SplitFacesFields]):
    kind = "split_faces"
    label = "Split faces"
    group = "Faces"
    icon = "splitFaces"
    order = 50
    line = "Part faces without cutting the body: parting lines, painted fields, load patches"
    Fields = SplitFacesFields
    example = """
s = Sketch()
s.line(s.point(-5, 10), s.point(65, 10))
parted = part.split_faces("Parted", faces=[top], by="sketch", sketch=part.sketch(drawing=s, plane=top))
"""

    def build(self, fields: SplitFacesFields, ctx: Context) -> Outcome:
        chosen = faces_by_body(fields.faces, "faces", ctx)
        if fields.by == "sketch":
            data = ctx.sketch(fields.sketch)
            low, high = reach_through(ctx, tuple(chosen), data.frame)
            cutter = curtain(data.curves, data.frame, low, high)
        elif fields.by == "face":
            if len(fields.cutter) != 1:
                raise StepTrouble("pick the one face that parts them", ["field:cutter"])
            index, _ = ctx.find(fields.cutter[0], "cutter", fields.cutter)
            cutter = run_on(ctx.seen(fields.cutter[0].body).faces[index])
        else:
            at, z = plane_of_pick(fields.by, (), "by", ctx)
            d, frame = ctx.value("shift"), plane_frame(at, z)
            cutter = shifted(plane_face(Frame(at, frame.x, z)), (d * z[0], d * z[1], d * z[2]))
        outcome = Outcome()
        for id, faces in chosen.items():
            try:
                outcome.bodies[id] = split_faces(ctx.body(id), faces, cutter, ctx.step)
            except KernelTrouble as error:
                raise StepTrouble(f"the faces stay whole: {error.text}", ["field:faces"]) from error
        return outcome
