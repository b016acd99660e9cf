"""Body of another part, taken as it stands there or as in a mirror, and following it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.documents.base import Choice, member_key
from vireo.core.geometry import BASE_PLANES
from vireo.core.kernel.shape import Body
from vireo.core.kernel.transform import Move, carried
from vireo.core.naming.grammar import body_name, taken_by
from vireo.core.part.context import Context
from vireo.core.part.datum import Dressed
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import LostPick
from vireo.core.trouble import Offer


class TakenFields(f.StepFields):
    document: str = f.part("From the part")
    choice: Choice | None = f.member("Variant", of="document")
    which: str = f.part_body("Body", of="document")
    mirrored: Literal["no", "XY", "XZ", "YZ"] = f.choice(
        "Mirrored", "no", {"no": "As it stands", "YZ": "In YZ", "XZ": "In XZ", "XY": "In XY"}
    )
    material: Literal["own", "there"] = f.choice(
        "Material", "own", {"own": "Of this part", "there": "As it is there"}
    )


@register
class Taken(StepKind[TakenFields]):
    kind = "taken"
    label = "Body of another part"
    group = "Grow"
    icon = "part"
    order = 70
    line = "Bodies of another part, or of a variant of it, as they stand there or mirrored; they follow it"
    Fields = TakenFields
    example = """
knob = project.part("Knob")
knob.primitive("Ball", form="sphere", diameter=18)
copy = part.taken("Knob", document=knob)
"""
    version = 3

    def build(self, fields: TakenFields, ctx: Context) -> Outcome:
        found = ctx.others(member_key(fields.document, fields.choice))
        if fields.which and fields.which not in found:
            raise LostPick(
                "the body it takes is no longer in that part",
                [f"step:{ctx.step}", "field:which"],
                [Offer(label=f"Take {id} instead", fields={"which": id}) for id in list(found)[:3]],
            )
        wanted = [fields.which] if fields.which else list(found)
        outcome = Outcome()
        plane = BASE_PLANES.get(fields.mirrored)
        for k, id in enumerate(wanted):
            body, dress = found[id]
            if plane is not None:
                body = carried(body, Move.mirror(plane.origin, plane.z))
            # Names say whose they are, so that steps of both parts never share one.
            own = body_name(ctx.step, k or "")
            outcome.bodies[own] = Body(body.shape, tuple(taken_by(n, ctx.step) for n in body.names))
            faces = {taken_by(n, ctx.step): tone for n, tone in dress.faces.items()}
            there = fields.material == "there"
            outcome.dress[own] = Dressed(
                dress.name, dress.colour, faces, material=dress.material if there else None,
                mass=dress.mass if there else None,
            )  # fmt: skip
        return outcome

    def documents(self, fields: Mapping[str, Any]) -> set[str]:
        if not fields.get("document"):
            return set()
        chosen = fields.get("choice")
        return {member_key(fields["document"], Choice.model_validate(chosen) if chosen else None)}
