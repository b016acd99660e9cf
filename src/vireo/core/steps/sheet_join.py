"""Join sheets: a sheet put together with its mirror image, or with another sheet, along flat pieces in one
plane."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.naming import Pick
from vireo.core.naming.grammar import body_name
from vireo.core.part.context import Context
from vireo.core.part.places import PlaneWord, based, plane_of_pick
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sheeting import changed, handed
from vireo.core.part.trouble import StepTrouble
from vireo.core.sheet.joining import image, joined

_MIRROR = {"what": ["mirror", "image"]}


class SheetJoinFields(f.StepFields):
    what: Literal["mirror", "image", "sheets"] = f.choice(
        "Join", "mirror",
        {"mirror": "With its mirror image", "image": "Mirror image alone", "sheets": "Sheets"},
    )  # fmt: skip
    bodies: tuple[str, ...] = f.bodies("Sheets")
    plane: PlaneWord = based("In", default="YZ", when=_MIRROR)
    face: tuple[Pick, ...] = f.picks(
        "Face", "face", "Click a flat face to mirror in", when={"plane": ["face"], **_MIRROR}
    )


@register
class SheetJoin(StepKind[SheetJoinFields]):
    kind = "sheet_join"
    label = "Join sheets"
    group = "Sheet"
    icon = "symmetric"
    order = 100
    line = "Put a sheet together with its mirror image, or with another, where flat pieces meet in one plane"
    Fields = SheetJoinFields
    example = """
s = Sketch()
s.box(100, 0, 160, 40)
part.sheet_plate("Plate", sketch=part.sketch(drawing=s, plane="XY"), thickness=1.5, radius=2)
sheet = part.bodies[1]
part.sheet_join("Other hand", what="image", bodies=[sheet.id], plane="XZ")
"""

    def build(self, fields: SheetJoinFields, ctx: Context) -> Outcome:
        ids = list(fields.bodies) or ctx.sheet_ids()
        if fields.what == "sheets":
            if len(ids) != 2:
                raise StepTrouble("choose the two sheets that become one", ["field:bodies"])
            one, other = (ctx.sheet(id) for id in ids)
            made = joined(one, other, ctx.step)
            outcome = handed(ctx, {ids[0]: made}, changed(one, made))
            outcome.bodies[ids[1]] = None
            return outcome
        if len(ids) != 1:
            raise StepTrouble(
                "choose the one sheet that is mirrored"
                if ids
                else "there is no sheet yet: Plate makes one",
                ["field:bodies"],
            )
        body = ctx.sheet(ids[0])
        at, normal = plane_of_pick(fields.plane, fields.face, "face", ctx)
        other = image(body, at, normal, ctx.step)
        if fields.what == "image":
            return handed(ctx, {body_name(ctx.step): other})
        made = joined(body, other, ctx.step)
        return handed(ctx, {ids[0]: made}, changed(body, made))
