"""Components that nothing holds: no joint leads from them to what is anchored, or they touch nothing."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import numpy as np

from vireo.core.fit.listing import FaultList, Looked, Row, Say, register
from vireo.core.naming.grammar import component_of


@register
class Loose(FaultList):
    kind, label = "loose", "Loose components"
    line = "Components that no joint leads from to what is anchored, or that touch nothing"
    none = "everything is held by joints, and touches what holds it"
    order = 30

    def rows(self, looked: Looked) -> Iterable[Row]:
        yield from _unheld(looked)
        yield from _afloat(looked)

    def tell(self, row: dict[str, Any], say: Say) -> str:
        more = len(row["more"])
        also = f", nor from {_counted(more)} joined to it" if more else ""
        if row["what"] == "unheld":
            return f"no joint leads from it to what is anchored{also}: join it, or anchor it"
        also = f", nor does what it touches ({_counted(more)})" if more else ""
        gap = say.length(row["numbers"]["gap"]) if row["numbers"].get("gap") else ""
        return f"touches nothing{also}" + (f"; the nearest is {gap} away" if gap else "")


def _counted(n: int) -> str:
    return "one more" if n == 1 else f"{n} more"


def _unheld(looked: Looked) -> Iterator[Row]:
    """Of each group of what is joined, or moves as one, without anything anchored: where nothing is
    anchored all but the largest, for that stands as well as if it were."""
    mechanism = looked.built.mechanism
    members = mechanism.members
    links = [(p.a, p.b) for p in mechanism.pairs]
    links += [(tie[0], other) for tie in mechanism.ties for other in tie[1:]]
    groups = _groups(len(members), links)
    held = [g for g in groups if any(members[k].anchored for k in g)]
    held = held or groups[:1]
    leaves: dict[str, list[int]] = defaultdict(list)
    for i, leaf in enumerate(looked.leaves):
        leaves[leaf.member].append(i)
    for group in groups:
        if group in held:
            continue
        mine = [i for k in group for i in leaves[members[k].id]]
        if mine:
            yield _row(looked, "unheld", mine)


def _afloat(looked: Looked) -> Iterator[Row]:
    """Of each group of solids that touch (or nearly), but for the one what is anchored is in."""
    links = [(i, j) for p in looked.pairs for i, j in [(looked.number[p.a], looked.number[p.b])]]
    parts: dict[str, list[int]] = defaultdict(list)
    for i, leaf in enumerate(looked.leaves):
        parts[leaf.id.rsplit("/", 1)[0]].append(i)
    links += [(part[0], other) for part in parts.values() for other in part[1:]]
    groups = _groups(len(looked.leaves), links)
    anchored = {m.id for m in looked.built.mechanism.members if m.anchored}
    ground = next(
        (g for g in groups if any(looked.leaves[i].member in anchored for i in g)), groups[0] if groups else []
    )  # fmt: skip
    for group in groups:
        if group is not ground:
            yield _row(looked, "afloat", group, _nearest(looked, group))


def _groups(count: int, links: Sequence[tuple[int, int]]) -> list[list[int]]:
    """What hangs together, the largest first."""
    root = list(range(count))

    def of(i: int) -> int:
        while root[i] != i:
            root[i] = root[root[i]]
            i = root[i]
        return i

    for i, j in links:
        root[of(i)] = of(j)
    found: dict[int, list[int]] = defaultdict(list)
    for i in range(count):
        found[of(i)].append(i)
    return sorted(found.values(), key=lambda g: (-len(g), g))


def _nearest(looked: Looked, group: Sequence[int]) -> tuple[float, Any, Any, int] | None:
    """How far what touches nothing is from the rest, by the pairs whose boxes are nearest."""
    others = [k for k in range(len(looked.leaves)) if k not in set(group)]
    if not others:
        return None
    low, high = looked.boxes
    gaps = []
    for i in group:
        away = np.maximum(np.maximum(low[others] - high[i], low[i] - high[others]), 0.0)
        reach = np.linalg.norm(away, axis=1)
        gaps += [(float(reach[n]), i, others[n]) for n in np.argsort(reach)[:8]]
    best: tuple[float, Any, Any, int] | None = None
    for reach, i, j in sorted(gaps)[:24]:
        if best is not None and reach >= best[0]:
            break
        distance, p, q = looked.apart(i, j)
        if best is None or distance < best[0]:
            best = distance, p, q, j
    return best


def _row(
    looked: Looked, what: str, group: Sequence[int], near: tuple[float, Any, Any, int] | None = None
) -> Row:
    ids = [looked.leaves[i].id for i in group]
    first = component_of(ids[0])
    more = tuple(dict.fromkeys(id for id in ids if component_of(id) != first))
    return Row(
        what, ids[0], looked.middle(group[0]), looked.leaves[near[3]].id if near else "", more,
        near=(near[1], near[2]) if near else None, numbers={"gap": near[0]} if near else {},
    )  # fmt: skip
