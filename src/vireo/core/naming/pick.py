"""Picks: what was meant when a face, edge or vertex was clicked, and finding it again.

A pick keeps a name and a witness. Resolving looks for the name first, then tells pieces of
the same name apart by their neighbours, then by geometry in a fixed order. When the name is
gone nothing is replaced: the best match is only proposed, with a score.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from vireo.core.naming.grammar import meeting, parts_of
from vireo.core.naming.topology import Topology, Triple

#: A set is a pick that stands for many: its name is the step that gathers them.
PickKind = Literal["face", "edge", "vertex", "set"]


class Witness(BaseModel):
    """What the picked thing looked like: enough to propose a replacement, never to pick one."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    kind: str = ""
    at: Triple = (0.0, 0.0, 0.0)
    size: float = 0.0
    around: tuple[tuple[str, ...], ...] = ()
    alone: bool = True


class Pick(BaseModel):
    """A stored pick: body, kind, the names of the faces that make it, and a witness.

    `name` has one entry for a face, one or two for an edge, two or more for a vertex.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    body: str
    kind: PickKind
    name: tuple[str, ...] = Field(min_length=1, max_length=64)
    witness: Witness = Witness()


@dataclass(frozen=True)
class Resolved:
    """What a pick stands for now. `index` is None when it is lost; then `proposal` may help."""

    index: int | None
    guessed: bool = False
    proposal: int | None = None
    score: float = 0.0


def _around(topology: Topology, kind: PickKind, i: int) -> tuple[tuple[str, ...], ...]:
    if kind == "face":
        return tuple((n,) for n in topology.neighbour_names(i))
    return topology.end_names(i) if kind == "edge" else ()


def geometry_of(topology: Topology, kind: PickKind, i: int) -> tuple[str, Triple, float]:
    """What a face, edge or vertex is, where its middle lies (mm), and its area or length."""
    if kind == "face":
        f = topology.faces[i]
        return f.kind, f.at, f.area
    if kind == "edge":
        e = topology.edges[i]
        return e.kind, e.at, e.length
    return "point", topology.vertices[i].at, 0.0


def make_pick(topology: Topology, body: str, kind: PickKind, index: int) -> Pick:
    """The pick for the index-th face, edge or vertex of a body."""
    names = topology.names[kind]
    name = names[index]
    alike = [i for i, n in enumerate(names) if n == name]
    form, at, size = geometry_of(topology, kind, index)
    witness = Witness(
        kind=form,
        at=at,
        size=size,
        around=_around(topology, kind, index),
        alone=len(alike) == 1,
    )
    return Pick(body=body, kind=kind, name=name, witness=witness)


def pick_table(topology: Topology) -> dict[str, Any]:
    """What all picks of a body would be called, for the screen: ``names`` of faces, and for each
    face, edge and vertex by index ``[name, around, alone]`` with names told by their place in that
    list. With kind, place and size of the thing itself that makes the pick `make_pick` makes."""
    places: dict[str, int] = {}

    def told(name: tuple[str, ...]) -> list[int]:
        return [places.setdefault(n, len(places)) for n in name]

    found: dict[str, Any] = {}
    kinds: tuple[PickKind, ...] = ("face", "edge", "vertex")
    for kind in kinds:
        names = topology.names[kind]
        count = Counter(names)
        found[kind] = [
            [told(name), [told(n) for n in _around(topology, kind, i)], count[name] == 1]
            for i, name in enumerate(names)
        ]
    return {"names": list(places), **found}


def _parts(name: tuple[str, ...]) -> tuple[frozenset[str], ...]:
    """A face grown from several merged ones is called ``a&b`` and answers to both."""
    return tuple(frozenset(parts_of(n)) for n in name)


def _answers(wanted: tuple[frozenset[str], ...], has: tuple[frozenset[str], ...]) -> bool:
    if len(wanted) != len(has):
        return False
    if len(wanted) == 1:
        return bool(wanted[0] & has[0])
    left = list(has)
    for w in wanted:
        match = next((h for h in left if w & h), None)
        if match is None:
            return False
        left.remove(match)
    return True


def _likeness(a: tuple[tuple[str, ...], ...], b: tuple[tuple[str, ...], ...]) -> float:
    """Share of neighbours in common, 0 to 1."""
    one, two = set(a), set(b)
    return len(one & two) / len(one | two) if one | two else 1.0


def _spread(topology: Topology) -> float:
    points = [v.at for v in topology.vertices] or [f.at for f in topology.faces]
    if not points:
        return 1.0
    low = [min(p[i] for p in points) for i in range(3)]
    high = [max(p[i] for p in points) for i in range(3)]
    return max(math.dist(low, high), 1e-6)


def resolve(pick: Pick, topology: Topology) -> Resolved:
    """Find a pick again in a body. Never substitutes: a lost pick comes back with a proposal."""
    if pick.kind == "set":
        return Resolved(None)  # stands for many: only the fields of steps take sets
    names = topology.names[pick.kind]
    found = [i for i, n in enumerate(names) if n == pick.name]
    if not found:
        wanted = _parts(pick.name)
        found = [i for i, n in enumerate(names) if _answers(wanted, _parts(n))]
    if len(found) == 1:
        return Resolved(found[0])
    spread = _spread(topology)
    if found:

        def closeness(i: int) -> tuple[float, float]:
            _, at, size = geometry_of(topology, pick.kind, i)
            around = _likeness(pick.witness.around, _around(topology, pick.kind, i))
            away = math.dist(at, pick.witness.at) / spread
            return (-round(around, 6), away + 0.1 * _difference(size, pick.witness.size))

        nearest = sorted(found, key=closeness)
        first, second = closeness(nearest[0]), closeness(nearest[1])
        clear = first[0] < second[0] - 1e-9
        return Resolved(nearest[0], guessed=not clear)
    best, score = next(iter(ranked(pick, topology, 1)), (None, 0.0))
    return Resolved(None, proposal=best, score=score)


def ranked(pick: Pick, topology: Topology, most: int) -> list[tuple[int, float]]:
    """What is most like a lost pick: (index, score 0 to 1), best first."""
    spread = _spread(topology)
    scores = [
        (i, round(_score(pick, topology, i, spread), 3))
        for i in range(len(topology.names[pick.kind]))
    ]
    return sorted((x for x in scores if x[1] > 0), key=lambda x: -x[1])[:most]


def swaps(old: Pick, new: Pick) -> dict[str, str]:
    """Which face names stand for which others when a pick is mended: those only one side has,
    matched in order of their neighbours in the name."""
    gone = [n for n in old.name if n not in new.name]
    come = [n for n in new.name if n not in old.name]
    return dict(zip(gone, come, strict=False)) if len(gone) == len(come) else {}


def like(pick: Pick, changes: Mapping[str, str], topology: Topology) -> int | None:
    """What a lost pick stands for once face names are swapped; None unless that is one thing."""
    name = meeting(changes.get(n, n) for n in pick.name)
    if name == meeting(pick.name):
        return None
    around = tuple(meeting(changes.get(n, n) for n in g) for g in pick.witness.around)
    found = resolve(
        pick.model_copy(
            update={"name": name, "witness": pick.witness.model_copy(update={"around": around})}
        ),
        topology,
    )
    return None if found.guessed else found.index


def _difference(a: float, b: float) -> float:
    top = max(abs(a), abs(b))
    return abs(a - b) / top if top > 0 else 0.0


def _score(pick: Pick, topology: Topology, i: int, spread: float) -> float:
    """How like the lost thing the i-th one is, 0 to 1: kind, place, size, neighbours, names."""
    form, at, size = geometry_of(topology, pick.kind, i)
    same_kind = 1.0 if form == pick.witness.kind else 0.0
    near = math.exp(-6.0 * math.dist(at, pick.witness.at) / spread)
    alike = 1.0 - _difference(size, pick.witness.size)
    around = _likeness(pick.witness.around, _around(topology, pick.kind, i))
    names = _likeness(
        tuple((n,) for n in pick.name), tuple((n,) for n in topology.names[pick.kind][i])
    )
    return 0.2 * same_kind + 0.35 * near + 0.15 * alike + 0.15 * around + 0.15 * names
