"""Picked faces by body, as steps on faces need them."""

from __future__ import annotations

from collections.abc import Sequence

from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.trouble import Report


def faces_by_body(picks: Sequence[Pick], field: str, ctx: Context) -> dict[str, list[int]]:
    """Indices of the picked faces in each body. Raises LostPick."""
    found: dict[str, list[int]] = {}
    for pick in picks:
        index, _ = ctx.find(pick, field, picks)
        if index not in found.setdefault(pick.body, []):
            found[pick.body].append(index)
    return found


def told(along: set[int], did: str, ctx: Context) -> list[Report]:
    """A note on faces that went along because they run on smoothly from the chosen ones."""
    if not along:
        return []
    faces = "1 face that runs" if len(along) == 1 else f"{len(along)} faces that run"
    text = f"{faces} on smoothly from the chosen ones {did} along"
    return [Report(code="chain", text=text, where=[f"step:{ctx.step}"])]
