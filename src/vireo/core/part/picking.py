"""Picked faces by body, as steps on faces need them."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import partial
from typing import Any, TypeVar

from pydantic import BaseModel

from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.state import Repick
from vireo.core.part.trouble import StepTrouble
from vireo.core.trouble import Report

F = TypeVar("F", bound=BaseModel)


def faces_by_body(picks: Sequence[Pick], field: str, ctx: Context) -> dict[str, list[int]]:
    """Indices of the picked faces in each body. Raises LostPick."""
    found: dict[str, list[int]] = {}
    for pick in picks:
        index, _ = ctx.find(pick, field, picks)
        if index not in found.setdefault(pick.body, []):
            found[pick.body].append(index)
    return found


def repicked(fields: F, repick: Repick, works_on: Sequence[str]) -> F:
    """Fields with every pick replaced by what it stands for elsewhere. Picks that stand for
    nothing there are left out of what is worked on; elsewhere they stay as they are.

    Raises StepTrouble when nothing is left to work on.
    """
    put: dict[str, Any] = {}
    left = 0
    for name in type(fields).model_fields:
        value = getattr(fields, name)
        there = _there(value, partial(_of_field, repick, name), name in works_on)
        if name in works_on:
            left += len(list(_picks_in(there)))
        if there is not value:
            put[name] = there
    if works_on and not left:
        raise StepTrouble("what it treats belongs to none of the copied steps")
    return fields.model_copy(update=put)


def _of_field(repick: Repick, field: str, pick: Pick) -> Pick | None:
    return repick(pick, field)


def _there(value: Any, repick: Callable[[Pick], Pick | None], strict: bool) -> Any:
    if isinstance(value, Pick):
        found = repick(value)
        return found if found is not None or strict else value
    if isinstance(value, tuple):
        made = [_there(v, repick, strict) for v in value]
        return tuple(v for v in made if v is not None)
    if isinstance(value, BaseModel):
        changed = {n: _there(getattr(value, n), repick, strict) for n in type(value).model_fields}
        return value.model_copy(update=changed)
    return value


def _picks_in(value: Any) -> Iterator[Pick]:
    if isinstance(value, Pick):
        yield value
    elif isinstance(value, tuple):
        for v in value:
            yield from _picks_in(v)
    elif isinstance(value, BaseModel):
        for n in type(value).model_fields:
            yield from _picks_in(getattr(value, n))


def told(along: set[int], did: str, ctx: Context) -> list[Report]:
    """A note on faces that went along because they run on smoothly from the chosen ones."""
    if not along:
        return []
    faces = "1 face that runs" if len(along) == 1 else f"{len(along)} faces that run"
    text = f"{faces} on smoothly from the chosen ones {did} along"
    return [Report(code="chain", text=text, where=[f"step:{ctx.step}"])]
