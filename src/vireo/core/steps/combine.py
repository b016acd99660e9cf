"""Combine: bodies of the part added up, cut from each other, or reduced to their overlap."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.boolean import combine
from vireo.core.part.context import Context
from vireo.core.part.datum import Dressed
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble


class CombineFields(f.StepFields):
    operation: Literal["add", "cut", "overlap"] = f.choice(
        "Do", "add", {"add": "Add up", "cut": "Cut", "overlap": "Overlap"}
    )
    target: tuple[str, ...] = f.bodies("Into", free=True)
    tools: tuple[str, ...] = f.bodies("With", free=True)
    keep: bool = f.toggle("Keep the others", when={"operation": ["cut", "overlap"]})


@register
class Combine(StepKind[CombineFields]):
    kind = "combine"
    label = "Combine bodies"
    group = "Cut"
    icon = "combine"
    order = 40
    line = "Add bodies up, cut one from another, or keep their overlap"
    Fields = CombineFields
    example = """
part.primitive("Post", width=10, depth=10, height=40)
target, tool = [b.id for b in part.bodies]
one = part.combine("One body", operation="add", target=[target], tools=[tool])
"""
    version = 2

    def build(self, fields: CombineFields, ctx: Context) -> Outcome:
        ids = ctx.body_ids()
        if len({*ids, *fields.target, *fields.tools}) < 2 or not (ids or fields.target):
            raise StepTrouble("there must be two bodies at least to combine")
        target = fields.target[0] if fields.target else ids[0]
        tools = list(fields.tools) or [i for i in ids if i != target]
        if target in tools:
            raise StepTrouble("a body cannot be combined with itself", ["field:tools"])
        made = combine(
            fields.operation, ctx.body(target), [ctx.body(t) for t in tools], "combining"
        )
        outcome = Outcome(bodies={target: made})
        tools = [t for t in tools if not ctx.stands_aside(t)]
        if fields.keep and fields.operation != "add":
            # What is kept after it has cut has no mass and is not handed over, unless said so.
            outcome.dress |= {t: Dressed(tool=True) for t in tools}
        else:
            outcome.bodies |= dict.fromkeys(tools, None)
        return outcome
