"""What fillet and chamfer share: picked edges by body, and saying what would fit instead."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from vireo.core.declared.fields import Sized
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.shape import Body
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.fitting import Clock, largest
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.trouble import Offer

#: body, edges with the share of the size each takes, size (mm), step.
Treat = Callable[[Body, Mapping[int, float], float, str], Body]


@dataclass(frozen=True)
class Group:
    """Edges picked in a field, treated with a share of the step's size. `row` is the place of a
    group among those of a field of several."""

    field: str
    picks: Sequence[Pick]
    share: float = 1.0
    row: int | None = None


def treat_edges(
    ctx: Context,
    groups: Sequence[Group],
    size: float,
    treat: Treat,
    word: str,
    field: str,
    rows: Sequence[Sized] = (),
) -> Outcome:
    """Apply `treat` to the picked edges of each body.

    When it does not fit, says on how many edges, and the largest size that works there,
    found by search. `field` is the name of the size field, `rows` what stands in the field of
    the groups that have a row.
    """
    by_body: dict[str, dict[int, tuple[Pick, Group]]] = {}
    for group in groups:
        for pick in group.picks:
            index, _ = ctx.find(pick, group.field, group.picks if group.row is None else ())
            by_body.setdefault(pick.body, {})[index] = (pick, group)
    outcome = Outcome()
    for id, edges in by_body.items():
        body = ctx.body(id)
        shares = {i: g.share for i, (_, g) in edges.items()}
        try:
            outcome.bodies[id] = treat(body, shares, size, ctx.step)
        except KernelTrouble as error:
            raise _explain(ctx, body, edges, size, treat, word, field, rows) from error
    return outcome


def _explain(
    ctx: Context,
    body: Body,
    edges: Mapping[int, tuple[Pick, Group]],
    size: float,
    treat: Treat,
    word: str,
    field: str,
    rows: Sequence[Sized],
) -> StepTrouble:
    shares = {i: g.share for i, (_, g) in edges.items()}

    def fits(chosen: Sequence[int], s: float) -> bool:
        try:
            treat(body, {i: shares[i] for i in chosen}, s, ctx.step)
        except KernelTrouble:
            return False
        return True

    clock = Clock()
    bad = [i for i in edges if not clock.over() and not fits([i], size)]
    suspects = bad or list(edges)
    found = largest(lambda s: fits(list(edges), s), size)
    where = [f"step:{ctx.step}"] + [f"edge:{i}" for i in suspects]
    if len(edges) == 1:
        count = "this edge"
    elif not bad:
        count = f"these {len(edges)} edges" + ("" if clock.rang else " together")
    elif len(bad) == len(edges):
        count = f"any of these {len(edges)} edges"
    else:
        count = f"{'at least ' if clock.rang else ''}{len(bad)} of {len(edges)} edges"
    offers = []
    text = f"{word} {size:g} mm does not fit on {count}"
    if found.size is not None:
        shown = f"{found.size:.4g}"
        text += f": {found.told(f'{shown} mm')}"
        offers.append(Offer(label=f"Use {shown} mm", fields={field: f"{shown} mm"}))
    elif not found.whole:
        text += "; looking for what would was stopped"
    else:
        text += " at any size; the faces beside it leave no room"
    if bad and len(bad) < len(edges):
        many = "these edges" if len(bad) > 1 else "this edge"
        gone = [edges[i][0] for i in bad]
        dropped = {
            group.field: _without(gone, group, rows) for i, (_, group) in edges.items() if i in bad
        }
        offers.append(Offer(label=f"Drop {many}", fields=dropped))
    return StepTrouble(text, where, offers)


def _without(gone: Sequence[Pick], group: Group, rows: Sequence[Sized]) -> list[Any]:
    """What a field holds when some picks are dropped; rows without a pick go."""
    if group.row is None:
        return [p.model_dump(mode="json") for p in group.picks if p not in gone]
    left = [
        r.model_copy(update={"picks": tuple(p for p in r.picks if p not in gone)}) for r in rows
    ]
    return [r.model_dump(mode="json") for r in left if r.picks]
