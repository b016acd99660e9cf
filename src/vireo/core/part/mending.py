"""Lost picks: what they looked like before, and which others were lost the same way."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from vireo.core.documents.kinds.part import Step
from vireo.core.geometry import Triple
from vireo.core.kernel.measure import edge_line
from vireo.core.kernel.shape import Body
from vireo.core.naming import Pick, Topology, like, make_pick, resolve
from vireo.core.part.state import State, topology_by_key


@dataclass(frozen=True)
class Alike:
    """A lost pick of a step and what it stands for when the same faces are swapped."""

    step: str
    old: Pick
    new: Pick


def picks_in(data: Any) -> Iterator[Pick]:
    """All picks of things on bodies inside the stored fields of a step."""
    if isinstance(data, dict):
        if {"body", "kind", "name"} <= set(data) and data["kind"] in ("face", "edge", "vertex"):
            yield Pick.model_validate(data)
            return
        for value in data.values():
            yield from picks_in(value)
    elif isinstance(data, list | tuple):
        for value in data:
            yield from picks_in(value)


def _found(state: State, body: str) -> tuple[Body, Topology] | None:
    if body not in state.bodies:
        return None
    held = state.bodies[body]
    shape = held.load()
    return shape, topology_by_key(held.key, shape)


def outline_of_pick(pick: Pick, state: State) -> list[list[Triple]] | None:
    """Lines that show what a pick stands for in a state of a part; None when it is lost there."""
    found = _found(state, pick.body)
    if found is None:
        return None
    body, topology = found
    index = resolve(pick, topology).index
    if index is None:
        return None
    if pick.kind == "edge":
        return [edge_line(body, index)]
    if pick.kind == "vertex":
        x, y, z = topology.vertices[index].at
        r = 0.02 * max(topology.size, 10.0)
        return [[(x - r, y, z), (x + r, y, z)], [(x, y - r, z), (x, y + r, z)]]
    return [edge_line(body, i) for i, pair in enumerate(body.edge_faces) if index in pair]


def alike_in(step: Step, state: State, changes: Mapping[str, str]) -> list[Alike]:
    """Lost picks of a step that stand for one thing each once face names are swapped."""
    made = []
    for pick in picks_in(step.fields):
        found = _found(state, pick.body)
        if found is None or resolve(pick, found[1]).index is not None:
            continue
        index = like(pick, changes, found[1])
        if index is not None:
            made.append(Alike(step.id, pick, make_pick(found[1], pick.body, pick.kind, index)))
    return made
