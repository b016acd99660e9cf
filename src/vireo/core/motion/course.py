"""The way a mechanism goes: where its members stand for each value of one number, be that a coordinate
of a joint or the time."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np

from vireo.core.assembly.mechanism import Mechanism
from vireo.core.assembly.pose import Pose, multiply
from vireo.core.assembly.solver import beyond, driven_to, solve
from vireo.core.quantity import ANGLE
from vireo.core.trouble import BadInput

#: A coordinate of a joint: the joint's id, and its name.
Key = tuple[str, str]
#: What a coordinate is at a value of the number: rad or mm.
Law = Callable[[float], float]
#: Nothing turns further than this (rad) between two stands that are looked at.
WIDEST = math.pi / 6
#: No motion is followed over more stands than this: five hundred turns.
MOST = 6000


class Course(Protocol):
    """What a sweep follows. `close`: to this a contact is told in its number."""

    close: float

    @property
    def mechanism(self) -> Mechanism: ...

    @property
    def driven(self) -> frozenset[Key]:
        """Coordinates that are led: their own limits do not end the motion."""
        ...

    def begin(self, value: float) -> list[Pose] | None:
        """Where the members stand at the first value; None where they cannot."""
        ...

    def poses(
        self, value: float, here: Sequence[Pose], guess: Sequence[Pose] | None = None
    ) -> list[Pose] | None:
        """Where they stand at a value, from where they stand near by; None where they cannot. `guess`
        is where they would be if they went on as they did."""
        ...

    def count(self, start: float, end: float, steps: int) -> int:
        """In how many steps the way is gone so that nothing turns too far at once: not fewer."""
        ...


class Led:
    """Coordinates led by laws; all else follows by the joints."""

    def __init__(self, mechanism: Mechanism, laws: Mapping[Key, Law], close: float = 8e-6) -> None:
        self._mechanism, self.laws, self.close = mechanism, laws, close

    @property
    def mechanism(self) -> Mechanism:
        return self._mechanism

    @property
    def driven(self) -> frozenset[Key]:
        return frozenset(self.laws)

    def begin(self, value: float) -> list[Pose] | None:
        here = self._mechanism
        for (id, name), law in self.laws.items():
            here, found = driven_to(here, id, name, law(value))
            if not found.holds:
                return None
            here = replace(here.with_poses(found.poses), reference=None)
        return [m.pose for m in here.members]

    def held(self, value: float, here: Sequence[Pose]) -> Mechanism:
        """The mechanism with what is led held where it is at a value. Couplings count from `here`, so
        that a turn between two stands is never taken for another."""
        put: dict[str, dict[str, float]] = {}
        for (id, name), law in self.laws.items():
            put.setdefault(id, {})[name] = law(value)
        pairs = tuple(
            replace(p, values={**p.values, **put[p.id]}) if p.id in put else p
            for p in self._mechanism.pairs
        )
        return replace(self._mechanism, pairs=pairs, reference=tuple(here))

    def poses(
        self, value: float, here: Sequence[Pose], guess: Sequence[Pose] | None = None
    ) -> list[Pose] | None:
        held = self.held(value, here)
        if guess is None:
            carried = self._mechanism.with_poses(here)
            for (id, name), law in self.laws.items():
                carried = carried.with_value(id, name, law(value))
            guess = [m.pose for m in carried.members]
        found = solve(held.with_poses(guess), diagnose=False)
        return found.poses if found.holds else None

    def count(self, start: float, end: float, steps: int) -> int:
        for _ in range(12):
            most = self._widest(start, end, steps)
            if most <= WIDEST * (1 + 1e-9):
                break
            steps = math.ceil(steps * most / WIDEST - 1e-9)
            if steps > MOST:
                break
        return steps

    def _widest(self, start: float, end: float, steps: int) -> float:
        """The largest turn (rad) between two of so many stands."""
        at = np.linspace(start, end, steps + 1)
        most = 0.0
        for key, law in self.laws.items():
            step = float(np.abs(np.diff([law(float(v)) for v in at])).max(initial=0.0))
            pair = self._mechanism.pair(key[0])
            c = pair.joint.coordinate(key[1]) if pair else None
            turned = self._mechanism.turned_by(*key, step)
            most = max(most, turned, step if c is not None and c.dimension == ANGLE else 0.0)
        return most


def one(mechanism: Mechanism, joint: str, coordinate: str) -> Led:
    """A coordinate that leads itself."""
    return Led(mechanism, {(joint, coordinate): lambda value: value})


@dataclass(frozen=True)
class Limit:
    """The limit of another joint that ends a motion."""

    joint: str
    coordinate: str
    value: float


#: Where the members stand at a value.
Stand = tuple[float, list[Pose]]


@dataclass
class Followed:
    """Stands along a course, as far as it goes: to the end, to a `limit`, or to `stuck_at` where the
    mechanism would not go on."""

    stands: list[Stand]
    limit: Limit | None = None
    stuck_at: float | None = None


def followed(course: Course, start: float, end: float, steps: int) -> Followed | None:
    """A course from one value to another in `steps` or more; None when it cannot stand at the first.
    Raises BadInput for one that is too long to be followed."""
    needed = course.count(start, end, steps)
    if needed > MOST:
        turns, most = (n * WIDEST / math.tau for n in (needed, MOST))
        raise BadInput(
            f"the motion goes round about {turns:.3g} times; no more than {most:.0f} turns are followed "
            "in one go: drive it less far, or for a shorter time"
        )
    first = course.begin(start)
    if first is None:
        return None
    found = Followed([(start, first)])
    for k in range(1, needed + 1):
        value = start + (end - start) * k / needed
        before = found.stands[-2] if k > 1 else None
        there = _reached(course, value, found.stands[-1], before, found)
        if there is not None:
            found.stands.append(there)
        if there is None or found.limit or found.stuck_at is not None:
            break
    return found


def stood(course: Course, value: float, here: Stand, before: Stand | None = None) -> Stand | None:
    """The mechanism at a value, from near there; None where it cannot stand."""
    guess = carried_on(before, here, value) if before is not None else None
    poses = course.poses(value, here[1], guess)
    return None if poses is None else (value, poses)


def passed(course: Course, poses: Sequence[Pose]) -> dict[Key, float]:
    """Limits that some poses lie beyond, but for those of what is driven."""
    mechanism = course.mechanism
    coordinates = {p.id: mechanism.coordinates(p, poses) for p in mechanism.pairs if p.limits}
    over = beyond(mechanism, coordinates)
    return {k: v for k, v in over.items() if k not in course.driven}


def _reached(
    course: Course, value: float, here: Stand, before: Stand | None, found: Followed
) -> Stand | None:
    """The next stand, or the last one before what stops the motion. None when that is where it stands
    already."""
    there = stood(course, value, here, before)
    start = passed(course, here[1])
    if there is not None and not (passed(course, there[1]).keys() - start.keys()):
        return there
    low, high, over = here, value, passed(course, there[1]) if there is not None else {}
    for _ in range(40):
        if abs(high - low[0]) < 1e-9 * max(1.0, abs(high)):
            break
        middle = 0.5 * (low[0] + high)
        tried = stood(course, middle, low)
        beyond_it = passed(course, tried[1]) if tried is not None else {}
        if tried is None or beyond_it.keys() - start.keys():
            high, over = middle, beyond_it
        else:
            low = tried
    limits = [(k, v) for k, v in over.items() if k not in start]
    if limits:
        (joint, coordinate), at = limits[0]
        found.limit = Limit(joint, coordinate, at)
    else:
        found.stuck_at = low[0]
    return low if low is not here else None


def carried_on(
    before: tuple[float, Sequence[Pose]], here: tuple[float, Sequence[Pose]], value: float
) -> list[Pose] | None:
    """Where members would be if they went on as they did, from two stands: a linkage keeps its branch
    through a change point so. None where that says nothing."""
    (was, old), (at, now) = before, here
    if abs(at - was) < 1e-12:
        return None
    ratio = (value - at) / (at - was)
    if not 0.2 < ratio < 5.0:
        return None
    found = []
    for one, two in zip(old, now, strict=True):
        step = multiply(two.q, one.q * np.array([1.0, -1.0, -1.0, -1.0]))
        step = step if step[0] >= 0 else -step
        angle = 2 * math.acos(min(1.0, float(step[0])))
        length = float(np.linalg.norm(step[1:]))
        q = two.q
        if length > 1e-12:
            half = 0.5 * angle * ratio
            turn = np.array([math.cos(half), *(math.sin(half) * step[1:] / length)])
            q = multiply(turn, two.q)
        found.append(Pose(two.p + ratio * (two.p - one.p), q))
    return found
