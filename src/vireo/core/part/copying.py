"""What every way of copying shares: what is copied, where to, what becomes of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal

from vireo.core.kernel.boolean import Nothing, combine
from vireo.core.kernel.shape import Body, solids_of
from vireo.core.kernel.transform import Move, carried
from vireo.core.part import fields as f
from vireo.core.part.context import Context, Outcome, StepTrouble
from vireo.core.part.places import number
from vireo.core.quantity import DIMENSIONS
from vireo.core.trouble import Offer, Report, Trouble


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
    skips: tuple[int, ...] = f.numbers("Leave out", marks="copies")
    varied: tuple[f.Varied, ...] = f.varied("Growing numbers", when={"what": ["steps"]})


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
        grown = [v for v in fields.varied if v.step == id]
        made = []
        for n, (index, move) in enumerate(moves, start=1):
            if grown:
                tools = _varied(grown, number_of(index, n), ctx)
            made += [carried(t, move, f"{ctx.step}/{index}") for t in tools]
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


def number_of(index: str, order: int) -> int:
    """How many steps a copy is from the original."""
    return int(index) - 1 if index.isdigit() else order


def _varied(grown: Sequence[f.Varied], steps: int, ctx: Context) -> list[Body]:
    """The tools of a step with its growing numbers that many steps on."""
    id = grown[0].step
    values = ctx.values_of(id)
    put = {}
    for v in grown:
        where = [f"step:{ctx.step}", "field:varied"]
        if v.field not in values:
            raise StepTrouble(f"the step {id} has no number {v.field} in use", where)
        dimension = DIMENSIONS[ctx.dimension_of(id, v.field)]
        by = number(v.by, f"the growth of {v.field}", dimension, ctx)
        put[v.field] = values[v.field] + steps * by
    try:
        return ctx.varied(id, put)[1]
    except Trouble as error:
        said = ", ".join(f"{k} {x:.4g}" for k, x in put.items())
        raise StepTrouble(
            f"copy {steps + 1} ({said}) cannot be made: {error.text}",
            [f"step:{ctx.step}", "field:varied"],
        ) from error


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
