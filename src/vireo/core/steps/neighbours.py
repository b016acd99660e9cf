"""Neighbours: faces, edges or all of what stands beside a part in an assembly, frozen as it was taken."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.documents.frames import Number
from vireo.core.kernel.lending import taken_up
from vireo.core.kernel.shape import Body
from vireo.core.naming import Pick
from vireo.core.naming.grammar import body_name, taken_by
from vireo.core.naming.pick import Witness
from vireo.core.part.context import Context
from vireo.core.part.datum import Dressed
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.trouble import BadInput


class Seen(BaseModel):
    """A picked face or edge of another part, as picks keep it: what it is, what it is called there,
    and what it looked like."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    of: Literal["face", "edge"]
    called: tuple[str, ...] = Field(min_length=1, max_length=64)
    look: Witness = Witness()

    @staticmethod
    def from_pick(pick: Pick) -> Seen:
        """Raises BadInput for what cannot be taken."""
        if pick.kind not in ("face", "edge"):
            raise BadInput("faces and edges can be taken from a neighbour, or all of it")
        return Seen(of=pick.kind, called=pick.name, look=pick.witness)

    def pick(self, body: str) -> Pick:
        return Pick(body=body, kind=self.of, name=self.called, witness=self.look)


class Frozen(BaseModel):
    """What was taken of one body, as it was then. `component` and `path` lead to it in the
    assembly, `solid` is its body there; without `seen` it is all of it. `file` holds its shape as it
    stood seen from the part, `names` are those of its faces (edges, where it has none). `key` is
    the body's content key, `at` where it stood (a 3x4 matrix by rows, mm). `number` tells it from
    the others of the step for good. A first version also said the form, which the shape says."""

    model_config = ConfigDict(frozen=True, extra="ignore")
    number: int = Field(ge=0, le=10_000)
    component: str = Field(max_length=24)
    path: tuple[str, ...] = Field(default=(), max_length=16)
    solid: str = Field(max_length=60)
    title: str = Field(max_length=400)
    seen: tuple[Seen, ...] = Field(default=(), max_length=2000)
    names: tuple[str, ...] = Field(max_length=20_000)
    file: str = Field(max_length=80)
    key: str = Field(max_length=200)
    at: tuple[Number, ...] = Field(min_length=12, max_length=12)


class NeighboursFields(f.StepFields):
    document: str = f.hidden("document")
    component: str = f.hidden("component")
    taken: tuple[Frozen, ...] = f.frozen("Taken from")

    @model_validator(mode="after")
    def _told_apart(self) -> NeighboursFields:
        numbers = [one.number for one in self.taken]
        if len(set(numbers)) < len(numbers):
            raise BadInput("what is taken is numbered, each number once", ["field:taken"])
        return self


@register
class Neighbours(StepKind[NeighboursFields]):
    kind = "neighbours"
    label = "Neighbours"
    group = "In place"
    icon = "refer"
    order = 10
    line = "Faces, edges or bodies of what stands beside this part in its assembly, as they are now"
    Fields = NeighboursFields

    def build(self, fields: NeighboursFields, ctx: Context) -> Outcome:
        if not fields.taken:
            raise StepTrouble(
                "click faces or edges of the components around, or choose whole ones",
                [f"step:{ctx.step}", "field:taken"],
            )
        outcome = Outcome()
        for one in fields.taken:
            try:
                body = taken_up(ctx.blob(one.file), one.names)
            except BadInput as error:
                raise StepTrouble(
                    f"what was taken of {one.title} cannot be read any more ({error.text}): leave it out "
                    "and take it again",
                    [f"step:{ctx.step}", "field:taken"],
                ) from error
            own = body_name(ctx.step, one.number or "")
            names = tuple(taken_by(n, ctx.step) for n in one.names)
            outcome.bodies[own] = Body(body.shape, names)
            outcome.dress[own] = Dressed(one.title[:80], _TONE, tool=True, aside=True)
        return outcome

    def files(self, fields: Mapping[str, Any]) -> set[str]:
        return {one["file"] for one in fields.get("taken", ())}

    def caption(self, fields: NeighboursFields) -> str:
        titles = list(dict.fromkeys(one.title for one in fields.taken))
        return titles[0] if len(titles) == 1 else f"{len(titles)} components"


#: What is only there to refer to.
_TONE = "#9aa3ad"
