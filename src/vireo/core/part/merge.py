"""Putting a tool body into the part: which bodies it meets, what it does to each."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

import numpy as np

from vireo.core.declared.fields import Result
from vireo.core.geometry import Frame
from vireo.core.kernel.boolean import Nothing, NothingLeft, Operation, combine
from vireo.core.kernel.measure import box_of
from vireo.core.kernel.shape import Body, solids_of
from vireo.core.naming.grammar import body_name
from vireo.core.part.context import Context
from vireo.core.part.products.deeds import Deed
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.trouble import Offer, Report


def reach_through(ctx: Context, into: Sequence[str], frame: Frame) -> tuple[float, float]:
    """How far along a frame's z the bodies reach, with a margin: (low, high) in mm."""
    ids = list(into) or ctx.body_ids()
    if not ids:
        raise StepTrouble("through all needs a body to go through; give a depth instead")
    heights: list[float] = []
    z, origin = np.array(frame.z), np.array(frame.origin)
    for id in ids:
        low, high = box_of(ctx.body(id).shape)
        for i in range(8):
            corner = np.array([(low, high)[(i >> k) & 1][k] for k in range(3)])
            heights.append(float((corner - origin) @ z))
    margin = 1.0 + 0.01 * (max(heights) - min(heights))
    return min(heights) - margin, max(heights) + margin


def _meet(a: Body, b: Body) -> bool:
    (al, ah), (bl, bh) = box_of(a.shape), box_of(b.shape)
    return all(al[i] <= bh[i] + 1e-6 and bl[i] <= ah[i] + 1e-6 for i in range(3))


def _joins(body: Body, tool: Body, what: str) -> bool:
    """Whether a tool would become one with a body: boxes that meet are not enough, nor is an
    edge or a corner that touches."""
    apart = len(solids_of(body.shape)) + len(solids_of(tool.shape))
    return len(solids_of(combine("add", body, [tool], what).shape)) < apart


_WITH: dict[Operation, str] = {"add": "add to", "cut": "cut from", "overlap": "overlap with"}


class Growing(Protocol):
    """Fields of a step that grows a shape: what becomes of it, and with which bodies."""

    @property
    def result(self) -> Result: ...

    @property
    def into(self) -> tuple[str, ...]: ...


def delivered(ctx: Context, fields: Growing, tool: Body, what: str) -> Outcome:
    """The shape a step made, as a body of its own or put into others."""
    if fields.result == "new":
        own = body_name(ctx.step)
        return Outcome(bodies={own: tool}, deeds=[Deed("new", (tool,), (own,))])
    return merge(ctx, fields.result, tool, fields.into, what)


def stands_alone(ctx: Context, surface: Body) -> Outcome:
    """A surface a step made, as a body of its own: it is neither added nor cut away."""
    own = body_name(ctx.step)
    return Outcome(bodies={own: surface}, deeds=[Deed("new", (surface,), (own,))])


def merge(
    ctx: Context,
    operation: Operation,
    tool: Body,
    into: Sequence[str],
    what: str,
) -> Outcome:
    """Add or cut `tool`, or keep what bodies share with it; with no body chosen, all it truly
    touches. Bodies that become one, and chosen ones that stay apart, are told.

    Raises StepTrouble when there is no body, and Nothing when none of them changes or
    nothing would be left.
    """
    ids = list(into) or ctx.body_ids()
    if not ids:
        raise StepTrouble(
            f"there is no body to {_WITH[operation]} yet",
            [f"step:{ctx.step}"],
            [Offer(label="Make a new body", fields={"result": "new"})],
        )
    bodies = {id: ctx.body(id) for id in ids}
    met = {id: b for id, b in bodies.items() if len(ids) == 1 or _meet(b, tool)}
    outcome = Outcome()
    if operation == "add":
        if len(met) > 1:
            met = {id: b for id, b in met.items() if _joins(b, tool, what)}
        if not met:
            raise _apart(ctx, what)
        first, *others = met
        before = sum(len(solids_of(b.shape)) for b in met.values())
        whole = combine("add", met[first], [tool, *(met[o] for o in others)], what)
        if len(solids_of(whole.shape)) > before:
            raise _apart(ctx, what)
        outcome.bodies[first] = whole
        outcome.bodies |= dict.fromkeys(others, None)
        outcome.deeds.append(Deed("add", (tool,), (first,)))
        outcome.notes += _told(ctx, what, list(met), [i for i in into if i not in met])
        return outcome
    missed: Nothing | None = None
    for id, body in met.items():
        try:
            cut = combine(operation, body, [tool], what)
        except NothingLeft:
            raise
        except Nothing as nothing:
            missed = nothing
            continue
        pieces, before = len(solids_of(cut.shape)), len(solids_of(body.shape))
        if pieces > before:
            outcome.notes.append(
                Report(code="pieces", text=f"{what} leaves the body in {pieces} pieces",
                       where=[f"step:{ctx.step}"])
            )  # fmt: skip
        outcome.bodies[id] = cut
    if not outcome.bodies:
        if operation == "overlap":
            raise NothingLeft(f"{what} does not overlap any body, so nothing would be left")
        raise missed or Nothing(f"{what} does not touch any body, so it removes nothing")
    outcome.deeds.append(Deed(operation, (tool,), tuple(outcome.bodies)))
    return outcome


def _told(ctx: Context, what: str, met: Sequence[str], apart: Sequence[str]) -> list[Report]:
    notes = []
    if len(met) > 1:
        names = ", ".join(ctx.body_title(id) for id in met)
        text = f"{what} makes one body of {names}"
        notes.append(Report(code="joined", text=text, where=[f"step:{ctx.step}"]))
    for id in apart:
        text = f"{what} does not touch {ctx.body_title(id)}, which stays as it is"
        notes.append(Report(code="missed", text=text, where=[f"step:{ctx.step}"]))
    return notes


def _apart(ctx: Context, what: str) -> StepTrouble:
    return StepTrouble(
        f"{what} does not touch the body it should be added to",
        [f"step:{ctx.step}"],
        [Offer(label="Make it a new body", fields={"result": "new"})],
    )
