"""Offset faces: chosen faces moved in or out, for clearances and allowances."""

from __future__ import annotations

from functools import partial

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.clearance import offset_faces
from vireo.core.kernel.dress import smooth_groups
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.fitting import fitted
from vireo.core.part.picking import faces_by_body, told
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class OffsetFacesFields(f.StepFields):
    faces: tuple[Pick, ...] = f.picks("Faces", "face", "Click faces to move")
    by: Formula = f.length("By", "0.2 mm")


@register
class OffsetFaces(StepKind[OffsetFacesFields]):
    kind = "offset_faces"
    copyable = True
    works_on = ("faces",)
    label = "Offset faces"
    group = "Faces"
    icon = "offset"
    order = 30
    line = "Move faces out (or in, with a minus): clearances, allowances"
    Fields = OffsetFacesFields
    example = """
looser = part.offset_faces("Looser", faces=[top], by=-0.2)
"""
    deciding = ("by",)

    def build(self, fields: OffsetFacesFields, ctx: Context) -> Outcome:
        by = ctx.value("by")
        if abs(by) < 1e-5:
            raise StepTrouble("an offset needs a distance of at least 0.00001 mm", ["field:by"])
        outcome = Outcome()
        for id, faces in faces_by_body(fields.faces, "faces", ctx).items():
            body = ctx.body(id)
            groups = smooth_groups(body, faces)
            along = {i for g in groups for i in g} - set(faces)
            outcome.bodies[id] = fitted(
                partial(offset_faces, body, groups), by, "by", "an offset of"
            )
            outcome.notes += told(along, "moved", ctx)
        return outcome
