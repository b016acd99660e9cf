"""A run of an assembly made ready: what its drivers, loads and places are in the mechanism, what weighs
what."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from vireo.core.assembly.build import Built, Leaf
from vireo.core.assembly.ends import EndTrouble
from vireo.core.assembly.joining import Holds
from vireo.core.assembly.mechanism import Mechanism, Pair
from vireo.core.assembly.parts import merged
from vireo.core.assembly.pose import Floats
from vireo.core.declared.joint import Coordinate
from vireo.core.documents.frames import JointEnd
from vireo.core.documents.kinds.assembly import Assembly, Driver, Run, RunLoad
from vireo.core.kernel.measure import mass_properties
from vireo.core.motion.course import Key
from vireo.core.motion.dynamics import Equations, Mass, together
from vireo.core.motion.law import LAWS, Going, Led
from vireo.core.motion.load import LOADS, Place
from vireo.core.motion.run import Asked
from vireo.core.motion.timed import of_time
from vireo.core.motion.ways import axis_of
from vireo.core.quantity import Dimension, FormulaError, Quantity, evaluate
from vireo.core.quantity.units import TIME
from vireo.core.trouble import BadInput, Trouble
from vireo.work.tasks.assembly import library_of
from vireo.work.tasks.moving import Movers, coordinate_of
from vireo.work.worker import Bench

#: Standard gravity (3rd CGPM, 1901), mm/s2.
GRAVITY = 9806.65
#: At so many times a driver is held against the limits of its joint before it is let run.
_LOOKS = 401


@dataclass
class Ready:
    """A run to be gone through, and the places that are traced."""

    movers: Movers
    asked: Asked
    run: Run
    traced: list[tuple[str, Place]]
    #: Coordinates that stand as they are held.
    held: list[Key]


def ready(bench: Bench, request: dict[str, Any], run: Run) -> Ready:
    """Raises BadInput for what cannot be run."""
    movers = Movers(bench, request)
    built = movers.built
    assert isinstance(built.document, Assembly)
    around = _Around(bench, request, built, movers.values)
    duration = around.number(run.duration, [TIME], "the duration")(0.0)
    if duration <= 0:
        raise BadInput(f"the duration “{run.duration}” has to be more than none")
    laws: dict[Key, Callable[[float], Going]] = {}
    let_go: set[Key] = set()
    for driver in run.drivers:
        key, going = _driven(driver, movers, duration)
        if key in laws or key in let_go:
            raise BadInput(f"{around.name(key[0])} is driven twice in this run")
        if going is None:
            let_go.add(key)
        else:
            laws[key] = going
    mechanism = _held(movers.mechanism, {*laws, *let_go})
    held = [
        (p.id, name) for p in mechanism.pairs if not p.firm for name in p.values
    ]  # fmt: skip
    if held and not _moves(mechanism, laws):
        # What is held elsewhere follows where it is tied to what is driven.
        mechanism, held = mechanism.loosened(""), []
    masses = masses_of(bench, built)
    loads = []
    for k, load in enumerate(run.loads, 1):
        try:
            loads.append(LOADS.called(load.kind).made(load, around))
        except Trouble as trouble:
            raise BadInput(f"load {k}: {trouble.text}") from trouble
    traced = [(t.name, around.held(t.at, f"the place {t.name}")[0]) for t in run.traced]
    gravity = GRAVITY * axis_of(run.gravity) if run.gravity else np.zeros(3)
    asked = Asked(mechanism, laws, masses, gravity, loads, duration, run.frames, run.weighed)
    return Ready(movers, asked, run, traced, held)


def _held(mechanism: Mechanism, free: set[Key]) -> Mechanism:
    """With some coordinates held no more."""
    for joint, name in free:
        pair = mechanism.pair(joint)
        if pair is not None and name in pair.values:
            mechanism = mechanism.with_value(joint, name, None)
    return mechanism


def _moves(mechanism: Mechanism, laws: Mapping[Key, Callable[[float], Going]]) -> bool:
    """Whether what is driven can go while what is held stands."""
    poses = [m.pose for m in mechanism.members]
    driven = mechanism
    for (joint, name), law in laws.items():
        driven = driven.with_value(joint, name, law(0.0)[0])
    small = merged(driven.with_poses(poses))
    e = Equations(small.mechanism, [Mass()] * len(small.mechanism.members))
    wanted = np.zeros(len(e.system.owners))
    for key in laws:
        i = e.row_of(key)
        wanted[i] = e.row_scale[i]
    standing = e.at([m.pose for m in small.mechanism.members])
    return standing.misses(standing.solved(wanted), wanted) < 1e-6


def _driven(
    driver: Driver, movers: Movers, duration: float
) -> tuple[Key, Callable[[float], Going] | None]:
    names = {x.joint.id: x.joint.name for x in movers.built.entries}
    title = names.get(driver.joint, "a joint that is no longer there")
    try:
        pair, c = coordinate_of(movers.mechanism, driver.joint, driver.coordinate or None)
        now = movers.mechanism.coordinates(pair, movers.built.solution.poses)[c.name]
        going = LAWS.called(driver.law).going(
            driver, Led(c.dimension, now, duration, movers.values)
        )
        if going is not None:
            going(0.0), going(duration)
            _within(pair, c, going, duration, now)
    except Trouble as trouble:
        raise BadInput(f"{title}: {trouble.text}") from trouble
    return (pair.id, c.name), going


def _within(
    pair: Pair, c: Coordinate, going: Callable[[float], Going], duration: float, now: float
) -> None:
    """Raises BadInput for a law that passes a limit of what it drives."""
    for limit, side in ((pair.least(c.name), -1.0), (pair.most(c.name), 1.0)):
        # What stands beyond it already may be driven back.
        if limit is None or side * (now - limit) > 1e-6:
            continue
        for t in np.linspace(0.0, duration, _LOOKS):
            if side * (going(float(t))[0] - limit) > 1e-6:
                unit = "°" if c.unit == "deg" else " mm"
                raise BadInput(
                    f"it passes its limit of {c.shown(limit):.6g}{unit} at {t:.3g} s: have it go less far, "
                    "make the run shorter, or move the limit"
                )


class _Around:
    """What loads are made from (`core.motion.load.Around`)."""

    def __init__(
        self, bench: Bench, request: dict[str, Any], built: Built, values: Mapping[str, Quantity]
    ) -> None:
        self.names, self._built = values, built
        index = {s.id: i for i, s in enumerate(built.seats)}
        self._holds = Holds(library_of(bench, request), built.seats, index)

    def name(self, joint: str) -> str:
        return next((x.joint.name for x in self._built.entries if x.joint.id == joint), joint)

    def key(self, load: RunLoad) -> tuple[Key, Dimension, float]:
        mechanism = self._built.mechanism
        pair, c = coordinate_of(mechanism, load.joint, load.coordinate or None)
        now = mechanism.coordinates(pair, self._built.solution.poses)[c.name]
        return (pair.id, c.name), c.dimension, now

    def place(self, load: RunLoad, side: Literal["a", "b"]) -> tuple[Place, Floats]:
        end = getattr(load, side)
        if end is None:
            raise BadInput("a place it acts at is not picked")
        return self.held(end, "a place it acts at")

    def held(self, end: JointEnd, what: str) -> tuple[Place, Floats]:
        try:
            seat, frame = self._holds.end(end)
        except EndTrouble as trouble:
            raise BadInput(f"{what}: {trouble.text}") from trouble
        return (seat, frame.origin), self._built.solution.poses[seat].out(frame.origin)

    def number(
        self, formula: str, dimensions: Sequence[Dimension], what: str
    ) -> Callable[[float], float]:
        if not formula.strip():
            raise BadInput(f"{what} is not said")
        try:
            clock = {"t": Quantity(0.0, TIME)}
            found = evaluate(formula, {**self.names, **clock}).dimension
        except FormulaError as error:
            raise BadInput(f"{what}: {error.text}") from error
        if found not in dimensions:
            raise BadInput(f"{what} “{formula}” is {found.name}, but {_asked(dimensions)} is asked")
        return of_time(formula, found, self.names, what)


def _asked(dimensions: Sequence[Dimension]) -> str:
    """Dimensions as an engineer writes their units."""
    words = {
        "force": "a force (10 N)", "energy": "a torque (100 N*mm)", "length": "a length",
        "angle": "an angle", "time": "a time (2 s)",
    }  # fmt: skip
    d = dimensions[0]
    units = {
        (0, 1, -2, 0): "a stiffness (5 N/mm)", (2, 1, -2, -1): "a stiffness (10 N*mm/rad)",
        (0, 1, -1, 0): "a damping (0.1 N*s/mm)", (2, 1, -1, -1): "a damping (1 N*mm*s/rad)",
    }  # fmt: skip
    return words.get(d.name) or units.get((d.length, d.mass, d.time, d.angle)) or d.name


def masses_of(bench: Bench, built: Built) -> list[Mass]:
    """What the members of an assembly weigh, copies with what they go with. Raises BadInput for copies
    that go by several members."""
    poses = built.solution.poses
    number = {m.id: i for i, m in enumerate(built.mechanism.members)}
    groups = merged(built.mechanism).group
    of: list[list[Any]] = [[] for _ in built.mechanism.members]
    for leaf in built.leaves:
        if leaf.solid.mass <= 0:
            continue
        i = number[leaf.member]
        still = built.mechanism.members[i].anchored
        for carry in leaf.carried:
            k = number[carry.about] if carry.about is not None else i
            if groups[k] != groups[i] and not (still and built.mechanism.members[k].anchored):
                raise BadInput(
                    f"{leaf.name} is a copy that goes by several components: what it weighs cannot be told "
                    "to one of them; make components of the copies, or run without masses"
                )
        of[i].append((_mass(bench, leaf), poses[i].inverse() @ leaf.pose))
    return [together(parts) for parts in of]


def _mass(bench: Bench, leaf: Leaf) -> Mass:
    """Of a leaf in its own coordinates. Inertia of a body is that of its volume times its density."""
    told = mass_properties(bench.cache.body(leaf.solid.key))
    kg = leaf.solid.mass * 1e-3
    inertia = told.inertia * (kg / told.volume) if told.volume > 0 else np.zeros((3, 3))
    return Mass(kg, np.array(leaf.solid.centre, dtype=float), np.asarray(inertia))
