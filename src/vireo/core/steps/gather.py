"""Set: faces, edges or bodies gathered by pick or by rule, used wherever picks are asked for."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.datum import Rule
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.sets import RULES, members, snapshot
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula
from vireo.core.trouble import Report

_PICKED = {"by": ["picked", "chain", "parallel"], "of": ["!body"]}

_MANY = {"face": "faces", "edge": "edges", "body": "bodies"}


class SetFields(f.StepFields):
    of: Literal["face", "edge", "body"] = f.choice(
        "Gathers", "face", {"face": "Faces", "edge": "Edges", "body": "Bodies"}
    )
    by: Literal["picked", "of_steps", "round", "chain", "parallel", "untouched"] = f.choice(
        "By", "picked", {word: said for word, (said, _) in RULES.items()}
    )
    picks: tuple[Pick, ...] = f.picks(
        "Picks", "any", "Click what belongs to it, or what it starts from", when=_PICKED
    )
    steps: tuple[str, ...] = f.any_steps("Steps", when={"by": ["of_steps"]})
    radius: Formula = f.length("Radius (0: any)", "0 mm", least=0, when={"by": ["round"]})
    held: tuple[str, ...] = f.bodies("Bodies", when={"of": ["body"], "by": ["picked"]})
    bodies: tuple[str, ...] = f.bodies(
        "Of bodies", when={"by": ["!picked", "!chain"], "of": ["!body"]}
    )


@register
class Set(StepKind[SetFields]):
    kind = "set"
    label = "Set"
    group = "Refer"
    icon = "set"
    order = 60
    line = "Faces, edges or bodies gathered by pick or rule, to be used as one pick"
    Fields = SetFields
    example = """
edges = part.step("set", "Upright", of="edge", by="parallel", picks=[body.edge_at(0, 0, 10)])
"""

    def build(self, fields: SetFields, ctx: Context) -> Outcome:
        if fields.of != "body" and fields.by in _PICKED["by"]:
            if not fields.picks:
                raise StepTrouble("pick what it starts from", ["field:picks"])
            wrong = [p for p in fields.picks if p.kind != fields.of]
            if wrong:
                raise StepTrouble(
                    f"the set gathers {fields.of}s, but a picked one is a {wrong[0].kind}",
                    ["field:picks"],
                )
        if fields.by == "of_steps" and not fields.steps:
            raise StepTrouble(
                f"choose the steps whose {_MANY[fields.of]} it gathers", ["field:steps"]
            )
        size = ctx.value("radius") if fields.by == "round" else 0.0
        rule = Rule(
            word=fields.by, kind=fields.of, picks=fields.picks, steps=fields.steps,
            bodies=fields.held if fields.of == "body" else fields.bodies, size=size,
        )  # fmt: skip
        if fields.by == "untouched":
            rule = rule.model_copy(update={"known": snapshot(rule, ctx)})
        found = members(rule, ctx)
        count = f"{len(found)} {fields.of if len(found) == 1 else _MANY[fields.of]} now"
        note = Report(code="gathered", text=count, where=[f"step:{ctx.step}"])
        return Outcome(group=rule, notes=[note])

    def caption(self, fields: SetFields) -> str:
        return RULES[fields.by][0].lower()
