"""Delete faces: faces taken away, those around run on until they meet."""

from __future__ import annotations

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.dress import without_faces
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.picking import faces_by_body
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble


class DeleteFacesFields(f.StepFields):
    faces: tuple[Pick, ...] = f.picks("Faces", "face", "Click faces to take away")


@register
class DeleteFaces(StepKind[DeleteFacesFields]):
    kind = "delete_faces"
    label = "Delete faces"
    group = "Faces"
    icon = "bin"
    order = 70
    line = "Take holes, fillets, bosses away; the faces around close the gap"
    Fields = DeleteFacesFields
    example = """
part.fillet(edges=[rim], radius=3)
round_ = min(part.body.faces, key=lambda f: (f.kind != "cylinder", f.at))
sharp = part.delete_faces("Sharp again", faces=[round_])
"""

    def build(self, fields: DeleteFacesFields, ctx: Context) -> Outcome:
        outcome = Outcome()
        for id, faces in faces_by_body(fields.faces, "faces", ctx).items():
            try:
                outcome.bodies[id] = without_faces(ctx.body(id), faces)
            except KernelTrouble as error:
                where = [f"step:{ctx.step}", "field:faces"]
                raise StepTrouble(
                    f"these faces cannot be taken away: {error.text}", where
                ) from error
        return outcome

    def caption(self, fields: DeleteFacesFields) -> str:
        return f"{len(fields.faces)} face{'s' * (len(fields.faces) != 1)}"
