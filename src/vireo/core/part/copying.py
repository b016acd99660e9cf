"""What every way of copying shares: what is copied, where to, what becomes of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal

from vireo.core.kernel.boolean import Nothing, combine
from vireo.core.kernel.shape import Body, solids_of
from vireo.core.kernel.transform import Move, carried
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome, StepTrouble
from vireo.core.trouble import Offer, Report


class CopyFields(f.StepFields):
    what: Literal["steps", "bodies"] = f.choice(
        "Copy", "steps", {"steps": "Steps", "bodies": "Bodies"}
    )
    steps: tuple[str, ...] = f.steps("Steps", when={"what": ["steps"]})
    bodies: tuple[str, ...] = f.bodies("Bodies", when={"what": ["bodies"]})
    result: Literal["new", "add"] = f.choice(
        "Result", "new", {"new": "New bodies", "add": "Add to the original"},
        when={"what": ["bodies"]},
    )  # fmt: skip
    skips: tuple[int, ...] = f.numbers("Leave out")


def copied(fields: CopyFields, ctx: Context, moves: Sequence[tuple[str, Move]]) -> Outcome:
    """Do chosen steps or copy chosen bodies at every move; `moves` go with the index that names
    them (``<step>/<index>/...``), the original not among them."""
    if not moves:
        raise StepTrouble("no copy is left: look at the number and what is left out")
    if fields.what == "bodies":
        return _bodies(fields, ctx, moves)
    if not fields.steps:
        raise StepTrouble("choose the steps to do again", ["field:steps"])
    outcome = Outcome()
    bodies: dict[str, Body] = {}
    missed: list[str] = []
    for id in fields.steps:
        operation, tools = ctx.tools(id)
        made = [carried(t, move, f"{ctx.step}/{index}") for index, move in moves for t in tools]
        outcome.tools += made
        touched = False
        for body in list(bodies) or ctx.body_ids():
            base = bodies.get(body) or ctx.body(body)
            try:
                made_of = combine(operation, base, made, "these copies")  # type: ignore[arg-type]
            except Nothing:
                continue
            if operation == "add" and _apart(made_of, base):
                continue
            bodies[body] = made_of
            touched = True
        outcome.operation = operation
        if not touched:
            missed.append(id)
    if missed and len(missed) == len(fields.steps):
        raise Nothing("no copy touches a body", [f"step:{ctx.step}"])
    for id in missed:
        outcome.notes.append(
            Report(code="missed", text=f"no copy of {id} touches a body", where=[f"step:{id}"])
        )
    outcome.bodies |= bodies
    return outcome


def _bodies(fields: CopyFields, ctx: Context, moves: Sequence[tuple[str, Move]]) -> Outcome:
    ids = ctx.chosen(fields.bodies, "copy")
    outcome = Outcome()
    for id in ids:
        body = ctx.body(id)
        made = {index: carried(body, move, f"{ctx.step}/{index}") for index, move in moves}
        if fields.result == "add":
            whole = combine("add", body, list(made.values()), "these copies")
            if _apart(whole, body):
                raise Nothing(
                    "the copies stand apart from the body they are added to",
                    [f"step:{ctx.step}"],
                    [Offer(label="Make new bodies", fields={"result": "new"})],
                )
            outcome.bodies[id] = whole
            continue
        for index, copy in made.items():
            suffix = id[2:] if len(ids) > 1 else ""
            outcome.bodies[f"b_{ctx.step}_{index}{'_' + suffix if suffix else ''}"] = copy
    return outcome


def _apart(whole: Body, base: Body) -> bool:
    return len(solids_of(whole.shape)) > len(solids_of(base.shape))


def left_in(fields: CopyFields, moves: Sequence[tuple[int, Callable[[], Move]]]) -> list[Any]:
    """Numbered places (the original is 1) without those left out, each with its name."""
    return [(str(n), make()) for n, make in moves if n not in fields.skips]
