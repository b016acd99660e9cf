"""The contract of what acts on a mechanism over a run, and the registry of these. A load is one file in
`vireo.core.motion.loads`."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np

from vireo.core.assembly.pose import Floats, Pose
from vireo.core.documents.kinds.assembly import RunLoad
from vireo.core.motion.course import Key
from vireo.core.motion.law import Going
from vireo.core.motion.slots import Slot
from vireo.core.quantity import Dimension, Quantity
from vireo.core.registry import Registry

#: A place on a member: its number, and where in it (mm); on what stands still the number of that.
Place = tuple[int, Floats]


@dataclass(frozen=True)
class Push:
    """A force (mN) at a place (mm, outer coordinates) and a moment (mN mm) on a member."""

    member: int
    at: Floats
    force: Floats
    moment: Floats


@dataclass
class Now:
    """How things go at a time: what a load is told. `speeds` are of all members (n, 6)."""

    time: float
    poses: Sequence[Pose]
    speeds: Floats
    coordinates: Mapping[Key, Going]

    def at(self, place: Place) -> tuple[Floats, Floats]:
        """Where a place is (mm) and how fast it goes (mm/s)."""
        i, local = place
        arm = self.poses[i].rotation @ local
        v = self.speeds[i]
        return self.poses[i].p + arm, v[:3] + np.cross(v[3:], arm)


@dataclass
class Acting:
    """What a load does at a time: pushes on members, efforts along coordinates of joints (mN, or mN mm),
    and the energy it stores (mN mm)."""

    pushes: Sequence[Push] = ()
    efforts: Mapping[Key, float] | None = None
    stored: float = 0.0


class Around(Protocol):
    """What a load is made from."""

    names: Mapping[str, Quantity]

    def key(self, load: RunLoad) -> tuple[Key, Dimension, float]:
        """The coordinate it names, what that is, and where it stands. Raises BadInput."""
        ...

    def place(self, load: RunLoad, side: Literal["a", "b"]) -> tuple[Place, Floats]:
        """A place it names, and where that stands (mm). Raises BadInput."""
        ...

    def number(
        self, formula: str, dimensions: Sequence[Dimension], what: str
    ) -> Callable[[float], float]:
        """A number of it over time. Raises BadInput for one of none of the dimensions."""
        ...


Does = Callable[[Now], Acting]


@dataclass(frozen=True)
class LoadKind:
    kind: str
    label: str
    line: str
    slots: tuple[Slot, ...]
    made: Callable[[RunLoad, Around], Does]
    order: int = 50


LOADS: Registry[LoadKind] = Registry("load", "vireo.core.motion.loads")


def add(kind: LoadKind) -> None:
    LOADS.add(kind.kind, kind)
