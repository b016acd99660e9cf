"""Mirror: steps done again, or bodies copied, in a mirror."""

from __future__ import annotations

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.transform import Move
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.copying import CopyFields, copied
from vireo.core.part.places import PlaneWord, based, plane_of_pick
from vireo.core.part.products.outcome import Outcome


class MirrorFields(CopyFields):
    plane: PlaneWord = based("In", default="YZ")
    face: tuple[Pick, ...] = f.picks(
        "Face", "face", "Click a flat face to mirror in", when={"plane": ["face"]}
    )


@register
class Mirror(StepKind[MirrorFields]):
    kind = "mirror"
    forms = ("solid", "surface")
    label = "Mirror"
    group = "Copy"
    icon = "symmetric"
    order = 30
    line = "Do steps again or copy bodies in a plane or flat face"
    Fields = MirrorFields
    example = """
other = part.mirror("Other hand", what="bodies", bodies=[body.id], plane="YZ")
"""

    def build(self, fields: MirrorFields, ctx: Context) -> Outcome:
        at, normal = plane_of_pick(fields.plane, fields.face, "face", ctx)
        return copied(fields, ctx, [("mirror", Move.mirror(at, normal))])
