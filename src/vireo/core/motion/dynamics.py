"""Speeds, accelerations and forces of a mechanism by its joints' own equations.

With J the gradient of all that is held, u the speeds of the members (of their origins, and spins), M
their masses, F what acts on them and h(u) what turning costs (Newton and Euler about the origin of each):
    J u = w                      what is driven goes at its speed w, all else is held
    J a + (dJ/dt) u = dw/dt
    M a + h(u) = F + Jt l        l are the forces in the joints and of the drives
as in E. J. Haug, Computer Aided Kinematics and Dynamics of Mechanical Systems, 1989, ch. 3 and 6. What is
held more than once shares its forces as is least in all; which joints that is true of is told.

Units: mm, kg, s, rad; so forces are mN and moments mN mm here.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from vireo.core.assembly.mechanism import Mechanism
from vireo.core.assembly.pose import Floats, Pose
from vireo.core.assembly.rows import System, arrays, stepped
from vireo.core.motion.course import Key
from vireo.core.motion.law import Going
from vireo.core.quantity import ANGLE

#: Singular values below this share of the largest are nothing.
_RANK = 1e-8
#: How far ahead and back (as a share of size and a radian) the equations are looked at for their change.
_AHEAD = 1e-4
#: The same for coordinates, whose second differences are taken.
_BESIDE = 5e-4
#: What goes slower (scaled, 1/s) stands still.
_STILL = 1e-100


@dataclass(frozen=True)
class Mass:
    """Of a member: kg, its centre (mm) and inertia about that (kg mm2), in its own coordinates."""

    kg: float = 0.0
    centre: Floats = field(default_factory=lambda: np.zeros(3))
    inertia: Floats = field(default_factory=lambda: np.zeros((3, 3)))


def together(masses: Sequence[tuple[Mass, Pose]]) -> Mass:
    """Several as one, each as it stands in the whole."""
    kg = sum(m.kg for m, _ in masses)
    if kg <= 0:
        return Mass()
    centre = sum((m.kg * at.out(m.centre) for m, at in masses), np.zeros(3)) / kg
    inertia = np.zeros((3, 3))
    for m, at in masses:
        d = at.out(m.centre) - centre
        inertia += at.rotation @ m.inertia @ at.rotation.T
        inertia += m.kg * (float(d @ d) * np.eye(3) - np.outer(d, d))
    return Mass(kg, centre, inertia)


def _skew(v: Floats) -> Floats:
    return np.array([[0, -v[2], v[1]], [v[2], 0, -v[0]], [-v[1], v[0], 0.0]])


@dataclass(frozen=True)
class Wrench:
    """A force (mN) and a moment (mN mm) about a place, in outer coordinates."""

    force: Floats
    moment: Floats


class Equations:
    """The equations of a mechanism whose driven coordinates are among its held values."""

    def __init__(self, mechanism: Mechanism, masses: Sequence[Mass]) -> None:
        self.mechanism, self.masses = mechanism, masses
        self.system = System(mechanism)
        self.size = self.system.size
        #: Members that move, by number; six columns for each.
        self.free: list[int] = self.system.free
        #: Lengths are counted in units of the size, that all are of one kind.
        self._scale = np.tile([1 / self.size] * 3 + [1.0] * 3, len(self.free))
        lengths = np.array(self.system.lengths, dtype=bool)
        self.row_scale = np.where(lengths, 1 / self.size, 1.0) if len(lengths) else np.zeros(0)

    def row_of(self, key: Key) -> int:
        """The row that holds a coordinate."""
        return next(
            i for i, (owner, name) in enumerate(
                zip(self.system.owners, self.system.held, strict=True)
            ) if (owner, name) == key
        )  # fmt: skip

    def gradient(self, poses: Sequence[Pose]) -> Floats:
        """J with lengths in units of the size throughout."""
        return self.system.evaluate(*arrays(poses))[1]

    def at(self, poses: Sequence[Pose]) -> Standing:
        return Standing(self, poses)

    def scaled(self, speeds: Floats) -> Floats:
        """Speeds or accelerations of the free members (n, 6) as the columns count them."""
        return np.asarray(speeds.ravel() * self._scale)

    def plain(self, columns: Floats) -> Floats:
        return np.asarray((columns / self._scale).reshape(-1, 6))

    def drift(self, poses: Sequence[Pose], speeds: Floats) -> Floats:
        """(dJ/dt) u in scaled rows, by looking a little ahead and back along the motion."""
        u = self.scaled(speeds)
        fast = float(np.abs(u).max(initial=0.0))
        if fast < _STILL:
            return np.zeros(len(self.system.owners))
        h = _AHEAD / fast
        p, q = arrays(poses)
        ahead = self.system.evaluate(*stepped(self.system, p, q, h * u))[1]
        back = self.system.evaluate(*stepped(self.system, p, q, -h * u))[1]
        return np.asarray((ahead - back) @ u / (2 * h))

    def mass_matrix(self, poses: Sequence[Pose]) -> Floats:
        """Masses of the free members in plain columns: (6n, 6n), kg, kg mm, kg mm2."""
        found = np.zeros((6 * len(self.free), 6 * len(self.free)))
        for k, i in enumerate(self.free):
            m, turn = self.masses[i], poses[i].rotation
            c = turn @ m.centre
            block = found[6 * k : 6 * k + 6, 6 * k : 6 * k + 6]
            block[:3, :3] = m.kg * np.eye(3)
            block[:3, 3:] = -m.kg * _skew(c)
            block[3:, :3] = m.kg * _skew(c)
            block[3:, 3:] = turn @ m.inertia @ turn.T - m.kg * _skew(c) @ _skew(c)
        return found

    def turning(self, poses: Sequence[Pose], speeds: Floats) -> Floats:
        """h(u): what turning costs, in plain columns (n, 6)."""
        found = np.zeros((len(self.free), 6))
        for k, i in enumerate(self.free):
            m, turn = self.masses[i], poses[i].rotation
            c, w = turn @ m.centre, speeds[k, 3:]
            inertia = turn @ m.inertia @ turn.T - m.kg * _skew(c) @ _skew(c)
            found[k, :3] = m.kg * np.cross(w, np.cross(w, c))
            found[k, 3:] = np.cross(w, inertia @ w)
        return found


def _taken_apart(J: Floats) -> tuple[Floats, Floats, Floats]:
    """A matrix by its singular values, those that are nothing left out."""
    if 0 in J.shape:
        return np.zeros((J.shape[0], 0)), np.zeros(0), np.zeros((0, J.shape[1]))
    U, s, Vt = np.linalg.svd(J, full_matrices=False)
    rank = int((s > _RANK * s[0]).sum()) if s[0] > 0 else 0
    return U[:, :rank], s[:rank], Vt[:rank]


class Standing:
    """The equations at one stand, taken apart once."""

    def __init__(self, equations: Equations, poses: Sequence[Pose]) -> None:
        self.equations, self.poses = equations, poses
        self.J = equations.gradient(poses)

    @cached_property
    def _parts(self) -> tuple[Floats, Floats, Floats]:
        return _taken_apart(self.J)

    @property
    def freedom(self) -> int:
        """Motions that nothing holds or drives."""
        return int(self.J.shape[1]) - len(self._parts[1])

    @property
    def turning_point(self) -> float:
        """The smallest singular value that counts, as a share of the largest."""
        s = self._parts[1]
        return float(s[-1] / s[0]) if len(s) else 1.0

    def solved(self, rows: Floats) -> Floats:
        """Columns x of least size with J x = rows, scaled."""
        U, s, Vt = self._parts
        return np.asarray(Vt.T @ ((U.T @ rows) / s))

    def misses(self, columns: Floats, rows: Floats) -> float:
        """By how much J x misses rows, as a share of these."""
        off = self.J @ columns - rows
        return float(np.abs(off).max(initial=0.0) / max(np.abs(rows).max(initial=0.0), 1e-12))

    def speeds(self, wanted: Floats) -> Floats:
        """Speeds (n, 6) of the free members when the rows change so (scaled)."""
        return self.equations.plain(self.solved(wanted))

    def accelerations(self, speeds: Floats, wanted: Floats) -> Floats:
        """The same of accelerations."""
        return self.equations.plain(self.solved(wanted - self.equations.drift(self.poses, speeds)))

    def forces(self, speeds: Floats, accelerations: Floats, acting: Floats) -> tuple[Floats, float]:
        """What joints and drives have to give, row by row, in mN of those that hold a length and mN mm of
        the others, and what they leave open as a share of what acts and is moved."""
        e = self.equations
        U, s, Vt = self._parts
        inert = (e.mass_matrix(self.poses) @ accelerations.ravel()).reshape(-1, 6)
        inert = inert + e.turning(self.poses, speeds)
        asked = (inert - acting).ravel() / e._scale
        found = U @ ((Vt @ asked) / s)
        left = np.abs(self.J.T @ found - asked).max(initial=0.0)
        most = max(np.abs(x.ravel() / e._scale).max(initial=0.0) for x in (inert, acting))
        return found * e.row_scale, float(left / max(most, 1e-9))

    def shared(self) -> set[int]:
        """Rows whose force is not told by statics: others could bear it as well."""
        U = self._parts[0]
        lost = 1.0 - (U**2).sum(axis=1)
        # What is left of a row outside the space of forces that balance.
        return {int(i) for i in np.flatnonzero(lost > 1e-7)}

    def _weighed(self) -> Floats:
        """The root of the masses, scaled. What has a mass in one point only gets a trace of inertia."""
        e = self.equations
        M = e.mass_matrix(self.poses) / np.outer(e._scale, e._scale)
        root = np.linalg.cholesky(M + 1e-12 * float(M.max(initial=0.0)) * np.eye(len(M)))
        return np.asarray(root, dtype=np.float64)

    def moved_by(self, speeds: Floats, acting: Floats, wanted: Floats) -> tuple[Floats, Floats]:
        """Accelerations (n, 6) of what moves by its masses, and the forces of the rows. Raises
        LinAlgError where something moves that has no mass."""
        e = self.equations
        L = self._weighed()
        load = (acting - e.turning(self.poses, speeds)).ravel() / e._scale
        # In coordinates in which all masses are one: the motion nearest to that without joints (Gauss).
        free = np.asarray(np.linalg.solve(L, load), dtype=np.float64)
        J = np.asarray(np.linalg.solve(L, self.J.T).T, dtype=np.float64)
        rows = wanted - e.drift(self.poses, speeds)
        U, s, _ = _taken_apart(J)
        pull = U @ ((U.T @ (rows - J @ free)) / s**2)
        found = np.asarray(np.linalg.solve(L.T, free + J.T @ pull), dtype=np.float64)
        return e.plain(found), pull * e.row_scale

    def struck(self, speeds: Floats, wanted: Floats) -> Floats:
        """Speeds (n, 6) that keep what is held, next to those given by the masses: after a blow without
        friction."""
        e = self.equations
        L = self._weighed()
        J = np.asarray(np.linalg.solve(L, self.J.T).T, dtype=np.float64)
        U, s, _ = _taken_apart(J)
        u = e.scaled(speeds)
        pull = U @ ((U.T @ (wanted - self.J @ u)) / s**2)
        return e.plain(u + np.linalg.solve(L.T, J.T @ pull))

    def on(self, pair: str, forces: Floats, drives: bool) -> Wrench:
        """What a joint exerts on its b, about the point of that end; with what it drives or holds."""
        e = self.equations
        joint = e.mechanism.pair(pair)
        assert joint is not None
        rows = [
            i for i, (owner, name) in enumerate(zip(e.system.owners, e.system.held, strict=True))
            if owner == pair and (drives or name is None)
        ]  # fmt: skip
        member, sign = joint.b, 1.0
        if member not in e.free:
            member, sign = joint.a, -1.0
        if member not in e.free or not rows:
            return Wrench(np.zeros(3), np.zeros(3))
        k = e.free.index(member)
        J = self.J[rows, 6 * k : 6 * k + 6]
        # Of a row in units of the size: the force by its own gradient.
        back = forces[rows] / e.row_scale[rows]
        force = sign * (back @ J[:, :3]) / e.size
        moment = sign * (back @ J[:, 3:])
        pose = self.poses[member]
        place = self.poses[joint.b].out(joint.origin_b)
        return Wrench(force, moment - np.cross(place - pose.p, force))


def weight(equations: Equations, poses: Sequence[Pose], gravity: Floats) -> Floats:
    """What weighs on the free members (n, 6), by an acceleration (mm/s2)."""
    found = np.zeros((len(equations.free), 6))
    for k, i in enumerate(equations.free):
        m = equations.masses[i]
        found[k, :3] = m.kg * gravity
        found[k, 3:] = np.cross(poses[i].rotation @ m.centre, m.kg * gravity)
    return found


def energy(
    equations: Equations, poses: Sequence[Pose], speeds: Floats, gravity: Floats
) -> tuple[float, float]:
    """Of the motion and of the height (uJ = mN mm)."""
    M = equations.mass_matrix(poses)
    u = speeds.ravel()
    high = sum(
        -equations.masses[i].kg * float(gravity @ poses[i].out(equations.masses[i].centre))
        for i in equations.free
    )
    return float(0.5 * u @ M @ u), high


def going(
    equations: Equations, poses: Sequence[Pose], speeds: Floats, accelerations: Floats
) -> dict[Key, Going]:
    """Every coordinate of every joint of the equations' mechanism (rad or mm): what it is, its speed and its
    acceleration, from how the free members (n, 6) go. By where they are a little before and after: of
    second order as the motion itself."""
    mechanism = equations.mechanism
    p, q = arrays(poses)
    u, a = equations.scaled(speeds), equations.scaled(accelerations)
    fast = max(float(np.abs(u).max(initial=0.0)), float(np.abs(a).max(initial=0.0)) ** 0.5)
    fast = fast if fast > _STILL else 0.0
    h = _BESIDE / fast if fast > 0 else 1.0
    stands = [
        [Pose(x, y) for x, y in zip(
            *stepped(equations.system, p, q, s * h * u + 0.5 * h * h * a), strict=True)]
        for s in (-1, 1)
    ]  # fmt: skip
    found: dict[Key, Going] = {}
    for pair in mechanism.pairs:
        now = mechanism.coordinates(pair, poses)
        beside = [mechanism.coordinates(pair, s) for s in stands]
        for c in pair.joint.coordinates:
            whole = 2 * np.pi if c.dimension == ANGLE else 0.0
            back, ahead = (b[c.name] - now[c.name] for b in beside)
            if whole:
                back, ahead = (x - whole * round(x / whole) for x in (back, ahead))
            speed, growth = (ahead - back) / (2 * h), (ahead + back) / (h * h)
            found[pair.id, c.name] = (
                (now[c.name], speed, growth) if fast > 0 else (now[c.name], 0.0, 0.0)
            )
    return found
