"""Putting components where their joints want them: damped Gauss-Newton on poses (rows: `assembly.rows`).

Redundant but consistent rows need no care because of the damping.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import scipy.linalg
import scipy.sparse
import scipy.sparse.linalg

from vireo.core.assembly.mechanism import Mechanism, Pair
from vireo.core.assembly.parts import merged, split
from vireo.core.assembly.pose import Floats, Pose, quaternion_of, rotation_of, rotations_of, turned
from vireo.core.assembly.rows import System, arrays, poses_of, stepped
from vireo.core.declared.joint import Turn

#: A solved joint is nowhere further off than this share of the mechanism's size.
GOOD = 1e-9
_ACCEPT = 1e-7
_DENSE = 180
#: How often a joint that stands against its sense is turned over and all solved anew.
_TURNS = 4
_RANK = 1e-7
#: What stands this near a limit (mm or rad) stands at it: no solution is nearer.
_AT = 1e-6


@dataclass
class Solution:
    """Poses and what is known of them. `freedom` counts all that is left to move.

    `loose` gives the number of independent motions per free member; `redundant` counts rows
    that say nothing new; `broken` are joints that do not hold, worst first.
    """

    poses: list[Pose]
    holds: bool
    worst: float
    freedom: int = 0
    loose: dict[str, int] = field(default_factory=dict)
    redundant: int = 0
    repeats: list[str] = field(default_factory=list)
    broken: list[str] = field(default_factory=list)
    #: By how much those do not hold in the best compromise: mm, or rad where only an angle is off.
    gaps: dict[str, tuple[float, bool]] = field(default_factory=dict)
    #: Joints of linkages that stand at a change point: there they may go on in two ways.
    turning: set[str] = field(default_factory=set)
    #: Coordinates of each joint by name: rad or mm.
    coordinates: dict[str, dict[str, float]] = field(default_factory=dict)


def _solve_step(J: Floats, r: Floats, damping: float) -> Floats:
    n = J.shape[1]
    if n <= _DENSE:
        # The upper half is all that a symmetric matrix has to say.
        A = scipy.linalg.blas.dsyrk(1.0, J.T)
        A[np.diag_indices_from(A)] += damping
        _, step, failed = scipy.linalg.lapack.dposv(A, -(J.T @ r), overwrite_a=True)
        if failed:
            raise np.linalg.LinAlgError("the damped equations are not positive")
        return np.asarray(step).ravel()
    S = scipy.sparse.csr_matrix(J)
    A2 = scipy.sparse.csc_matrix(S.T @ S + damping * scipy.sparse.identity(n))
    lu = scipy.sparse.linalg.splu(
        A2, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True}
    )
    return np.asarray(lu.solve(-np.asarray(S.T @ r)))


def _iterate(system: System, p: Floats, q: Floats, most: int = 60) -> tuple[Floats, Floats, float]:
    if not system.owners or not system.free:
        r = system.evaluate(p, q)[0] if system.owners else np.zeros(0)
        return p, q, float(np.abs(r).max(initial=0.0))
    damping = 1e-9
    r, J = system.evaluate(p, q)
    cost = float(r @ r)
    for _ in range(most):
        if np.abs(r).max(initial=0.0) < GOOD * 0.1:
            break
        step = _solve_step(J, r, damping)
        biggest = float(np.abs(step).max())
        if biggest > 1.0:
            step = step / biggest  # large turns overshoot: at most one radian at a time
        p2, q2 = stepped(system, p, q, step)
        r2, J2 = system.evaluate(p2, q2)
        cost2 = float(r2 @ r2)
        if np.isfinite(cost2) and cost2 < cost:
            stalled = cost2 > cost * (1 - 1e-10)
            p, q, r, J, cost = p2, q2, r2, J2, cost2
            damping = max(damping * 0.2, 1e-10)
            if stalled:
                break
        else:
            damping *= 12.0
            if damping > 1e4:
                break
    return p, q, float(np.abs(r).max(initial=0.0))


def prealigned(mechanism: Mechanism) -> list[Pose]:
    """Start poses with every member carried to its joint, outwards from what is anchored.

    Keeps each joint's present angle or length where it has one, so that little moves.
    """
    poses = [m.pose for m in mechanism.members]
    placed = {i for i, m in enumerate(mechanism.members) if m.anchored} or {0}
    waiting = list(mechanism.pairs)
    while waiting:
        ready = next((x for x in waiting if (x.a in placed) != (x.b in placed)), None)
        if ready is None:
            done = [x for x in waiting if x.a in placed and x.b in placed]
            waiting = [x for x in waiting if x not in done]
            if waiting:
                placed.add(waiting[0].a)
            continue
        waiting.remove(ready)
        values = {
            name: ready.values.get(name, _within(ready, name, now))
            for name, now in mechanism.coordinates(ready, poses).items()
        }
        relative = _between(ready, values, poses) if ready.joint.complete else _leaned(ready, poses)
        if ready.a in placed:
            poses[ready.b] = poses[ready.a] @ relative
            placed.add(ready.b)
        else:
            poses[ready.a] = poses[ready.b] @ relative.inverse()
            placed.add(ready.a)
    return poses


def _within(pair: Pair, name: str, value: float) -> float:
    """A coordinate brought between its limits."""
    least, most = pair.least(name), pair.most(name)
    value = value if least is None else max(value, least)
    return value if most is None else min(value, most)


def _between(pair: Pair, values: Mapping[str, float], poses: Sequence[Pose]) -> Pose:
    """Pose of b in a when the joint holds at its coordinates; turns that none describes stay."""
    shift, turn = np.array([0.0, 0.0, pair.offset]), 0.0
    for coordinate in pair.joint.coordinates:
        along, about = coordinate.motion(values[coordinate.name], pair.pitch)
        shift, turn = shift + along, turn + about
    c, s = np.cos(turn), np.sin(turn)
    spun = pair.axes_a @ np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])
    rotation = spun @ pair.axes_b.T
    if pair.joint.free_turn:
        rotation = poses[pair.a].rotation.T @ poses[pair.b].rotation
    origin = pair.origin_a + pair.axes_a @ shift
    return Pose(origin - rotation @ pair.origin_b, quaternion_of(rotation))


def _leaned(pair: Pair, poses: Sequence[Pose]) -> Pose:
    """Pose of b in a as they stand, but for the least turn about the point of b that brings axes
    which are to be parallel into one sense."""
    a, b = poses[pair.a], poses[pair.b]
    if pair.joint.aligned:
        z_a, z_b = a.rotation @ pair.axes_a[:, 2], b.rotation @ pair.axes_b[:, 2]
        if pair.mirror is not None:
            z_a = pair.mirror.image(poses[pair.mirror.member].rotation, z_a)
        axis, lean = np.cross(z_b, z_a), float(z_a @ z_b)
        length = float(np.linalg.norm(axis))
        about = axis / length if length > 1e-9 else b.rotation @ pair.axes_b[:, 0]
        through = b.out(pair.origin_b)
        q = turned(np.array([1.0, 0.0, 0.0, 0.0]), about * np.arctan2(length, lean))
        b = Pose(through - rotation_of(q) @ through, q) @ b
    return a.inverse() @ b


def solve(mechanism: Mechanism, diagnose: bool = True) -> Solution:
    """Poses that hold all joints, from where the members stand now.

    Never raises for joints that cannot hold: `holds` is False, `broken` names them, and the
    poses are those given.
    """
    small = merged(mechanism)
    poses = [m.pose for m in small.mechanism.members]
    whole = Solution([m.pose for m in mechanism.members], True, 0.0)
    loose = dict.fromkeys((m.id for m in small.mechanism.members if not m.anchored), 6)
    for part in split(small.mechanism):
        found = _solve_part(part.mechanism, diagnose)
        whole.holds = whole.holds and found.holds
        whole.worst = max(whole.worst, found.worst)
        whole.redundant += found.redundant
        whole.repeats += found.repeats
        whole.broken += found.broken
        whole.gaps |= found.gaps
        whole.turning |= found.turning
        loose |= found.loose
        whole.freedom += found.freedom
        for i, pose in zip(part.members, found.poses, strict=True):
            poses[i] = pose
    if diagnose:
        ids = [m.id for m in small.mechanism.members]
        whole.loose = {
            m.id: loose[ids[g]]
            for m, g in zip(mechanism.members, small.group, strict=True)
            if not small.mechanism.members[g].anchored and not m.anchored
        }
        whole.loose |= {
            m.id: 0 for m, g in zip(mechanism.members, small.group, strict=True)
            if small.mechanism.members[g].anchored and not m.anchored
        }  # fmt: skip
        order = {p.id: k for k, p in enumerate(mechanism.pairs)}
        whole.repeats.sort(key=lambda id: order.get(id, len(order)))
    if whole.holds:
        whole.poses = small.out(poses)
    elif len(small.mechanism.members) < len(mechanism.members):
        _name_all(mechanism, whole)
    for pair in mechanism.pairs:
        whole.coordinates[pair.id] = mechanism.coordinates(pair, whole.poses)
    return whole


def _name_all(mechanism: Mechanism, whole: Solution) -> None:
    """Who fights, fixed joints among them: those were taken for granted in what was solved."""
    whole.broken, whole.gaps = [], {}
    for part in split(merged(mechanism, fixed=False).mechanism):
        found = _solve_part(part.mechanism, diagnose=False)
        whole.broken += found.broken
        whole.gaps |= found.gaps


def _solve_part(mechanism: Mechanism, diagnose: bool, system: System | None = None) -> Solution:
    # Put together anew (and not dragged) something stands still, and nothing turns that need not.
    system = system or System(_steady(mechanism) if diagnose else mechanism)
    start = [m.pose for m in mechanism.members]
    found = _shifted(system, start) if diagnose else None
    p, q, worst = found or _iterate(system, *arrays(start))
    flipped = _flipped(mechanism, q)
    if worst > _ACCEPT or flipped:
        p2, q2, worst2 = _iterate(system, *arrays(prealigned(mechanism)))
        flipped2 = _flipped(mechanism, q2)
        if (len(flipped2), worst2) < (len(flipped), worst) or (not flipped2 and worst2 <= _ACCEPT):
            p, q, worst, flipped = p2, q2, worst2, flipped2
    # While something is dragged or driven it does not go over to the other side by a leap.
    for _ in range(_TURNS if diagnose else 0):
        if not flipped:
            break
        p2, q2, worst2 = _iterate(system, *_turned_over(mechanism, system, p, q, flipped))
        flipped2 = _flipped(mechanism, q2)
        if (len(flipped2), worst2 > _ACCEPT) > (len(flipped), worst > _ACCEPT):
            break
        p, q, worst, flipped = p2, q2, worst2, flipped2
    holds = worst <= _ACCEPT and not flipped
    solution = Solution(poses_of(p, q) if holds else start, holds, worst * system.size)
    if not holds:
        r, _ = system.evaluate(p, q)
        order = np.argsort(-np.abs(r))
        names = [system.owners[i] for i in order if abs(r[i]) > max(_ACCEPT, 0.05 * worst)]
        solution.broken = list(dict.fromkeys([*flipped, *names]))
        solution.gaps = _gaps(system, r)
    if diagnose:
        _diagnose(mechanism, p, q, solution)
    return solution


def _steady(mechanism: Mechanism) -> Mechanism:
    """The same with the first member held where nothing is: wherever that stands the rest can be."""
    first, *rest = mechanism.members
    if any(m.anchored for m in mechanism.members):
        return mechanism
    return replace(mechanism, members=(replace(first, anchored=True), *rest))


def _shifted(system: System, start: Sequence[Pose]) -> tuple[Floats, Floats, float] | None:
    """Poses that hold all joints with nothing turned; None where there are none near by."""
    p, q, worst = _iterate(System(system.mechanism, turns=False), *arrays(start))
    return None if worst > _ACCEPT or _flipped(system.mechanism, q) else (p, q, worst)


def _gaps(system: System, r: Floats) -> dict[str, tuple[float, bool]]:
    """How far off each joint is at the worst, and whether that is a length: lengths first."""
    found: dict[str, tuple[float, bool]] = {}
    for owner, off, length in zip(system.owners, np.abs(r), system.lengths, strict=True):
        if off <= _ACCEPT:
            continue
        size = float(off) * (system.size if length else 1.0)
        known = found.get(owner)
        if known is None or (length, size) > (known[1], known[0] if known[1] == length else -1.0):
            found[owner] = (size, length)
    return found


def _turned_over(
    mechanism: Mechanism, system: System, p: Floats, q: Floats, flipped: list[str]
) -> tuple[Floats, Floats]:
    """The same with the first joint that stands against its sense turned over: the side of it that is
    free, half a turn about the joint's own x."""
    pair = next(x for x in mechanism.pairs if x.id == flipped[0])
    i, origin, axes = pair.b, pair.origin_b, pair.axes_b
    if i not in system.free:
        i, origin, axes = pair.a, pair.origin_a, pair.axes_a
    pose = Pose(p[i], q[i])
    through, about = pose.out(origin), pose.rotation @ axes[:, 0]
    over = turned(np.array([1.0, 0.0, 0.0, 0.0]), np.pi * about)
    made = Pose(through - rotation_of(over) @ through, over) @ pose
    p, q = p.copy(), q.copy()
    p[i], q[i] = made.p, made.q
    return p, q


def _flipped(mechanism: Mechanism, q: Floats) -> list[str]:
    """Joints whose axes point against each other: the rows of parallel axes hold both ways."""
    R = rotations_of(q)
    return [x.id for x in mechanism.pairs if x.joint.aligned and x.sense(R) < 0.0]


def _diagnose(mechanism: Mechanism, p: Floats, q: Floats, solution: Solution) -> None:
    """Freedoms with nothing driven. Where a linkage stands at a change point the rank drops for
    that one pose only: what it has a little further on counts, and the point is told."""
    system = System(mechanism, driven=False)
    n = 6 * len(system.free)
    if n == 0:
        solution.redundant = len(system.owners)
        solution.repeats = list(dict.fromkeys(system.owners))
        return
    if not system.owners:
        solution.freedom = n
        solution.loose = {mechanism.members[i].id: 6 for i in system.free}
        return
    _, J = system.evaluate(p, q)
    rank, null = _null(J)
    closed = len(system.owners) - rank > 0
    if closed and rank < n and solution.holds:
        moved = _further(system, p, q, null)
        if moved is not None:
            J2 = system.evaluate(*moved)[1]
            rank2, null2 = _null(J2)
            if rank2 > rank:
                solution.turning = set(system.owners)
                J, rank, null = J2, rank2, null2
    solution.freedom = n - rank
    solution.redundant = len(system.owners) - rank
    for k, i in enumerate(system.free):
        part = null[:, 6 * k : 6 * k + 6]
        loose = int((np.linalg.svd(part, compute_uv=False) > 1e-6).sum()) if part.size else 0
        solution.loose[mechanism.members[i].id] = loose
    if solution.redundant:
        solution.repeats = _repeats(J, system.owners)


def _null(J: Floats) -> tuple[int, Floats]:
    """Rank of a matrix and an orthonormal basis (rows) of what it takes to nothing."""
    n = J.shape[1]
    if n <= 300:
        _, s, vt = np.linalg.svd(J, full_matrices=True)
        rank = int((s > _RANK * max(s[0], 1e-12)).sum()) if s.size else 0
        return rank, vt[rank:]
    # Eigenvalues of the square: half the digits, a third of the time.
    values, vectors = scipy.linalg.eigh(J.T @ J, check_finite=False)
    free = values < max(_RANK**2, 4e-16 * n) * max(float(values[-1]), 1e-24)
    return n - int(free.sum()), vectors[:, free].T


def _further(system: System, p: Floats, q: Floats, null: Floats) -> tuple[Floats, Floats] | None:
    """A pose a hair along a motion that is free here, if there is one that holds."""
    way = np.random.default_rng(1).normal(size=len(null)) @ null
    p2, q2 = stepped(system, p, q, 3e-3 * way / max(float(np.abs(way).max()), 1e-12))
    p2, q2, worst = _iterate(system, p2, q2)
    return (p2, q2) if worst <= _ACCEPT else None


def _repeats(J: Floats, owners: list[str]) -> list[str]:
    """Joints all or part of which older joints already say, in order of making."""
    basis = np.zeros((min(J.shape), J.shape[1]))
    count = 0
    found = []
    for row, owner in zip(J, owners, strict=True):
        rest = row
        for _ in range(2):
            rest = rest - (basis[:count] @ rest) @ basis[:count]
        norm = np.linalg.norm(rest)
        if count == len(basis) or norm < 1e-7 * max(1.0, float(np.linalg.norm(row))):
            found.append(owner)
        else:
            basis[count] = rest / norm
            count += 1
    return list(dict.fromkeys(found))


def drag(
    mechanism: Mechanism, member: int, grip: Floats, target: Floats, weight: float = 0.03
) -> Solution:
    """Pull a point of a member (`grip`, its own coordinates) towards `target` (outer, mm).

    The joints hold; limits of joint coordinates stop it. Only what hangs together with the member
    is solved.
    """
    small = merged(mechanism)
    group = small.group[member]
    poses = [m.pose for m in small.mechanism.members]
    part = next((x for x in split(small.mechanism) if group in x.members), None)
    if part is None or small.mechanism.members[group].anchored:
        return solve(mechanism, diagnose=False)
    inner = small.inner[member].out(grip)
    found = _drag_part(part.mechanism, part.members.index(group), inner, target, weight)
    for i, pose in zip(part.members, found.poses, strict=True):
        poses[i] = pose
    whole = Solution(small.out(poses), found.holds, found.worst, broken=found.broken)
    for pair in mechanism.pairs:
        whole.coordinates[pair.id] = mechanism.coordinates(pair, whole.poses)
    return whole


def _drag_part(
    mechanism: Mechanism, member: int, grip: Floats, target: Floats, weight: float
) -> Solution:
    system = System(mechanism)
    p, q = arrays([m.pose for m in mechanism.members])
    column = int(system.column[member])
    for _ in range(6):
        r, J = system.evaluate(p, q)
        arm = rotations_of(q[member : member + 1])[0] @ grip
        gap = (p[member] + arm - target) / system.size
        extra = np.zeros((3, J.shape[1]))
        extra[:, column : column + 3] = weight * np.eye(3)
        x, y, z = arm / system.size
        extra[:, column + 3 : column + 6] = weight * np.array(
            [[0.0, z, -y], [-z, 0.0, x], [y, -x, 0.0]]
        )
        step = _solve_step(np.vstack([J, extra]), np.concatenate([r, weight * gap]), 1e-8)
        biggest = float(np.abs(step).max())
        p, q = stepped(system, p, q, step / max(1.0, biggest / 0.5))
        # The joints are settled to the end afterwards; what is pulled follows the hand well enough.
        if biggest < 1e-4:
            break
    pulled = mechanism.with_poses(poses_of(p, q))
    found = _solve_part(pulled, diagnose=False, system=system)
    for pair in mechanism.pairs:
        if pair.limits:
            found.coordinates[pair.id] = mechanism.coordinates(pair, found.poses)
    over = beyond(mechanism, found.coordinates)
    if over:
        held = mechanism.with_poses(found.poses)
        for (id, name), limit in over.items():
            held = held.with_value(id, name, limit)
        found = _solve_part(held, diagnose=False)
    return found


#: The largest turn between two looks at what is coupled (rad): beyond half a turn its sense is lost.
_LOOK = np.pi / 3
#: In how many steps a whole way is gone along.
_STRETCHES = 48


def driven_to(
    mechanism: Mechanism, pair: str, coordinate: str, value: float
) -> tuple[Mechanism, Solution]:
    """A coordinate driven to a value, the short way round, in steps where others are coupled to it:
    the mechanism with it held there, and its solution. Where a step does not hold it stays before
    that."""
    found = mechanism.pair(pair)
    if found is None or not (mechanism.couplings or found.way):
        held = mechanism.with_value(pair, coordinate, value)
        return held, solve(held, diagnose=False)
    now = mechanism.coordinates(found, [m.pose for m in mechanism.members])[coordinate]
    step = value - now
    if found.way is not None and found.way.closed:
        step -= found.way.length * round(step / found.way.length)
    turns = isinstance(found.joint.coordinate(coordinate), Turn)
    if turns and coordinate not in found.limits:
        step = float(np.remainder(step + np.pi, 2 * np.pi) - np.pi)
    count = int(np.ceil(mechanism.turned_by(pair, coordinate, step) / _LOOK))
    if found.way is not None:
        # A long leap along a bent way may land on another stretch of it.
        count = max(count, int(np.ceil(abs(step) / found.way.length * _STRETCHES)))
    count = min(max(count, 1), 5000)
    here = mechanism
    for k in range(1, count + 1):
        held = here.with_value(pair, coordinate, now + step * k / count)
        moved = solve(held, diagnose=False)
        if not moved.holds:
            return held, moved
        here = held.with_poses(moved.poses)
    return held, moved


def driven_within(
    mechanism: Mechanism, pair: str, coordinate: str, value: float
) -> tuple[Solution, str | None]:
    """The same, as far as the limits of all joints let it go; with the joint that stopped it.

    What is held elsewhere follows where it is tied to this one.
    """
    _, found = driven_to(mechanism, pair, coordinate, value)
    if not found.holds:
        mechanism = mechanism.loosened(pair)
        _, found = driven_to(mechanism, pair, coordinate, value)
    poses = [m.pose for m in mechanism.members]
    before = {p.id: mechanism.coordinates(p, poses) for p in mechanism.pairs}
    # What stands beyond its limit already bars nothing: it may be driven back.
    already = {id for id, _ in beyond(mechanism, before)}

    def over(tried: Solution) -> set[str]:
        return {id for id, _ in beyond(mechanism, tried.coordinates)} - already

    passed = over(found) if found.holds else set()
    if pair not in before or not passed:
        return found, None
    low = before[pair][coordinate]
    best, stopped = None, next(iter(passed))
    high = value
    for _ in range(14):
        middle = 0.5 * (low + high)
        _, tried = driven_to(mechanism, pair, coordinate, middle)
        if tried.holds and not over(tried):
            low, best = middle, tried
        else:
            high = middle
    if best is None:
        best = solve(mechanism, diagnose=False)
    return best, stopped


def driven_home(mechanism: Mechanism) -> Mechanism:
    """Members where held values lead by way of all that is coupled to them: at once some would
    turn by more than can be told apart. As it was where that cannot be."""
    if not mechanism.couplings:
        return mechanism
    held = [(p.id, n, v) for p in mechanism.pairs if not p.firm for n, v in p.values.items()]
    loose = mechanism.loosened("")
    start = solve(loose, diagnose=False)
    if not start.holds:
        return mechanism
    here = loose.with_poses(start.poses)
    for id, name, value in held:
        here, found = driven_to(here, id, name, value)
        if not found.holds:
            return mechanism
        here = replace(here.with_poses(found.poses), reference=None)
    return mechanism.with_poses([m.pose for m in here.members])


def within_limits(mechanism: Mechanism, found: Solution, of: Collection[str]) -> Solution:
    """The same with some joints brought to the limits they stand beyond; as it was where that
    cannot hold."""
    now = found
    for _ in range(4):
        over = {k: v for k, v in beyond(mechanism, now.coordinates).items() if k[0] in of}
        if not over or not now.holds:
            break
        held = mechanism.with_poses(now.poses)
        for (id, name), limit in over.items():
            held = held.with_value(id, name, limit)
        moved = solve(held, diagnose=False)
        if not moved.holds:
            return found
        now = replace(found, poses=moved.poses, coordinates=moved.coordinates)
    return now


def droppable(mechanism: Mechanism, broken: Sequence[str], most: int = 8) -> list[str]:
    """Which of some joints that cannot hold together the others would hold without, each tried."""
    found = []
    for id in broken[:most]:
        rest = replace(
            mechanism,
            pairs=tuple(p for p in mechanism.pairs if p.id != id),
            couplings=tuple(c for c in mechanism.couplings if c.id != id),
        )
        if solve(rest, diagnose=False).holds:
            found.append(id)
    return found


def beyond(
    mechanism: Mechanism, coordinates: Mapping[str, Mapping[str, float]]
) -> dict[tuple[str, str], float]:
    """Coordinates outside their limits, by joint and name, with the limit they passed."""
    found = {}
    for pair in mechanism.pairs:
        for name, value in coordinates.get(pair.id, {}).items():
            least, most = pair.least(name), pair.most(name)
            if least is not None and value < least - _AT:
                found[pair.id, name] = least
            elif most is not None and value > most + _AT:
                found[pair.id, name] = most
    return found
