"""A motion over time: where everything is, how fast it goes, what forces that takes.

What is driven altogether goes as its drivers say, and the forces follow from that. What is left free
moves by its masses and what acts on it, from rest: by DOP853 (E. Hairer, G. Wanner, S. P. Norsett,
Solving Ordinary Differential Equations I, 1993), put back onto its joints exactly at every frame. A
stop takes all the speed towards it and holds until it is pulled off.
"""

from __future__ import annotations

from bisect import bisect
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from scipy.integrate import solve_ivp

from vireo.core.assembly.mechanism import Mechanism
from vireo.core.assembly.parts import Merged, merged
from vireo.core.assembly.pose import Floats, Pose, turned
from vireo.core.assembly.rows import System, arrays
from vireo.core.assembly.solver import solve
from vireo.core.motion.course import WIDEST, Course, Followed, Key, Led, Limit, followed
from vireo.core.motion.dynamics import (
    Equations,
    Mass,
    Standing,
    Wrench,
    energy,
    going,
    together,
    weight,
)
from vireo.core.motion.law import Going
from vireo.core.motion.load import Does, Now
from vireo.core.trouble import Trouble

#: In how many stretches a run is integrated; at the end of each what has drifted is put back.
_STRETCHES = 8
#: How often something may come to a stop or leave one within a stretch.
_RATTLES = 200
#: So often the free motion is asked how it goes on before it is given up: some minutes.
_ASKED = 100_000
#: A drive or joint is told to be short of what is needed when more than this share is left open.
_OPEN = 1e-6


#: Limits that hold something: the coordinate, the value, and 1 where that is the least.
Stops = frozenset[tuple[Key, float, float]]
NONE: Stops = frozenset()


class RunTrouble(Trouble):
    code = "motion"


@dataclass(frozen=True)
class Asked:
    """A run: what is driven how, what weighs what, what acts. `mechanism` stands as it begins; `masses`
    are of its members."""

    mechanism: Mechanism
    laws: Mapping[Key, Callable[[float], Going]]
    masses: Sequence[Mass]
    gravity: Floats
    loads: Sequence[Does]
    duration: float
    frames: int
    weighed: bool


@dataclass
class Frame:
    """One moment: coordinates with their speeds and accelerations, how the members go (n, 6: mm/s, rad/s of
    their origins), what drives and held coordinates give (mN, mN mm), what joints bear, and energies
    (mN mm)."""

    time: float
    poses: list[Pose]
    coordinates: dict[Key, Going]
    speeds: Floats
    accelerations: Floats
    efforts: dict[Key, float] = field(default_factory=dict)
    wrenches: dict[str, Wrench] = field(default_factory=dict)
    kinetic: float = 0.0
    stored: float = 0.0
    #: What drives give in all (mN mm/s), and what damps and pushes take or give.
    power: float = 0.0


@dataclass(frozen=True)
class Event:
    """Something that happened: a coordinate came to its ``stop`` or ``left`` it."""

    time: float
    what: str
    key: Key
    value: float


@dataclass
class Ran:
    frames: list[Frame]
    #: What moves freely: how many motions are not driven.
    freedom: int
    limit: Limit | None = None
    stuck_at: float | None = None
    events: list[Event] = field(default_factory=list)
    #: Joints whose forces others could bear as well.
    shared: set[str] = field(default_factory=set)
    #: Where the mechanism came to a change point.
    turning: list[float] = field(default_factory=list)
    course: Course | None = None
    #: What drives and loads gave and blows took, of what was integrated (mN mm).
    work: float | None = None


def run(asked: Asked, progress: Callable[[float, str], None] = lambda share, stage: None) -> Ran:
    """Raises RunTrouble where it cannot begin, and BadInput for a formula that has no value at a time."""
    return _Running(asked, progress).run()


class _Running:
    def __init__(self, asked: Asked, progress: Callable[[float, str], None]) -> None:
        self.asked, self.progress = asked, progress
        self.mechanism = asked.mechanism
        self.times = np.linspace(0.0, asked.duration, asked.frames + 1)
        held = {
            (p.id, name): value
            for p in asked.mechanism.pairs
            if not p.firm
            for name, value in p.values.items()
        }
        self.held = {k: v for k, v in held.items() if k not in asked.laws}
        self.pushes = _Pushes(asked.loads)
        self._bodies: dict[tuple[bool, Stops], Bodies] = {}

    def at(self, time: float) -> Mechanism:
        """With the driven coordinates among the held values."""
        return _held(self.mechanism, {k: law(time)[0] for k, law in self.asked.laws.items()})

    def bodies(self, fixed: bool, stops: Stops = NONE) -> Bodies:
        """What moves, held at some stops besides. What is `fixed` together taken as one is what is
        integrated; forces in fixed joints are told too."""
        if (fixed, stops) not in self._bodies:
            held = _held(self.at(0.0), {key: value for key, value, _ in stops})
            self._bodies[fixed, stops] = Bodies(held, self.asked.masses, fixed)
        return self._bodies[fixed, stops]

    def run(self) -> Ran:
        asked = self.asked
        course = Led(
            asked.mechanism,
            {k: _place(law) for k, law in asked.laws.items()},
            1e-7 * asked.duration,
        )
        begun = course.begin(0.0)
        if begun is None:
            raise RunTrouble(
                "the mechanism cannot stand where the run begins: its drivers ask for what the joints "
                "do not let be"
            )
        free = self.bodies(True).at(begun).freedom
        if free and asked.weighed:
            return self.fall(begun, free)
        way = followed(course, 0.0, asked.duration, asked.frames)
        assert way is not None
        found = self.told(way)
        found.freedom, found.course = free, course
        return found

    # What is driven

    def told(self, way: Followed) -> Ran:
        """The frames of a way that is driven altogether."""
        every = self.bodies(False)
        chosen = [
            min(way.stands, key=lambda s: abs(s[0] - t)) for t in self.times
            if t <= way.stands[-1][0] + 1e-12
        ]  # fmt: skip
        if chosen[-1] is not way.stands[-1]:
            chosen.append(way.stands[-1])
        found = Ran([], 0, way.limit, way.stuck_at)
        least: list[tuple[float, float]] = []
        for k, (time, poses) in enumerate(chosen):
            standing = every.at(poses)
            wanted, growth = self.wanted(every.equations, time)
            speeds = standing.speeds(wanted)
            accelerations = standing.accelerations(speeds, growth)
            least.append((time, standing.turning_point))
            found.frames.append(
                self.frame(time, poses, every, standing, speeds, accelerations, found)
            )
            self.progress(k / len(chosen), f"frame {k + 1} of {len(chosen)}")
        usual = float(np.median([x for _, x in least]))
        # A linkage may go on in two ways where it has a second freedom for a moment.
        found.turning = [t for t, x in least if x < usual / 20]
        return found

    def wanted(self, equations: Equations, time: float) -> tuple[Floats, Floats]:
        """How fast the rows change, and how that changes, scaled."""
        speed = np.zeros(len(equations.system.owners))
        growth = np.zeros_like(speed)
        for key, law in self.asked.laws.items():
            i = equations.row_of(key)
            _, v, a = law(time)
            speed[i], growth[i] = v * equations.row_scale[i], a * equations.row_scale[i]
        return speed, growth

    def frame(
        self, time: float, poses: list[Pose], bodies: Bodies, standing: Standing,
        speeds: Floats, accelerations: Floats, found: Ran,
    ) -> Frame:  # fmt: skip
        e = bodies.equations
        small = bodies.small(poses)
        coordinates = going(e, small, speeds, accelerations)
        u, a = bodies.spread(poses, speeds, accelerations)
        made = Frame(time, poses, coordinates, u, a)
        if not self.asked.weighed:
            return made
        now = Now(time, poses, u, coordinates)
        acting = weight(e, small, self.asked.gravity)
        pushed, stored = self.pushes.on(bodies, now)
        kinetic, high = energy(e, small, speeds, self.asked.gravity)
        made.kinetic, made.stored = kinetic, high + stored
        forces, left = standing.forces(speeds, accelerations, acting + pushed)
        if left > _OPEN:
            raise RunTrouble(
                f"at {time:.4g} s something moves that neither drives nor masses account for"
            )
        for key in [*self.asked.laws, *self.held]:
            i = e.row_of(key)
            made.efforts[key] = float(forces[i])
            made.power += float(forces[i]) * coordinates[key][1]
        # What springs give back is stored; the rest comes from outside, or is lost.
        given = float((pushed * speeds).sum())
        made.power += given + self.pushes.storing(bodies, now)
        shared = standing.shared()
        found.shared |= {e.system.owners[i] for i in shared}
        for pair in e.mechanism.pairs:
            made.wrenches[pair.id] = standing.on(pair.id, forces, drives=False)
        return made

    # What moves by its masses

    def fall(self, begun: Sequence[Pose], freedom: int) -> Ran:
        fall = _Falling(self, begun)
        fall.go()
        found = Ran([], freedom, None, fall.stuck_at, fall.events, course=fall, work=fall.work)
        for k, stand in enumerate(fall.stands):
            few, every = (self.bodies(fixed, stand.stops) for fixed in (True, False))
            u, a = few.spread(stand.poses, stand.speeds, stand.accelerations)
            mine = [every.roots[i] for i in every.equations.free]
            found.frames.append(self.frame(
                stand.time, stand.poses, every, every.at(stand.poses), u[mine], a[mine], found
            ))  # fmt: skip
            self.progress(0.5 + 0.5 * k / len(fall.stands), f"frame {k + 1}")
        return found


@dataclass(frozen=True)
class _Fallen:
    time: float
    poses: list[Pose]
    speeds: Floats
    accelerations: Floats
    stops: Stops


@dataclass
class _State:
    """Poses and speeds of the free bodies, and the energy that came from outside (mN mm)."""

    time: float
    poses: list[Pose]
    speeds: Floats
    work: float


class _Falling:
    """What is left free, integrated; a course to be followed again afterwards."""

    def __init__(self, running: _Running, begun: Sequence[Pose]) -> None:
        self.running, self.begun = running, begun
        self.close = 1e-7 * running.asked.duration
        self.stands: list[_Fallen] = []
        self.work = 0.0
        self.events: list[Event] = []
        self.stuck_at: float | None = None
        self.stops: Stops = NONE
        self._asked = 0
        self._pieces: list[tuple[float, float, Callable[[float], Floats]]] = []
        few = running.bodies(True)
        self.free = few.equations.free
        light = [few.mechanism.members[few.roots[i]].title for i in self.free
                 if few.equations.masses[i].kg <= 0]  # fmt: skip
        if light:
            raise RunTrouble(
                f"{light[0]} moves freely and weighs nothing: give it a material, or drive what moves it"
            )

    @property
    def mechanism(self) -> Mechanism:
        return self.running.mechanism

    @property
    def bodies(self) -> Bodies:
        return self.running.bodies(True, self.stops)

    @property
    def driven(self) -> frozenset[Key]:
        """All coordinates: stops hold those that are free."""
        return frozenset((p.id, c.name) for p in self.mechanism.pairs for c in p.joint.coordinates)

    # As a course

    def begin(self, value: float) -> list[Pose] | None:
        return self.poses(value, self.begun)

    def poses(
        self, value: float, here: Sequence[Pose], guess: Sequence[Pose] | None = None
    ) -> list[Pose] | None:
        k = max(0, min(len(self._pieces) - 1, bisect([p[0] for p in self._pieces], value) - 1))
        if not self._pieces:
            return list(self.begun)
        a, b, solution = self._pieces[k]
        small = self._read(value, solution(min(max(value, a), b))).poses
        return self._settled(value, small)

    def count(self, start: float, end: float, steps: int) -> int:
        fastest = max((float(np.linalg.norm(s.speeds[:, 3:], axis=1).max(initial=0.0))
                       for s in self.stands), default=0.0)  # fmt: skip
        return max(steps, int(np.ceil(abs(end - start) * fastest / WIDEST)))

    # Integrating

    def go(self) -> None:
        running = self.running
        few = self.bodies
        small = few.small(self.begun)
        wanted, _ = running.wanted(few.equations, 0.0)
        state = _State(0.0, small, few.equations.at(small).speeds(wanted), 0.0)
        self.lean(state)
        self.note(state)
        times = running.times
        stretches = np.array_split(times[1:], min(_STRETCHES, len(times) - 1))
        for k, frames in enumerate(stretches, 1):
            try:
                state = self.on(state, [float(t) for t in frames])
            except np.linalg.LinAlgError:
                self.stuck_at = self.stands[-1].time
                return
            running.progress(0.5 * k / len(stretches), f"{state.time:.3g} s")

    def on(self, state: _State, frames: Sequence[float]) -> _State:
        """The state at the last of some later times, the frames on the way noted."""
        waiting = list(frames)
        for _ in range(_RATTLES):
            watched = self.watched()
            solved = solve_ivp(
                self.rate, (state.time, waiting[-1]), self._written(state), "DOP853",
                dense_output=True, rtol=1e-9, atol=self.slack(),
                events=[w.event for w in watched] or None,
            )  # fmt: skip
            if not solved.success or not np.isfinite(solved.y[:, -1]).all():
                raise np.linalg.LinAlgError
            now = float(solved.t[-1])
            assert solved.sol is not None
            self._pieces.append((state.time, now, solved.sol))
            while len(waiting) > 1 and waiting[0] < now:
                self.note(self.settled(self._read(waiting[0], solved.sol(waiting[0]))))
                waiting.pop(0)
            state = self.settled(self._read(now, solved.y[:, -1]))
            if solved.status != 1:
                self.note(state)
                return state
            k = next(i for i, e in enumerate(solved.t_events or ()) if len(e))
            self.happened(watched[k], state)
            if waiting[-1] - now <= 1e-12 * max(1.0, now):
                self.note(state)
                return state
        raise RunTrouble(f"at {state.time:.4g} s something rattles at its stop without end")

    def slack(self) -> Floats:
        n, size = len(self.free), self.bodies.equations.size
        fast = 1e-9 * size / self.running.asked.duration
        return np.concatenate([
            np.full(3 * n, 1e-9 * size), np.full(4 * n, 1e-9),
            np.tile([fast] * 3 + [fast / size] * 3, n), [1e-3],
        ])  # fmt: skip

    def _written(self, state: _State) -> Floats:
        p, q = arrays([state.poses[i] for i in self.free])
        return np.concatenate([p.ravel(), q.ravel(), state.speeds.ravel(), [state.work]])

    def _read(self, time: float, y: Floats) -> _State:
        n = len(self.free)
        poses = self.bodies.small(self.begun)
        for k, i in enumerate(self.free):
            q = y[3 * n + 4 * k : 3 * n + 4 * k + 4]
            poses[i] = Pose(y[3 * k : 3 * k + 3], q / np.linalg.norm(q))
        return _State(time, poses, y[7 * n : 13 * n].reshape(-1, 6), float(y[-1]))

    def moved(self, state: _State) -> tuple[Floats, Floats, float]:
        """Accelerations, the forces of the rows, and how fast energy comes from outside."""
        bodies, running = self.bodies, self.running
        e = bodies.equations
        acting = weight(e, state.poses, running.asked.gravity)
        power = 0.0
        if running.asked.loads:
            full = bodies.merged.out(state.poses)
            u, _ = bodies.spread(full, state.speeds, np.zeros_like(state.speeds))
            still = going(e, state.poses, state.speeds, np.zeros_like(state.speeds))
            now = Now(state.time, full, u, still)
            pushed, _ = running.pushes.on(bodies, now)
            acting = acting + pushed
            power += float((pushed * state.speeds).sum()) + running.pushes.storing(bodies, now)
        wanted, growth = running.wanted(e, state.time)
        a, forces = e.at(state.poses).moved_by(state.speeds, acting, growth)
        power += (
            float((forces / np.where(e.row_scale > 0, e.row_scale, 1.0)) @ wanted)
            if len(forces)
            else 0.0
        )
        return a, forces, power

    def rate(self, time: float, y: Floats) -> Floats:
        self._asked += 1
        if self._asked > _ASKED:
            raise RunTrouble(
                f"the free motion is followed to {time:.3g} s of its {self.running.asked.duration:.3g} s, "
                "and that took as many steps as one run may: it is too long or too lively. A shorter "
                "run, a damper, or driving what moves fast would do"
            )
        state = self._read(time, y)
        a, _, power = self.moved(state)
        q = np.array([state.poses[i].q for i in self.free])
        w = state.speeds[:, 3:]
        turning = 0.5 * np.stack([
            -np.einsum("ni,ni->n", w, q[:, 1:]),
            *(w * q[:, :1] + np.cross(w, q[:, 1:])).T,
        ], axis=1)  # fmt: skip
        return np.concatenate([state.speeds[:, :3].ravel(), turning.ravel(), a.ravel(), [power]])

    def settled(self, state: _State) -> _State:
        """The same with the joints exactly held, and speeds that keep them so."""
        full = self._settled(state.time, state.poses)
        if full is None:
            raise np.linalg.LinAlgError
        small = self.bodies.small(full)
        return _State(state.time, small, self.kept(small, state.speeds, state.time), state.work)

    def _settled(self, time: float, small: Sequence[Pose]) -> list[Pose] | None:
        full = self.bodies.merged.out(small)
        held = _held(self.running.at(time), {key: value for key, value, _ in self.stops})
        found = solve(replace(held.with_poses(full), reference=tuple(full)), diagnose=False)
        return found.poses if found.holds else None

    def kept(self, poses: Sequence[Pose], speeds: Floats, time: float) -> Floats:
        """Speeds the joints and stops allow, after the blow that takes from them what they do not: of
        all that is held at once, without friction."""
        e = self.bodies.equations
        wanted, _ = self.running.wanted(e, time)
        return e.at(poses).struck(speeds, wanted)

    # Stops

    def watched(self) -> list[_Watched]:
        """What ends a stretch: a free coordinate that comes to a limit, a stop that is pulled off."""
        taken = {key for key, _, _ in self.stops} | set(self.running.asked.laws)
        taken |= set(self.running.held)
        found = [_Watched(self, key, value, sign, True) for key, value, sign in self.stops]
        for pair in self.bodies.equations.mechanism.pairs:
            for name, (least, most) in pair.limits.items():
                if (pair.id, name) in taken:
                    continue
                for value, sign in ((least, 1.0), (most, -1.0)):
                    if value is not None:
                        found.append(_Watched(self, (pair.id, name), value, sign, False))
        return found

    def happened(self, what: _Watched, state: _State) -> None:
        stop = (what.key, what.value, what.sign)
        if what.held:
            self.stops = self.stops - {stop}
            self.events.append(Event(state.time, "left", what.key, what.value))
            return
        before = self.energy(state)
        self.stops = self.stops | {stop}
        state.speeds = self.kept(state.poses, state.speeds, state.time)
        # What a blow takes is no work of anything.
        state.work += self.energy(state) - before
        self.events.append(Event(state.time, "stop", what.key, what.value))
        if what.pull(state) < 0:
            self.stops = self.stops - {stop}

    def lean(self, state: _State) -> None:
        """What stands at a stop as the run begins, and is pressed on it."""
        for what in self.watched():
            if abs(what.gap(state)) < 1e-6:
                stop = (what.key, what.value, what.sign)
                self.stops = self.stops | {stop}
                if what.pull(state) < 0:
                    self.stops = self.stops - {stop}

    def energy(self, state: _State) -> float:
        return sum(
            energy(self.bodies.equations, state.poses, state.speeds, self.running.asked.gravity)
        )

    def note(self, state: _State) -> None:
        a, _, _ = self.moved(state)
        full = self.bodies.merged.out(state.poses)
        self.stands.append(_Fallen(state.time, full, state.speeds, a, self.stops))
        self.work = state.work


class _Watched:
    """A limit of a free coordinate: `sign` is 1 for the least. While it is `held` it is a stop."""

    def __init__(self, falling: _Falling, key: Key, value: float, sign: float, held: bool) -> None:
        self.falling, self.key, self.value, self.sign, self.held = falling, key, value, sign, held

        def event(time: float, y: Floats) -> float:
            state = falling._read(time, y)
            return self.pull(state) if held else self.gap(state)

        event.terminal, event.direction = True, -1  # type: ignore[attr-defined]
        self.event = event

    def gap(self, state: _State) -> float:
        """How far the coordinate is from its limit."""
        mechanism = self.falling.bodies.equations.mechanism
        pair = mechanism.pair(self.key[0])
        assert pair is not None
        now = mechanism.coordinates(pair, state.poses)[self.key[1]]
        return self.sign * (now - self.value)

    def pull(self, state: _State) -> float:
        """How much the stop presses; negative where it would have to pull."""
        _, forces, _ = self.falling.moved(state)
        return self.sign * float(forces[self.falling.bodies.equations.row_of(self.key)])


def _place(law: Callable[[float], Going]) -> Callable[[float], float]:
    return lambda t: law(t)[0]


def _held(mechanism: Mechanism, values: Mapping[Key, float]) -> Mechanism:
    put: dict[str, dict[str, float]] = {}
    for (id, name), value in values.items():
        put.setdefault(id, {})[name] = value
    return replace(
        mechanism,
        pairs=tuple(
            replace(p, values={**p.values, **put[p.id]}) if p.id in put else p
            for p in mechanism.pairs
        ),
    )


class Bodies:
    """The members of a mechanism, what is tied (and perhaps what is fixed) taken as one."""

    def __init__(self, mechanism: Mechanism, masses: Sequence[Mass], fixed: bool) -> None:
        self.mechanism = mechanism
        self.merged: Merged = merged(mechanism, fixed=fixed)
        self.roots = [
            next(i for i, g in enumerate(self.merged.group) if g == k and self._root(i, k))
            for k in range(len(self.merged.mechanism.members))
        ]
        of: list[list[tuple[Mass, Pose]]] = [[] for _ in self.roots]
        for mass, group, inner in zip(masses, self.merged.group, self.merged.inner, strict=True):
            of[group].append((mass, inner))
        self.equations = Equations(self.merged.mechanism, [together(x) for x in of])

    def _root(self, i: int, k: int) -> bool:
        return self.mechanism.members[i].id == self.merged.mechanism.members[k].id

    def small(self, poses: Sequence[Pose]) -> list[Pose]:
        return [poses[i] for i in self.roots]

    def at(self, poses: Sequence[Pose]) -> Standing:
        return self.equations.at(self.small(poses))

    def spread(
        self, poses: Sequence[Pose], speeds: Floats, accelerations: Floats
    ) -> tuple[Floats, Floats]:
        """How all members go (n, 6), from how the free bodies do."""
        u = np.zeros((len(poses), 6))
        a = np.zeros((len(poses), 6))
        column = {i: k for k, i in enumerate(self.equations.free)}
        for i, g in enumerate(self.merged.group):
            k = column.get(g)
            if k is None:
                continue
            arm = poses[i].p - poses[self.roots[g]].p
            w, alpha = speeds[k, 3:], accelerations[k, 3:]
            u[i, :3], u[i, 3:] = speeds[k, :3] + np.cross(w, arm), w
            a[i, :3] = accelerations[k, :3] + np.cross(alpha, arm) + np.cross(w, np.cross(w, arm))
            a[i, 3:] = alpha
        return u, a


class _Pushes:
    """What all loads do, on bodies."""

    def __init__(self, loads: Sequence[Does]) -> None:
        self.loads = loads
        self._rows: dict[tuple[int, Key], tuple[System, int, float]] = {}

    def on(self, bodies: Bodies, now: Now) -> tuple[Floats, float]:
        """Forces and moments on the free bodies (n, 6), and what springs store."""
        e = bodies.equations
        found, stored = np.zeros((len(e.free), 6)), 0.0
        column = {i: k for k, i in enumerate(e.free)}
        for load in self.loads:
            acting = load(now)
            stored += acting.stored
            for push in acting.pushes:
                group = bodies.merged.group[push.member]
                k = column.get(group)
                if k is not None:
                    arm = push.at - now.poses[bodies.roots[group]].p
                    found[k, :3] += push.force
                    found[k, 3:] += push.moment + np.cross(arm, push.force)
            for key, effort in (acting.efforts or {}).items():
                found += effort * self._along(bodies, key, now)
        return found, stored

    def storing(self, bodies: Bodies, now: Now) -> float:
        """How fast springs fill (mN mm/s), by what they store a moment before and after."""
        u, fast = now.speeds, float(np.abs(now.speeds).max(initial=0.0))
        if fast == 0.0 or not self.loads:
            return 0.0
        h = 1e-4 * max(1.0, bodies.equations.size) / fast
        total = []
        for s in (h, -h):
            poses = [
                Pose(p.p + s * v[:3], turned(p.q, s * v[3:]))
                for p, v in zip(now.poses, u, strict=True)
            ]
            coordinates = {k: (q + s * v, v, a) for k, (q, v, a) in now.coordinates.items()}
            beside = replace(now, poses=poses, coordinates=coordinates)
            total.append(sum(load(beside).stored for load in self.loads))
        return float((total[0] - total[1]) / (2 * h))

    def _along(self, bodies: Bodies, key: Key, now: Now) -> Floats:
        """What a unit of effort along a coordinate is on the free bodies (n, 6)."""
        known = (id(bodies), key)
        e = bodies.equations
        if known not in self._rows:
            pair = e.mechanism.pair(key[0])
            assert pair is not None
            alone = replace(e.mechanism, pairs=(replace(pair, values={key[1]: 0.0}),), couplings=())
            system = System(alone)
            at = next(i for i, name in enumerate(system.held) if name == key[1])
            self._rows[known] = (system, at, system.size if system.lengths[at] else 1.0)
        system, at, unit = self._rows[known]
        row = system.evaluate(*arrays(bodies.small(now.poses)))[1][at].reshape(-1, 6) * unit
        return np.asarray(row / np.array([system.size] * 3 + [1.0] * 3))
