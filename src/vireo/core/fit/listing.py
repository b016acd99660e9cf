"""The contract of a list of faults in how components are put together, and the registry they enter by
being read. A list is one file in `vireo.core.fit.lists`."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, ClassVar, TypeVar

from vireo.core.assembly.build import Built, Leaf
from vireo.core.assembly.pose import Floats
from vireo.core.fit.interference import Pair
from vireo.core.fit.mouths import Bore, Meeting, Mouth, bores_of, facing, mouths_of
from vireo.core.fit.pairs import Item, boxes, near_pairs
from vireo.core.geometry import Triple, triple
from vireo.core.naming import Topology
from vireo.core.quantity.shown import Units, length
from vireo.core.registry import Registry


@dataclass(frozen=True)
class Row:
    """One fault: solids by id (`b` where there are two, `more` besides), the place to look at, a line
    between two places there, the faces it is about, and the numbers it is told with (mm, rad)."""

    what: str
    a: str
    at: Triple
    b: str = ""
    more: tuple[str, ...] = ()
    near: tuple[Triple, Triple] | None = None
    faces_a: tuple[str, ...] = ()
    faces_b: tuple[str, ...] = ()
    numbers: dict[str, Any] = field(default_factory=dict)


@dataclass
class Looked:
    """An assembly as it is looked over: its solids where they stand (`items` are the same in order),
    pairs of them that overlap, touch, or are no more than `near` (mm) apart, and what may be asked of
    them. Axes less than `tolerance` (mm) apart are in line."""

    built: Built
    leaves: Sequence[Leaf]
    items: Sequence[Item]
    pairs: Sequence[Pair]
    near: float
    tolerance: float
    topology: Callable[[Leaf], Topology]
    holds: Callable[[Leaf, Floats], bool]
    #: Nearest places of two solids, and how far they are apart.
    apart: Callable[[int, int], tuple[float, Triple, Triple]]
    #: Whether two solids are of one part: that is its own business.
    together: Callable[[str, str], bool]

    @cached_property
    def boxes(self) -> tuple[Floats, Floats]:
        return boxes(self.items)

    @cached_property
    def number(self) -> dict[str, int]:
        """Solids by id."""
        return {leaf.id: i for i, leaf in enumerate(self.leaves)}

    @cached_property
    def _kept(self) -> dict[tuple[str, str], Any]:
        return {}

    def _of(self, what: str, leaf: Leaf, make: Callable[[], Any]) -> Any:
        key = (what, leaf.solid.key)
        if key not in self._kept:
            self._kept[key] = make()
        return self._kept[key]

    def shafts(self, leaf: Leaf) -> list[Bore]:
        """What is round outside, in the solid's coordinates."""
        found: list[Bore] = self._of(
            "shafts", leaf, lambda: bores_of(self.topology(leaf), hollow=False)
        )
        return found

    @cached_property
    def mouths(self) -> list[list[Mouth]]:
        """The mouths of holes of every solid where it stands."""
        return [[m.placed(leaf.pose) for m in self._mouths(leaf)] for leaf in self.leaves]

    def _mouths(self, leaf: Leaf) -> list[Mouth]:
        found: list[Mouth] = self._of(
            "mouths", leaf, lambda: mouths_of(self.topology(leaf), leaf.solid.threads)
        )
        return found

    @cached_property
    def meetings(self) -> list[Meeting]:
        """Holes of two parts whose openings lie face to face."""
        # Openings that lean to each other stand apart by as much at their middles.
        pairs = [
            (i, j)
            for i, j in near_pairs(self.items, self.near + 1e-5)
            if not self.together(self.leaves[i].id, self.leaves[j].id)
        ]
        return facing(self.mouths, pairs, self.near)

    def middle(self, i: int) -> Triple:
        low, high = self.boxes
        return triple((low[i] + high[i]) / 2)


@dataclass(frozen=True)
class Say:
    """How a row is told: solids by their names, lengths in the units of the document."""

    title: Callable[[str], str]
    units: Units

    def length(self, mm: float) -> str:
        """Small ones by the places that count."""
        fine = {"rounding": "significant", "places": 3} if abs(mm) < 0.1 else {}
        return length(float(mm), self.units.model_copy(update=fine))


class FaultList:
    """Subclass, set the class attributes, write `rows` and `tell`, decorate with `register`."""

    kind: ClassVar[str]
    label: ClassVar[str]
    #: What it finds, and what is said where it finds nothing.
    line: ClassVar[str]
    none: ClassVar[str]
    order: ClassVar[int] = 50
    #: Whether overlaps that are meant are no fault here; rows then tell their ``depth``.
    meant: ClassVar[bool] = False

    def rows(self, looked: Looked) -> Iterable[Row]:
        raise NotImplementedError

    def tell(self, row: dict[str, Any], say: Say) -> str:
        """What is wrong there, beside the names of the solids."""
        raise NotImplementedError


LISTS: Registry[FaultList] = Registry("list of faults", "vireo.core.fit.lists")
L = TypeVar("L", bound="type[FaultList]")


def register(cls: L) -> L:
    LISTS.add(cls.kind, cls())
    return cls
