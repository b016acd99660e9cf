"""Split body: a body cut apart by a plane, a face run on, or another body."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame, dot, plane_frame
from vireo.core.kernel.forms.kind import form_of
from vireo.core.kernel.gate import checked
from vireo.core.kernel.locate import foot_on
from vireo.core.kernel.shape import Body
from vireo.core.kernel.surfaces import parted
from vireo.core.kernel.trim import beside, curtain, plane_face, run_on, split
from vireo.core.naming import Pick
from vireo.core.naming.grammar import face_name, piece_name
from vireo.core.part.context import Context
from vireo.core.part.merge import reach_through
from vireo.core.part.places import PlaneWord, based, plane_of_pick
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class SplitFields(f.StepFields):
    bodies: tuple[str, ...] = f.bodies("Bodies")
    by: PlaneWord = based("By", other={"sketch": "Sketch", "surface": "Surface"})
    shift: Formula = f.length(
        "Plane shifted by", "0 mm", when={"by": ["!face", "!sketch", "!surface"]}
    )
    face: tuple[Pick, ...] = f.picks(
        "Face", "face", "Click a face: it runs on and cuts", when={"by": ["face"]}
    )
    sketch: str = f.later_sketch("Curves", when={"by": ["sketch"]})
    surface: tuple[str, ...] = f.bodies("Surface that cuts", when={"by": ["surface"]})
    keep: Literal["both", "front", "behind"] = f.choice(
        "Keep", "both", {"both": "All", "front": "In front", "behind": "Behind"}
    )


@register
class SplitBody(StepKind[SplitFields]):
    kind = "split_body"
    forms = ("solid", "surface")
    label = "Split body"
    group = "Cut"
    icon = "split"
    order = 30
    line = "Cut bodies apart by a plane, a face that runs on, or curves of a sketch"
    Fields = SplitFields
    example = """
halves = part.split_body("Halves", by="YZ", shift=30)
"""
    deciding = ("shift",)

    def build(self, fields: SplitFields, ctx: Context) -> Outcome:
        if fields.by == "face":
            if len(fields.face) != 1:
                raise StepTrouble("pick the one face that cuts", ["field:face"])
            index, topology = ctx.find(fields.face[0], "face", fields.face)
            face = topology.faces[index]
            tool = run_on(ctx.seen(fields.face[0].body).faces[index])
            at, normal = face.at, face.direction or (0.0, 0.0, 1.0)
        elif fields.by == "surface":
            if len(fields.surface) != 1:
                raise StepTrouble("choose the one surface that cuts", ["field:surface"])
            cutter = ctx.seen(fields.surface[0])
            if form_of(cutter).word != "surface":
                raise StepTrouble("what cuts must be a surface", ["field:surface"])
            tool = cutter.shape
            first = ctx.topology(fields.surface[0]).faces[0]
            foot, normal = foot_on(cutter.faces[0], first.at)
            at = foot
        elif fields.by == "sketch":
            data = ctx.sketch(fields.sketch)
            low, high = reach_through(ctx, fields.bodies, data.frame)
            tool = curtain(data.curves, data.frame, low, high)
            # In front is to the left of the curves as they are drawn.
            at, normal = beside(data.curves, data.frame)
        else:
            at, normal = plane_of_pick(fields.by, (), "by", ctx)
            d = ctx.value("shift")
            at = (at[0] + d * normal[0], at[1] + d * normal[1], at[2] + d * normal[2])
            frame = plane_frame(at, normal)
            tool = plane_face(Frame(at, frame.x, frame.z))
        ids = [id for id in ctx.chosen(fields.bodies, "split") if id not in fields.surface]
        outcome = Outcome()
        for id in ids:
            whole, new = ctx.body(id), face_name(ctx.step, "cut")
            if form_of(whole).word == "surface":
                pieces = parted(whole, tool, new, "splitting")
            else:
                cut = split(whole, [tool], new, "splitting")
                pieces = [Body(checked("the piece", shape), names) for shape, names in cut]
            if len(pieces) < 2:
                continue
            made = []
            for body in pieces:
                c = form_of(body).mass(body).centre
                rise = dot((c[0] - at[0], c[1] - at[1], c[2] - at[2]), normal)
                made.append((rise, c, body))
            made.sort(key=lambda x: (-round(x[0], 6), x[1]))
            kept = [
                b for rise, _, b in made
                if fields.keep == "both" or (rise > 0) == (fields.keep == "front")
            ]  # fmt: skip
            if not kept:
                raise StepTrouble("nothing of the body would be kept")
            outcome.bodies[id] = kept[0]
            for n, piece in enumerate(kept[1:], start=1):
                outcome.bodies[piece_name(id, ctx.step, n)] = piece
        if not outcome.bodies:
            missed = "what should cut misses the bodies"
            if fields.by == "surface":
                missed = "the surface does not go all across the bodies, so it parts none of them"
            raise StepTrouble(missed, [f"step:{ctx.step}"])
        return outcome
