"""What fillet and chamfer share: picked edges by body, and saying what would fit instead."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from vireo.core.kernel.blend import largest_that_fits
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.shape import Body
from vireo.core.naming import Pick
from vireo.core.part.context import Context, Outcome, StepTrouble
from vireo.core.trouble import Offer

Treat = Callable[[Body, Sequence[int], float, str], Body]


def treat_edges(
    ctx: Context, picks: Sequence[Pick], size: float, treat: Treat, word: str, field: str
) -> Outcome:
    """Apply `treat` to the picked edges of each body.

    When it does not fit, says on how many edges, and the largest size that works there,
    found by search. `field` is the name of the size field.
    """
    by_body: dict[str, dict[int, Pick]] = {}
    for pick in picks:
        index, _ = ctx.find(pick, "edges", picks)
        by_body.setdefault(pick.body, {})[index] = pick
    outcome = Outcome()
    for id, edges in by_body.items():
        body = ctx.body(id)
        try:
            outcome.bodies[id] = treat(body, list(edges), size, ctx.step)
        except KernelTrouble as error:
            raise _explain(ctx, body, edges, picks, size, treat, word, field) from error
    return outcome


def _explain(
    ctx: Context,
    body: Body,
    edges: dict[int, Pick],
    picks: Sequence[Pick],
    size: float,
    treat: Treat,
    word: str,
    field: str,
) -> StepTrouble:
    def fits(chosen: Sequence[int], s: float) -> bool:
        try:
            treat(body, chosen, s, ctx.step)
        except KernelTrouble:
            return False
        return True

    bad = [i for i in edges if not fits([i], size)]
    together = not bad
    suspects = list(edges) if together else bad
    largest = largest_that_fits(lambda s: fits(list(edges), s), size)
    where = [f"step:{ctx.step}"] + [f"edge:{i}" for i in suspects]
    if len(edges) == 1:
        count = "this edge"
    elif not bad:
        count = f"these {len(edges)} edges together"
    elif len(bad) == len(edges):
        count = f"any of these {len(edges)} edges"
    else:
        count = f"{len(bad)} of {len(edges)} edges"
    offers = []
    text = f"{word} {size:g} mm does not fit on {count}"
    if largest is not None:
        shown = f"{largest:.4g}"
        text += f": the largest that works there is {shown} mm"
        offers.append(Offer(label=f"Use {shown} mm", fields={field: f"{shown} mm"}))
    else:
        text += " at any size; the faces beside it leave no room"
    if bad and len(bad) < len(edges):
        keep = [p.model_dump(mode="json") for p in picks if p not in [edges[i] for i in bad]]
        many = "these edges" if len(bad) > 1 else "this edge"
        offers.append(Offer(label=f"Drop {many}", fields={"edges": keep}))
    return StepTrouble(text, where, offers)
