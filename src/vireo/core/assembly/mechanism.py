"""A mechanism: members with poses, pairs between them. What the solver works on."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from vireo.core.assembly.pose import Floats, Pose, rotation_of, turned
from vireo.core.declared.joint import JOINTS, JointForm, Turn
from vireo.core.naming.grammar import top_of
from vireo.core.ways import Way

#: Least and most of a coordinate; None where there is no limit.
Span = tuple[float | None, float | None]


@dataclass(frozen=True)
class Member:
    """A rigid component. `size` in mm makes angles and lengths comparable, `title` is what
    messages call it."""

    id: str
    pose: Pose
    anchored: bool = False
    size: float = 100.0
    title: str = ""


@dataclass(frozen=True)
class Mirror:
    """A plane on a member: a point of it and its normal, in the coordinates of that."""

    member: int
    origin: Floats
    normal: Floats

    def image(self, rotation: Floats, way: Floats) -> Floats:
        """A direction (outer coordinates) as it is seen in the mirror, its member turned so (3x3)."""
        n = rotation @ self.normal
        return np.asarray(way - 2 * float(n @ way) * n)


@dataclass(frozen=True)
class Pair:
    """A joint between members `a` and `b`, each end a point and axes in its member.

    Axes of `b` are already turned so that z of both ends point the same way when joined.
    `form` is that of its kind; `offset` is along z (mm), `pitch` the slide for one turn (mm);
    `values` are the coordinates that are held, by name, `limits` the least and most of those that
    have any: rad or mm.
    """

    id: str
    kind: str
    a: int
    b: int
    origin_a: Floats
    axes_a: Floats
    origin_b: Floats
    axes_b: Floats
    offset: float = 0.0
    values: Mapping[str, float] = field(default_factory=dict)
    limits: Mapping[str, Span] = field(default_factory=dict)
    form: str = ""
    pitch: float = 0.0
    #: Whether its values take motions away for good; those of others are only driven.
    firm: bool = False
    #: Whether it holds against the sense of its ends, or on the other side.
    flipped: bool = False
    #: What a symmetry mirrors in.
    mirror: Mirror | None = None
    #: What the point of b runs along, in the axes of a.
    way: Way | None = None

    @property
    def members(self) -> tuple[int, ...]:
        """All it holds."""
        return (self.a, self.b) if self.mirror is None else (self.a, self.b, self.mirror.member)

    def led(self, at: Mapping[int, int] | Sequence[int]) -> Pair:
        """The same with its members numbered anew."""
        if all(at[i] == i for i in self.members):
            return self
        mirror = self.mirror and replace(self.mirror, member=at[self.mirror.member])
        return replace(self, a=at[self.a], b=at[self.b], mirror=mirror)

    def sense(self, rotations: Sequence[Floats] | Floats) -> float:
        """The cosine of the angle between the z axes of both ends, that of a as in the mirror, the
        members turned so (3x3 each)."""
        z_a = rotations[self.a] @ self.axes_a[:, 2]
        if self.mirror is not None:
            z_a = self.mirror.image(rotations[self.mirror.member], z_a)
        return float(z_a @ (rotations[self.b] @ self.axes_b[:, 2]))

    @property
    def joint(self) -> JointForm:
        return JOINTS[self.kind].forms[self.form]

    def least(self, coordinate: str) -> float | None:
        return self.limits.get(coordinate, (None, None))[0]

    def most(self, coordinate: str) -> float | None:
        return self.limits.get(coordinate, (None, None))[1]


@dataclass(frozen=True)
class Term:
    """A coordinate of a pair with its factor in a coupling."""

    pair: str
    coordinate: str
    factor: float


@dataclass(frozen=True)
class Coupling:
    """Coordinates that move together: the sum of their changes, each by its factor, is nothing.

    Changes count from where the members stood: gears mesh as they were put together. Factors make
    all terms of a coupling angles, or all lengths where one of them is.
    """

    id: str
    terms: tuple[Term, ...]

    def moved(self, coordinate: tuple[str, str], step: float) -> list[tuple[Term, float]]:
        """How the others move when one does."""
        mine = next((t for t in self.terms if (t.pair, t.coordinate) == coordinate), None)
        if mine is None or len(self.terms) != 2:
            return []
        (other,) = (t for t in self.terms if t is not mine)
        return [(other, -mine.factor * step / other.factor)]


def _wound(value: float, span: Span) -> float:
    """An angle with the whole turns that bring it between two limits, or nearest to them; as it
    was where it lies between them already, or where there is no or one limit only."""
    least, most = span
    # What stands at a limit stays there, though rounding reads it a hair beyond.
    if least is None or most is None or least - 1e-9 <= value <= most + 1e-9:
        return value
    around = 2 * math.pi * math.floor((least - value) / (2 * math.pi))
    turned = (value + around, value + around + 2 * math.pi, value + around + 4 * math.pi)
    return min(turned, key=lambda v: max(least - v, v - most, 0.0))


@dataclass(frozen=True)
class Mechanism:
    """`reference` are the poses couplings count their changes from; those of the members where
    there are none. `ties` are members that stand to each other as they do, and move as one."""

    members: tuple[Member, ...]
    pairs: tuple[Pair, ...]
    couplings: tuple[Coupling, ...] = ()
    reference: tuple[Pose, ...] | None = None
    ties: tuple[tuple[int, ...], ...] = ()

    def index(self, id: str) -> int:
        return next(i for i, m in enumerate(self.members) if m.id == id)

    def pair(self, id: str) -> Pair | None:
        """The pair of a joint; None when it is asleep or its ends are lost."""
        return next((p for p in self.pairs if p.id == id), None)

    def with_value(self, pair: str, coordinate: str, value: float | None) -> Mechanism:
        """The same with a coordinate of one joint held at a value (or let free).

        What hangs on the joint is carried along as one piece, so that solving from there
        leaves the other joints where they are.
        """
        index = next(i for i, p in enumerate(self.pairs) if p.id == pair)
        kept = {k: v for k, v in self.pairs[index].values.items() if k != coordinate}
        held = replace(
            self.pairs[index], values=kept if value is None else {**kept, coordinate: value}
        )
        pairs = (*self.pairs[:index], held, *self.pairs[index + 1 :])
        before = [m.pose for m in self.members]
        poses, followed = before, True
        if value is not None:
            step = value - self.coordinates(held, before)[coordinate]
            if any(c.name == coordinate and isinstance(c, Turn) for c in held.joint.coordinates):
                step = self._short(held, coordinate, step)
            poses, followed = self._moved_along(held, coordinate, step)
        made = replace(self, pairs=pairs, reference=None).with_poses(poses)
        return made if followed else replace(made, reference=tuple(before))

    def turned_by(self, pair: str, coordinate: str, step: float) -> float:
        """The largest turn (rad) that any coordinate makes by couplings when one makes a step."""
        most, done, waiting = 0.0, set(), [((pair, coordinate), step)]
        while waiting:
            (id, name), by = waiting.pop()
            done.add((id, name))
            found = self.pair(id)
            if found is not None and isinstance(found.joint.coordinate(name), Turn):
                most = max(most, abs(by))
            for coupling in self.couplings:
                for term, moved in coupling.moved((id, name), by):
                    if (term.pair, term.coordinate) not in done:
                        waiting.append(((term.pair, term.coordinate), moved))
        return most

    def _short(self, pair: Pair, coordinate: str, step: float) -> float:
        """A turn the short way round, unless its limits bar that."""
        return math.remainder(step, 2 * math.pi) if coordinate not in pair.limits else step

    def _moved_along(self, pair: Pair, name: str, step: float) -> tuple[list[Pose], bool]:
        """Poses with a coordinate moved by a step, and those coupled to it by theirs; False when
        some of these stand in a closed loop, and have to be solved for."""
        poses = self._carried(pair, name, step, [m.pose for m in self.members])
        if poses is None:
            return [m.pose for m in self.members], not self.couplings
        done, waiting, whole = {(pair.id, name)}, [((pair.id, name), step)], True
        while waiting:
            at, by = waiting.pop()
            for coupling in self.couplings:
                for term, turn in coupling.moved(at, by):
                    key = (term.pair, term.coordinate)
                    other = self.pair(term.pair)
                    if key in done or other is None:
                        continue
                    done.add(key)
                    carried = self._carried(other, term.coordinate, turn, poses)
                    if carried is None:
                        whole = False
                        continue
                    poses = carried
                    waiting.append((key, turn))
        return poses, whole

    def _carried(self, pair: Pair, name: str, step: float, poses: list[Pose]) -> list[Pose] | None:
        """Poses with the side of a joint that is not held moved by a step of a coordinate; None
        where nothing hangs on this joint alone."""
        far = self._side(pair, pair.b)
        coordinate = pair.joint.coordinate(name)
        if coordinate is None or not coordinate.carries or pair.a in far:
            return None
        if any(self.members[i].anchored for i in far):
            far, step = self._side(pair, pair.a), -step
        if any(self.members[i].anchored for i in far):
            return None
        shift, turn = coordinate.motion(step, pair.pitch)
        # Turned about the point of b, so that what slides besides stays where it is.
        axes, through = poses[pair.a].rotation @ pair.axes_a, poses[pair.b].out(pair.origin_b)
        q = turned(np.array([1.0, 0.0, 0.0, 0.0]), axes[:, 2] * math.remainder(turn, 2 * math.pi))
        move = Pose(through - rotation_of(q) @ through + axes @ shift, q)
        return [move @ pose if i in far else pose for i, pose in enumerate(poses)]

    def _side(self, without: Pair, start: int) -> set[int]:
        """Members joined to `start` by other pairs than `without`, or tied to it."""
        found, front = {start}, [start]
        while front:
            here = front.pop()
            near = [i for p in self.pairs if p.id != without.id and here in p.members
                    for i in p.members if i != here]  # fmt: skip
            near += [i for tie in self.ties if here in tie for i in tie]
            front += set(near) - found
            found.update(near)
        return found

    def loosened(self, but: str) -> Mechanism:
        """The same with no joint but one held at a value; sizes of conditions stay."""
        pairs = tuple(p if p.firm or p.id == but else replace(p, values={}) for p in self.pairs)
        return replace(self, pairs=pairs)

    def with_poses(self, poses: Sequence[Pose]) -> Mechanism:
        members = tuple(replace(m, pose=pose) for m, pose in zip(self.members, poses, strict=True))
        return replace(self, members=members)

    def placements(self, poses: Sequence[Pose]) -> dict[str, Pose]:
        """Where members stand as documents keep it: what is inside a moving assembly in that."""
        at = {m.id: pose for m, pose in zip(self.members, poses, strict=True)}
        return {
            id: pose if top_of(id) == id else at[top_of(id)].inverse() @ pose
            for id, pose in at.items()
        }

    def placed(self, given: Mapping[str, Pose]) -> list[Pose]:
        """Poses of all members from placements of some as documents keep them."""
        found: dict[str, Pose] = {}
        for m in self.members:
            said, top = given.get(m.id), top_of(m.id)
            found[m.id] = m.pose if said is None else said if top == m.id else found[top] @ said
        return list(found.values())

    def coordinates(self, pair: Pair, poses: Sequence[Pose]) -> dict[str, float]:
        """The joint's coordinates at given poses, by name: rad or mm."""
        a, b = poses[pair.a], poses[pair.b]
        ra, rb = a.rotation @ pair.axes_a, b.rotation @ pair.axes_b
        between = b.out(pair.origin_b) - a.out(pair.origin_a) - pair.offset * ra[:, 2]
        return {
            c.name: _wound(value, pair.limits.get(c.name, (None, None)))
            if isinstance(c, Turn)
            else value
            for c in pair.joint.coordinates
            for value in (c.read(ra, rb, between, pair.way),)
        }

    def to_json(self) -> dict[str, Any]:
        return {
            "members": [
                {"id": m.id, "p": m.pose.p.tolist(), "q": m.pose.q.tolist(),
                 "anchored": m.anchored, "size": m.size, "title": m.title}
                for m in self.members
            ],
            "pairs": [
                _told(p)
                for p in self.pairs
            ],
            "couplings": [
                {"id": c.id, "terms": [[t.pair, t.coordinate, t.factor] for t in c.terms]}
                for c in self.couplings
            ],
            "ties": [list(t) for t in self.ties],
        }  # fmt: skip

    @staticmethod
    def from_json(data: dict[str, Any]) -> Mechanism:
        members = tuple(
            Member(
                m["id"],
                Pose(np.array(m["p"]), np.array(m["q"])),
                m["anchored"],
                m["size"],
                m["title"],
            )
            for m in data["members"]
        )
        pairs = tuple(_pair(p) for p in data["pairs"])
        couplings = tuple(
            Coupling(c["id"], tuple(Term(*t) for t in c["terms"])) for c in data["couplings"]
        )
        ties = tuple(tuple(t) for t in data["ties"])
        return Mechanism(members, pairs, couplings, ties=ties)


def _plain(fields: Mapping[str, Any]) -> dict[str, Any]:
    return {k: v.tolist() if isinstance(v, np.ndarray) else v for k, v in fields.items()}


def _told(pair: Pair) -> dict[str, Any]:
    return _plain(vars(pair)) | {
        "mirror": pair.mirror and _plain(vars(pair.mirror)),
        "way": pair.way and pair.way.to_json(),
    }


def _pair(data: Mapping[str, Any]) -> Pair:
    arrays = {k: np.array(data[k]) for k in ("origin_a", "axes_a", "origin_b", "axes_b")}
    limits = {k: (v[0], v[1]) for k, v in data["limits"].items()}
    m = data["mirror"]
    mirror = m and Mirror(m["member"], np.array(m["origin"]), np.array(m["normal"]))
    way = data["way"] and Way.from_json(data["way"])
    return Pair(**{**data, **arrays, "limits": limits, "mirror": mirror, "way": way})
