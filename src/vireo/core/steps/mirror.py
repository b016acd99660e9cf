"""Mirror: steps done again, or bodies copied, in a mirror."""

from __future__ import annotations

from typing import Literal

from vireo.core.kernel.transform import Move
from vireo.core.naming import Pick
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome
from vireo.core.part.copying import CopyFields, copied
from vireo.core.part.kind import StepKind, register
from vireo.core.part.places import plane_of_pick


class MirrorFields(CopyFields):
    plane: Literal["XY", "XZ", "YZ", "face"] = f.choice(
        "In", "YZ", {"XY": "XY", "XZ": "XZ", "YZ": "YZ", "face": "Face"}
    )
    face: tuple[Pick, ...] = f.picks(
        "Face", "face", "Click a flat face to mirror in", when={"plane": ["face"]}
    )


@register
class Mirror(StepKind[MirrorFields]):
    kind = "mirror"
    label = "Mirror"
    group = "Copy"
    icon = "symmetric"
    line = "Do steps again or copy bodies in a plane or flat face"
    Fields = MirrorFields

    def build(self, fields: MirrorFields, ctx: Context) -> Outcome:
        at, normal = plane_of_pick(fields.plane, fields.face, "face", ctx)
        return copied(fields, ctx, [("mirror", Move.mirror(at, normal))])
