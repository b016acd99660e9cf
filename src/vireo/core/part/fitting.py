"""Sizes that do not fit: the largest that works there, found by trying."""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Literal, TypeVar

from vireo.core.kernel.blend import largest_that_fits
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.part.context import Context
from vireo.core.part.trouble import StepTrouble
from vireo.core.trouble import Offer

T = TypeVar("T")


#: Longer than this nobody waits for an offer beside a refusal, s.
PATIENCE = 6.0


@dataclass
class Search:
    """Whether a build may look for what would fit, whom to tell that it does, and whether it had
    to go without: then its answer is not whole."""

    allowed: bool = True
    tell: Callable[[], None] = lambda: None
    skipped: bool = False


@dataclass(frozen=True)
class Fit:
    """The size found, in mm or rad, None when none was; whether the search came to its end."""

    size: float | None
    whole: bool

    def told(self, shown: str) -> str:
        """The size in words: the largest that works, or one that does."""
        return f"the largest that works there is {shown}" if self.whole else f"{shown} works there"


_SEARCH: ContextVar[Search | None] = ContextVar("search", default=None)


@contextmanager
def searching(search: Search) -> Iterator[None]:
    """For the steps built inside."""
    token = _SEARCH.set(search)
    try:
        yield
    finally:
        _SEARCH.reset(token)


def largest(works: Callable[[float], bool], asked: float) -> Fit:
    """The largest size below `asked` that works, tried; without one when none does, none may be
    looked for, or none was found within a few seconds."""
    search = _SEARCH.get()
    if search is not None:
        if not search.allowed:
            search.skipped = True
            return Fit(None, whole=False)
        search.tell()
    clock = Clock()
    return Fit(largest_that_fits(works, asked, enough=clock.over), whole=not clock.rang)


class Clock:
    """Ends a search that takes longer than anybody waits; remembers that it did."""

    def __init__(self) -> None:
        self._end = time.monotonic() + PATIENCE
        self.rang = False

    def over(self) -> bool:
        self.rang = self.rang or time.monotonic() > self._end
        return self.rang


def fitted(
    attempt: Callable[[float], T],
    size: float,
    field: str,
    what: str,
    unit: Literal["mm", "deg"] = "mm",
    advice: str = "",
    offers: Sequence[Offer] = (),
) -> T:
    """The result of `attempt(size)`; sizes in mm or rad.

    When the kernel cannot, raises StepTrouble that says why, up to which size it works (tried,
    on the same side of zero), and offers that; `advice` and `offers` are what to do when none
    does.
    """
    try:
        return attempt(size)
    except KernelTrouble as error:
        reason = error.text
    sign = math.copysign(1.0, size)

    def works(v: float) -> bool:
        try:
            attempt(sign * v)
        except KernelTrouble:
            return False
        return True

    found = largest(works, abs(size))

    def shown(v: float) -> str:
        return f"{math.degrees(v) if unit == 'deg' else v:.4g} {unit}"

    text = f"{what} {shown(size)} does not fit ({reason})"
    if found.size is None and not found.whole:
        raise StepTrouble(f"{text}; looking for what would was stopped", [f"field:{field}"], offers)
    if found.size is None:
        text += "; nothing smaller does either" + (f": {advice}" if advice else "")
        raise StepTrouble(text, [f"field:{field}"], offers)
    use = shown(sign * found.size)
    raise StepTrouble(
        f"{text}: {found.told(use)}",
        [f"field:{field}"],
        [Offer(label=f"Use {use}", fields={field: use})],
    )


def put_earlier(
    ctx: Context, names: Iterable[str], kinds: Sequence[str]
) -> tuple[str, list[Offer]]:
    """What to say, and to offer, when a step only works before others that made the named faces:
    that it goes before the first of them. Empty when no such step is there."""
    found = ctx.steps_of(names, kinds)
    if not found:
        return "", []
    first, name = found[0]
    said = ", ".join(n for _, n in found[:3]) + (" ..." if len(found) > 3 else "")
    move = {"do": "move_step", "id": ctx.step, "before": first}
    return f"put this step before {said}", [Offer(label=f"Put it before {name}", commands=[move])]
