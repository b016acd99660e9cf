"""What every way of copying shares: what is copied, where to, what becomes of it."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Any, Literal

from vireo.core.declared import fields as f
from vireo.core.geometry import Triple
from vireo.core.kernel.boolean import Nothing, NothingLeft, Operation, combine
from vireo.core.kernel.shape import Body, Key, faces_of, solids_of
from vireo.core.kernel.transform import Move, carried
from vireo.core.naming import Pick, Topology, geometry_of, make_pick
from vireo.core.naming.grammar import all_parts, behind, body_name, face_name, makers_of, under
from vireo.core.naming.pick import PickKind
from vireo.core.naming.repeats import Repeats
from vireo.core.part.context import Context
from vireo.core.part.places import number
from vireo.core.part.products.deeds import Deed
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.state import Again, State, topology_by_key
from vireo.core.part.trouble import LostPick, StepTrouble
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


@dataclass(frozen=True)
class Place:
    """Where a copy goes, with the index that names it and how many steps it is from the first."""

    index: str
    move: Move
    steps: int


@dataclass
class Work:
    """Bodies as the copies leave them so far, and which body of a copy stands for an original
    one that was copied with it."""

    bodies: dict[str, Body] = field(default_factory=dict)
    own: dict[tuple[str, str], str] = field(default_factory=dict)
    #: Why a copy of a step is missing, by step and the copies' numbers.
    missing: dict[tuple[str, str], list[str]] = field(default_factory=dict)

    def miss(self, step: str, why: str, index: str) -> None:
        self.missing.setdefault((step, why), []).append(index)


def copied(fields: CopyFields, ctx: Context, moves: Sequence[tuple[str, Move]]) -> Outcome:
    """Do chosen steps or copy chosen bodies at every move; `moves` go with the index that names
    them (``<step>/<index>/...``), the original not among them.

    Every step is done again as it was meant, in order: what made a body makes another, what was
    put into one body is put into that body or its copy, what treated faces or edges treats those
    of the copy. Copies that cannot be made are left out and named.
    """
    if not moves:
        raise StepTrouble("no copy is left: look at the number and what is left out")
    outcome = _bodies(fields, ctx, moves) if fields.what == "bodies" else _steps(fields, ctx, moves)
    placed = {index: move.matrix for index, move in moves if move.rigid}
    of_steps = fields.what == "steps"
    outcome.repeats = Repeats(
        fields.steps if of_steps else (), () if of_steps else fields.bodies, placed
    )
    return outcome


def _steps(fields: CopyFields, ctx: Context, moves: Sequence[tuple[str, Move]]) -> Outcome:
    if not fields.steps:
        raise StepTrouble("choose the steps to do again", ["field:steps"])
    places = [Place(i, m, number_of(i, n)) for n, (i, m) in enumerate(moves, start=1)]
    outcome, work = Outcome(), Work()
    for id in fields.steps:
        grown = [v for v in fields.varied if v.step == id]
        deeds = ctx.deeds(id)
        if deeds:
            outcome.deeds += _done_again(id, deeds, grown, places, work, ctx)
        elif again := ctx.again(id):
            _redone(id, again, grown, places, fields.steps, work, ctx)
        else:
            raise StepTrouble(
                f"{ctx.title(id)} cannot be copied: it neither puts in a shape of its own nor treats "
                "faces or edges; copy the body instead",
                [f"step:{ctx.step}", f"step:{id}"],
            )
    _tell(fields.steps, places, work, outcome, ctx)
    outcome.bodies |= work.bodies
    return outcome


def _tell(
    steps: Sequence[str], places: Sequence[Place], work: Work, outcome: Outcome, ctx: Context
) -> None:
    """Names the copies that are missing, and why. Raises Nothing when there is none at all."""
    gone = {s: {i for (step, _), all_ in work.missing.items() if step == s for i in all_}
            for s in steps}  # fmt: skip
    whole = [len(places) == len(gone[s]) for s in steps]
    reasons = [
        f"copy {', '.join(sorted(all_, key=_order))} of {ctx.title(step)} is missing: {why}"
        if len(all_) == 1
        else f"copies {', '.join(sorted(all_, key=_order))} of {ctx.title(step)} are missing: {why}"
        for (step, why), all_ in work.missing.items()
    ]
    if all(whole):
        raise Nothing(f"no copy can be made: {reasons[0]}", [f"step:{ctx.step}"])
    for (step, _), text in zip(work.missing, reasons, strict=True):
        outcome.notes.append(
            Report(code="missed", text=text, where=[f"step:{ctx.step}", f"step:{step}"])
        )


def _order(index: str) -> tuple[int, str]:
    return (int(index) if index.isdigit() else 0, index)


# Steps that put in shapes


def _done_again(
    id: str, deeds: Sequence[Deed], grown: Sequence[f.Varied], places: Sequence[Place], work: Work,
    ctx: Context,
) -> list[Deed]:  # fmt: skip
    made: list[Deed] = []
    for n, deed in enumerate(deeds):
        tools: dict[str, list[Body]] = {}
        for place in places:
            own = _varied(grown, place.steps, ctx)[n] if grown else deed
            tools[place.index] = [
                carried(t, place.move, face_name(ctx.step, place.index)) for t in own.tools
            ]
        if deed.operation == "new":
            for place in places:
                for k, (body, tool) in enumerate(zip(deed.bodies, tools[place.index], strict=True)):
                    whose = id if len(work.own) and _taken(work, place.index) else ""
                    new = body_name(ctx.step, place.index, whose, k or "")
                    work.bodies[new] = tool
                    work.own[body, place.index] = new
                    made.append(Deed("new", (tool,), (new,)))
            continue
        for target, indices in _targets(deed, places, work, ctx).items():
            if target == "":
                for i in indices:
                    work.miss(id, "the body it was put into is gone", i)
                continue
            made += _put_in(id, deed.operation, target, {i: tools[i] for i in indices}, work, ctx)
    return made


def _taken(work: Work, index: str) -> bool:
    return any(i == index for _, i in work.own)


def _targets(deed: Deed, places: Sequence[Place], work: Work, ctx: Context) -> dict[str, list[str]]:
    """Which copies go into which body: the copy of the body the original went into, or that
    body itself; under "" those whose body is gone."""
    found: dict[str, list[str]] = {}
    there = set(ctx.body_ids())
    for body in deed.bodies:
        for place in places:
            own = work.own.get((body, place.index))
            target = own or ctx.survivor(body)
            known = target in work.bodies or target in there
            found.setdefault(target if known else "", []).append(place.index)
    return found


def _put_in(
    id: str, operation: Operation, target: str, tools: Mapping[str, Sequence[Body]], work: Work,
    ctx: Context,
) -> list[Deed]:  # fmt: skip
    """All copies of a step into one body in one operation, and again without those that stay
    apart from it; those that leave no trace are missing."""
    base = work.bodies[target] if target in work.bodies else ctx.body(target)
    left = dict(tools)
    while left:
        flat = [t for own in left.values() for t in own]
        try:
            made = combine(operation, base, flat, "these copies")
        except NothingLeft:
            raise
        except Nothing:
            made = None
        if made is None:
            for i in left:
                work.miss(id, _MISSED[operation], i)
            return []
        strays = _strays(made, base, left, ctx) if operation == "add" else []
        if strays:
            for i in strays:
                work.miss(id, "it stands apart from the body it is added to", i)
                left.pop(i)
            continue
        for i in [i for i in left if operation != "overlap" and not _leaves(made, i, ctx)]:
            work.miss(id, _MISSED[operation], i)
            left.pop(i)
        work.bodies[target] = made
        return [Deed(operation, tuple(t for own in left.values() for t in own), (target,))]
    return []


_MISSED: dict[str, str] = {
    "add": "all of it lies inside the body, so it adds nothing",
    "cut": "it does not touch the body, so it removes nothing",
    "overlap": "it does not touch the body",
}


def _leaves(made: Body, index: str, ctx: Context) -> bool:
    """Whether a face of a copy is on the body."""
    return any(under(n, ctx.step, index) for n in made.names)


def _strays(made: Body, base: Body, left: Mapping[str, Sequence[Body]], ctx: Context) -> list[str]:
    """Copies that ended up in pieces without any of the body."""
    solids = solids_of(made.shape)
    if len(solids) <= len(solids_of(base.shape)):
        return []
    names = {Key(f): n for f, n in made.named_faces()}
    old = all_parts(base.names)
    strays: list[str] = []
    for solid in solids:
        own = all_parts(names[Key(f)] for f in faces_of(solid))
        if not own & old:
            strays += [i for i in left if any(under(part, ctx.step, i) for part in own)]
    return list(dict.fromkeys(strays))


# Steps that treat faces or edges


def _looks(topology: Topology, kind: PickKind, i: int) -> tuple[str, Triple, float]:
    """Kind, place and size; whole circles by their centre, wherever their seam lies."""
    form, at, size = geometry_of(topology, kind, i)
    if kind == "edge" and (centre := topology.edges[i].centre) and topology.edges[i].closed:
        at = centre
    return form, at, size


def _redone(
    id: str, again: Again, grown: Sequence[f.Varied], places: Sequence[Place],
    steps: Sequence[str], work: Work, ctx: Context,
) -> None:  # fmt: skip
    for place in places:
        mark = face_name(ctx.step, place.index, id)
        now = ctx.working(work.bodies)
        repick = partial(_there, again=again, place=place, steps=set(steps), work=work, now=now,
                         ctx=ctx)  # fmt: skip
        try:
            done = again.redo(now, mark, repick, _grown(grown, place.steps, ctx))
        except Trouble as trouble:
            work.miss(id, trouble.text, place.index)
            continue
        for body, made in done.bodies.items():
            if made is not None:
                work.bodies[body] = made


def _there(
    pick: Pick, field: str, *, again: Again, place: Place, steps: set[str], work: Work, now: State,
    ctx: Context,
) -> Pick | None:  # fmt: skip
    """The face, edge or corner of a copy that stands where the move takes the original one; None
    for a pick on nothing that the copied steps made. Raises LostPick when it is not there."""
    before = Context(ctx.step, again.before, {})
    index, topology = before.find(pick, field)
    made = makers_of(pick.name)
    if not made & steps:
        return None
    form, at, size = _looks(topology, pick.kind, index)
    body = work.own.get((pick.body, place.index)) or ctx.survivor(pick.body)
    if body not in now.bodies:
        raise LostPick("the body it treats is gone")
    there = topology_by_key(now.bodies[body].key, now.bodies[body].load())
    wanted = place.move.place(at)
    hair = 1e-5 * max(1.0, math.dist(wanted, (0.0, 0.0, 0.0)))
    for i in range(len(there.names[pick.kind])):
        kind, where, extent = _looks(there, pick.kind, i)
        if kind == form and math.dist(where, wanted) < hair and math.isclose(
            extent, size, rel_tol=1e-5, abs_tol=1e-7
        ):  # fmt: skip
            return make_pick(there, body, pick.kind, i)
    raise LostPick(
        f"the copied {pick.kind} near ({wanted[0]:.1f}, {wanted[1]:.1f}, {wanted[2]:.1f}) is not "
        "like the original: what is around it differs"
    )


def number_of(index: str, order: int) -> int:
    """How many steps a copy is from the original."""
    return int(index) - 1 if index.isdigit() else order


def _grown(grown: Sequence[f.Varied], steps: int, ctx: Context) -> dict[str, float]:
    """The growing numbers of a step that many steps on (mm, rad)."""
    if not grown:
        return {}
    id = grown[0].step
    values = ctx.values_of(id)
    put = {}
    for v in grown:
        where = [f"step:{ctx.step}", "field:varied"]
        if v.field not in values:
            raise StepTrouble(f"{ctx.title(id)} has no number {v.field} in use", where)
        dimension = DIMENSIONS[ctx.dimension_of(id, v.field)]
        by = number(v.by, f"the growth of {v.field}", dimension, ctx)
        put[v.field] = values[v.field] + steps * by
    return put


def _varied(grown: Sequence[f.Varied], steps: int, ctx: Context) -> list[Deed]:
    """What a step would have done with its growing numbers that many steps on."""
    put = _grown(grown, steps, ctx)
    try:
        return ctx.varied(grown[0].step, put)
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
        made = {index: carried(body, move, face_name(ctx.step, index)) for index, move in moves}
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
        for index, move in moves:
            own = body_name(ctx.step, index, behind(id) if len(ids) > 1 else "")
            outcome.bodies[own] = made[index]
            sheet = ctx.sheet_carried(id, move, face_name(ctx.step, index))
            if sheet is not None:
                outcome.sheets[own] = sheet
    return outcome


def _apart(whole: Body, base: Body) -> bool:
    return len(solids_of(whole.shape)) > len(solids_of(base.shape))


def left_in(fields: CopyFields, moves: Sequence[tuple[int, Callable[[], Move]]]) -> list[Any]:
    """Numbered places (the original is 1) without those left out, each with its name."""
    return [(str(n), make()) for n, make in moves if n not in fields.skips]
