"""All pairs of some solids that overlap, touch, or come near: boxes first, then each pair once however
often it stands somewhere."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Protocol

import numpy as np

from vireo.core.assembly.pose import Pose
from vireo.core.fit.pairs import SHRINK, Item, near_pairs, relative_of
from vireo.core.fit.verdict import Shaped, Verdict, verdict_of
from vireo.core.geometry import Triple, triple

#: Nothing is said of pairs further apart than this (mm) beyond what is asked for.
_TOUCH = 1e-5


@dataclass(frozen=True)
class Ask:
    """One solid beside another: contents, and where the second stands to the first. `key` is the same
    for all that stand so."""

    a: str
    b: str
    relative: Pose
    rounded: tuple[float, ...]

    @property
    def key(self) -> tuple[str, str, tuple[float, ...]]:
        return self.a, self.b, self.rounded


#: What is known already of a pair that stands so.
Known = Callable[[Ask], Verdict | None]
#: Answers asks, in any order.
Answers = Callable[[Sequence[Ask]], Iterable[tuple[Ask, Verdict]]]


class Progress(Protocol):
    def __call__(self, done: int, of: int) -> None: ...


@dataclass(frozen=True)
class Pair:
    """What the solids `a` and `b` (ids) are to each other; places and ways are in the assembly's
    coordinates, `ask` is what was asked of their contents."""

    a: str
    b: str
    verdict: Verdict
    at: Triple
    way: Triple
    near: tuple[Triple, Triple] | None
    ask: Ask


@dataclass
class Found:
    """`near` pairs were looked at, `computed` of them anew; `pairs` are those that overlap, touch, or
    are clear by less than asked, the worst first."""

    pairs: list[Pair] = field(default_factory=list)
    all: int = 0
    near: int = 0
    computed: int = 0


def nothing_known(ask: Ask) -> Verdict | None:
    return None


def one_by_one(shaped: Shaped, within: float) -> Answers:
    """Answers asks here, one after the other."""

    def answers(asks: Sequence[Ask]) -> Iterator[tuple[Ask, Verdict]]:
        for ask in asks:
            yield ask, verdict_of(shaped(ask.a), shaped(ask.b), ask.relative, within)

    return answers


def look(
    items: Sequence[Item],
    answers: Answers,
    *,
    within: float = 0.0,
    known: Known = nothing_known,
    skip: Callable[[Item, Item], bool] = lambda a, b: False,
    progress: Progress = lambda done, of: None,
    found_one: Callable[[Pair], None] = lambda pair: None,
) -> Found:
    """All pairs of items that overlap, touch, or are clear by at most `within` (mm). `found_one` is
    told each that overlaps as it is found."""
    # Those that only touch have boxes that only touch.
    margin = max(0.5 * within + SHRINK, _TOUCH)
    near = [(i, j) for i, j in near_pairs(items, margin) if not skip(items[i], items[j])]
    found = Found(all=len(items) * (len(items) - 1) // 2, near=len(near))
    waiting: dict[tuple[str, str, tuple[float, ...]], list[tuple[Item, Item]]] = {}
    asks: list[Ask] = []
    done = 0

    def note(one: Item, two: Item, ask: Ask, verdict: Verdict) -> None:
        if verdict.state == "clear" and verdict.gap > within:
            return
        pair = _pair(one, two, ask, verdict)
        found.pairs.append(pair)
        if verdict.state in ("overlap", "untold"):
            found_one(pair)

    for i, j in near:
        one, two = items[i], items[j]
        if one.key > two.key:
            one, two = two, one
        ask = Ask(one.key, two.key, *relative_of(one.pose, two.pose))
        if ask.key in waiting:
            waiting[ask.key].append((one, two))
            continue
        verdict = known(ask)
        if verdict is None:
            waiting[ask.key] = [(one, two)]
            asks.append(ask)
        else:
            done += 1
            note(one, two, ask, verdict)
    progress(done, len(near))
    for ask, verdict in answers(asks):
        found.computed += 1
        for one, two in waiting[ask.key]:
            done += 1
            note(one, two, ask, verdict)
        progress(done, len(near))
    found.pairs.sort(key=_worst)
    return found


def _worst(pair: Pair) -> tuple[int, float, str, str]:
    order = ("untold", "overlap", "touching", "clear").index(pair.verdict.state)
    return order, pair.verdict.gap - pair.verdict.volume, pair.a, pair.b


def _pair(one: Item, two: Item, ask: Ask, verdict: Verdict) -> Pair:
    def out(p: Triple) -> Triple:
        return triple(one.pose.out(np.array(p)))

    way = triple(one.pose.rotation @ np.array(verdict.way))
    near = (out(verdict.near[0]), out(verdict.near[1])) if verdict.near else None
    return Pair(one.id, two.id, verdict, out(verdict.at), way, near, ask)
