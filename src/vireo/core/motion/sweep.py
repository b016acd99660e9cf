"""A joint driven through its range: every clash with where it begins and ends, what stops the motion,
and how near things come.

Between two stands no pair can meet while it is further apart at both than its members move to each
other; where that cannot be said the stretch is halved. So thin parts are not stepped over. Triangles
only tell what is surely clear: that two leaves overlap is decided by their true faces.

What touches at the start (a pin in its bore) is watched too: the faces that lie together there are
left out of account towards each other, all others are not, and at every stand it is asked whether
the pair is deeper in each other than by design.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from vireo.core.assembly.pose import Pose
from vireo.core.motion.course import Course, Limit, followed, stood
from vireo.core.motion.scene import Duo, Runner, Scene, Spread
from vireo.core.trouble import Trouble

__all__ = ["Limit", "Met", "MotionTrouble", "Runner", "Shared", "Sweep", "sweep"]

#: A stand is refined until nothing moves further than this (mm).
FINE = 0.002
#: Stretches over which a near pair moves less than this (mm) are taken when both ends and the middle
#: are clear of true overlap: a pair in lasting nearness would be halved for ever.
SHORT = 0.25
#: What moves along an arc goes further than its chord.
ARC = 1.05
#: Leaves nearer than this (mm) at the start touch: as close as their triangles tell.
TOUCH = 0.01
#: Leaves nearer than this (mm) at the start are near by design: a pin in its bore with some play.
PLAY = 0.3
#: Faces of such that lie nearer to the other than that and this (mm) are taken to lie together.
TOGETHER = 0.1
#: A fit by design (pressed, or drawn at one size) is no deeper than this (mm).
FIT = 0.05
#: Overlaps that grow by less than this (mm) are as they were.
_GROWN = 1e-5


class MotionTrouble(Trouble):
    code = "motion"


@dataclass(frozen=True)
class Shared:
    """What two leaves truly share: volume (mm3) and how deep they are in each other (mm); asked quickly,
    how thick on the average."""

    volume: float
    depth: float


#: What two leaves share at given poses of all that moves, closely or quickly; None when they only touch.
Truth = Callable[[str, str, Mapping[int, Pose], bool], Shared | None]
#: How deep two leaves may be in each other by design (mm), as those that share a joint, or whose overlap
#: is meant; None for others, which may only touch.
Fits = Callable[[str, str], float | None]


@dataclass
class Met:
    """A pair that overlaps over a stretch of the motion: `start` is its first contact, `end` where it
    is clear again (None when it is not), `depth` (mm) the most met at a stand, at `deepest`. Where only
    the first is looked for there is no end, and depth is what was asked quickly at its start."""

    pair: tuple[str, str]
    start: float
    poses: list[Pose]
    end: float | None = None
    depth: float = 0.0
    volume: float = 0.0
    deepest: float = 0.0


@dataclass
class Sweep:
    """Coordinates in rad or mm. `values`, `clearance` (mm, least gap of what moves to each other and
    neither touches at the start nor shares a joint; inf of none), `nearest` (whose) and `poses` run
    together. The motion ended at `stuck_at` where the mechanism would not go on, or at a `limit`."""

    values: list[float] = field(default_factory=list)
    clearance: list[float] = field(default_factory=list)
    nearest: list[tuple[str, str] | None] = field(default_factory=list)
    poses: list[list[Pose]] = field(default_factory=list)
    clashes: list[Met] = field(default_factory=list)
    stuck_at: float | None = None
    limit: Limit | None = None

    @property
    def first(self) -> Met | None:
        return self.clashes[0] if self.clashes else None

    @property
    def clash_at(self) -> float | None:
        return self.first.start if self.first else None

    @property
    def pair(self) -> tuple[str, str] | None:
        return self.first.pair if self.first else None


@dataclass(frozen=True)
class Stand:
    """The driven coordinate, the poses of the members, and of all that moves; what was found of pairs
    there."""

    value: float
    poses: list[Pose]
    all: Sequence[Pose]
    known: dict[Duo, Shared | None] = field(default_factory=dict, compare=False)
    gaps: dict[Duo, float] = field(default_factory=dict, compare=False)


@dataclass
class _Contact:
    """A pair that touches or nearly touches at the start: what it is apart or shares by design, and which
    faces lie together."""

    gap: float
    volume: float
    depth: float
    faces: tuple[set[int], set[int]]
    #: All that lay together slid in itself so far.
    slid: bool = True


def sweep(
    course: Course,
    runners: Sequence[Runner],
    start: float,
    end: float,
    steps: int,
    *,
    truth: Truth = lambda a, b, poses, closely: Shared(1.0, 1.0),
    fits: Fits = lambda a, b: None,
    spread: Spread = lambda poses: poses,
    progress: Callable[[float, str], None] = lambda share, stage: None,
    on: bool = False,
) -> Sweep:
    """Follow a course from `start` to `end` (rad, mm or s): to the first clash, or `on` to the end with
    all of them.

    `truth` decides what two leaves really share. Pairs that touch at the start without overlapping
    stay under watch, as do those whose overlap there is no deeper than `fits` allows. `spread`
    adds to the poses of the members those of what goes by several; runners and `truth` count among
    these. Raises MotionTrouble when the mechanism cannot stand at the start.
    """
    return Sweeping(course, runners, truth, fits, spread).run(start, end, steps, progress, on)


class Sweeping:
    def __init__(
        self, course: Course, runners: Sequence[Runner], truth: Truth, fits: Fits, spread: Spread
    ) -> None:
        self.course = course
        self.runners, self.scene = runners, Scene(runners, spread)
        self.truth, self.fits, self.spread = truth, fits, spread
        self.contacts: dict[Duo, _Contact] = {}
        self.moving: list[Duo] = []
        #: Pairs that overlap at present.
        self.meeting: dict[Duo, Met] = {}
        self.found = Sweep()
        #: Whether all that clashes is looked for, or only what does first.
        self.onward = True

    # Standing

    def stand(self, value: float, poses: list[Pose]) -> Stand:
        return Stand(value, poses, self.spread(poses))

    def between(self, a: Stand, b: Stand) -> Stand | None:
        """The mechanism half-way between two stands; None where it cannot stand."""
        found = stood(self.course, 0.5 * (a.value + b.value), (a.value, a.poses))
        return None if found is None else self.stand(*found)

    # What two leaves share

    def shared(self, pair: Duo, stand: Stand, closely: bool = True) -> Shared | None:
        one, two = (self.runners[k].id for k in pair)
        return self.truth(one, two, dict(enumerate(stand.all)), closely)

    def overlaps(self, pair: Duo, stand: Stand) -> Shared | None:
        """What a pair shares beyond what it does by design."""
        if pair not in stand.known:
            stand.known[pair] = self._overlaps(pair, stand)
        return stand.known[pair]

    def _overlaps(self, pair: Duo, stand: Stand) -> Shared | None:
        contact = self.contacts.get(pair)
        # Triangles that are clear need no more, but of what may be wholly inside: gaps are those of skins.
        clear = self.scene.surely(pair, stand.all) > 0.0
        if clear and not self.scene.enclosed(pair, stand.all):
            return None
        both = self.shared(pair, stand, closely=False)
        if both is None or contact is None or not contact.volume:
            return both
        if both.volume <= contact.volume * 1.005 + 1e-6:
            return None
        both = self.shared(pair, stand)
        return both if both and both.depth > contact.depth * 1.02 + _GROWN else None

    # The run

    def begin(self, here: Stand) -> None:
        """What touches, nearly touches or overlaps at the start."""
        scene = self.scene
        reach = PLAY + max(map(scene.unsure, scene.pairs), default=0.0)
        for pair in scene.near(self.moving, here.all, reach):
            bare, unsure = scene.gap(pair, here.all), scene.unsure(pair)
            # What is wholly inside another is far from its skin.
            deep = bare > unsure and scene.enclosed(pair, here.all)
            if bare > PLAY + unsure and not deep:
                continue
            both = self.shared(pair, here) if bare <= unsure + TOUCH or deep else None
            allowed = self.allowed(pair)
            if both is not None and (allowed is None or both.depth > allowed):
                self.note(pair, here, both)
                continue
            if bare > PLAY + unsure:
                continue
            faces = scene.beside(pair, here.all, bare + TOGETHER)
            volume, depth = (both.volume, both.depth) if both else (0.0, 0.0)
            self.contacts[pair] = _Contact(bare, volume, depth, faces)

    def note(self, pair: Duo, stand: Stand, both: Shared) -> None:
        """A pair begins to overlap."""
        if self.onward:
            both = self.shared(pair, stand) or both
        ids = (self.runners[pair[0]].id, self.runners[pair[1]].id)
        met = Met(ids, stand.value, stand.poses, None, both.depth, both.volume, stand.value)
        self.meeting[pair] = met
        self.found.clashes.append(met)

    def run(
        self, start: float, end: float, steps: int,
        progress: Callable[[float, str], None], on: bool,
    ) -> Sweep:  # fmt: skip
        stands = self.stands(start, end, steps)
        found, scene = self.found, self.scene
        self.onward = on
        #: What stands still to each other is no matter of the motion.
        some = [*stands[:: max(1, len(stands) // 8)], stands[-1]]
        self.moving = scene.moving(scene.pairs, *(s.all for s in some))
        self.begin(stands[0])
        found.values, found.poses = [stands[0].value], [stands[0].poses]
        for k, (here, there) in enumerate(pairwise(stands), start=1):
            if found.clashes and not on:
                break
            near = self.near_pairs(here, there)
            self.follow(here, there)
            new = self.search(here, there, near, 0)
            for pair in sorted(new, key=lambda p: abs(new[p][0].value - start)):
                if found.clashes and not on:
                    break
                self.through(pair, *new[pair], there)
            progress(k / len(stands), f"stand {k} of {len(stands) - 1}")
            stopped = found.clashes and not on
            found.values.append(found.clashes[0].start if stopped else there.value)
            found.poses.append(found.clashes[0].poses if stopped else there.poses)
        found.clashes.sort(key=lambda m: abs(m.start - start))
        if found.clashes and not on:
            # It did not come to what would have stopped it later.
            found.limit = found.stuck_at = None
        self.measure()
        return found

    def stands(self, start: float, end: float, steps: int) -> list[Stand]:
        """The mechanism all along its way, or as far as it goes. Raises MotionTrouble when it cannot
        stand at the start."""
        way = followed(self.course, start, end, steps)
        if way is None:
            raise MotionTrouble("the mechanism cannot stand where the motion begins")
        self.found.limit, self.found.stuck_at = way.limit, way.stuck_at
        return [self.stand(*s) for s in way.stands]

    def follow(self, here: Stand, there: Stand) -> None:
        """Pairs that overlap already: how deep they are now, and where they are clear again."""
        for pair in list(self.meeting):
            self.carry_on(pair, here, there)

    def through(self, pair: Duo, stand: Stand, both: Shared, there: Stand) -> None:
        """A pair that begins to overlap on the way to a stand: whether it still does there."""
        self.note(pair, stand, both)
        if self.onward:
            self.carry_on(pair, stand, there)

    def carry_on(self, pair: Duo, here: Stand, there: Stand) -> None:
        met = self.meeting[pair]
        if self.overlaps(pair, there) is not None:
            both = self.shared(pair, there)
            if both is not None and both.depth > met.depth:
                met.depth, met.volume, met.deepest = both.depth, both.volume, there.value
            return
        low, high = here, there
        while self.scene.travel(pair, low.all, high.all) > FINE:
            middle = self.between(low, high)
            if middle is None:
                break
            now = self.overlaps(pair, middle)
            if now is None:
                high = middle
                continue
            low = middle
            both = self.shared(pair, middle) if now.volume > met.volume else None
            if both is not None and both.depth > met.depth:
                met.depth, met.volume, met.deepest = both.depth, both.volume, middle.value
        met.end = high.value
        del self.meeting[pair]
        # It may come again before the stand is reached.
        again = self.search(high, there, [pair], 0)
        if pair in again:
            self.through(pair, *again[pair], there)

    def near_pairs(self, a: Stand, b: Stand) -> list[Duo]:
        """Pairs that move to each other and that boxes do not tell apart."""
        moving = [p for p in self.moving if p not in self.meeting]
        return self.in_reach(moving, a, b)

    def in_reach(self, pairs: Sequence[Duo], a: Stand, b: Stand) -> list[Duo]:
        """Pairs whose boxes do not tell them apart between two stands."""
        if not pairs:
            return []
        scene = self.scene
        unsure = np.array([scene.unsure(p) for p in pairs])
        room = np.add(*(np.maximum(scene.bounds(pairs, s.all) - unsure, 0.0) for s in (a, b)))
        risky = room <= scene.travels(pairs, a.all, b.all) * ARC
        return [p for p, r in zip(pairs, risky, strict=True) if r]

    def search(
        self, a: Stand, b: Stand, pairs: Sequence[Duo], depth: int
    ) -> dict[Duo, tuple[Stand, Shared]]:
        """Of pairs that are clear at `a` those that come to overlap on the way to `b`, with the first
        stand at which they do."""
        pairs = self.in_reach(pairs, a, b)
        travel = dict(zip(pairs, self.scene.travels(pairs, a.all, b.all), strict=True))
        risky = [
            p for p in pairs
            if self.room(p, a, b) <= travel[p] * ARC
            and not self.barred(p, a, b)
            and not (p not in self.contacts
                     and self.scene.kept_off(p, a.all, b.all, travel[p] * ARC))
        ]  # fmt: skip
        # What lies together by design changes where it does not slide in itself.
        sunk = [
            p for p in pairs if p not in risky and p in self.contacts
            and not self.slides(p, a, b) and not self.barred(p, a, b)
        ]  # fmt: skip
        every = [*risky, *sunk]
        furthest = max((travel[p] for p in every), default=0.0)
        middle = self.between(a, b) if every else None
        if middle is None or furthest <= FINE or depth > 60:
            found = self.hits(every, b)
            if (
                middle is None
                or depth > 60
                or not found
                or abs(b.value - a.value) <= self.course.close
            ):
                return found
        if (furthest < SHORT or not risky) and not (
            self.hits(every, middle) or self.hits(every, b)
        ):
            return {}
        left = self.search(a, middle, every, depth + 1)
        if left and not self.onward:
            return left
        return left | self.search(middle, b, [p for p in every if p not in left], depth + 1)

    def barred(self, pair: Duo, a: Stand, b: Stand) -> bool:
        """Whether a plane keeps two leaves apart between two stands."""
        contact = self.contacts.get(pair)
        if contact is None:
            return self.scene.parted(pair, a.all, b.all)
        if contact.gap > TOUCH and self.scene.parted(pair, a.all, b.all):
            return True
        return contact.depth == 0.0 and self.scene.lies_on(pair, contact.faces, a.all, b.all)

    def room(self, pair: Duo, a: Stand, b: Stand) -> float:
        """How far a pair has to move between two stands to meet (mm): what it is apart at both."""
        return sum(self.apart(pair, s) for s in (a, b))

    def apart(self, pair: Duo, stand: Stand) -> float:
        """What a pair is surely apart at a stand, but for what lies together by design."""
        if pair not in stand.gaps:
            contact = self.contacts.get(pair)
            if contact is None:
                stand.gaps[pair] = self.scene.surely(pair, stand.all)
            else:
                bare = self.scene.gap_but(pair, stand.all, contact.faces)
                stand.gaps[pair] = max(bare - self.scene.unsure(pair), 0.0)
        return stand.gaps[pair]

    def slides(self, pair: Duo, a: Stand, b: Stand) -> bool:
        contact = self.contacts[pair]
        slid = self.scene.slides_in_itself(pair, contact.faces, a.all, b.all)
        contact.slid = contact.slid and slid
        return slid

    def hits(self, pairs: Sequence[Duo], stand: Stand) -> dict[Duo, tuple[Stand, Shared]]:
        return {
            pair: (stand, both)
            for pair in pairs
            if (both := self.overlaps(pair, stand)) is not None
        }

    def measure(self) -> None:
        """How near things come at each stand. What slides in its joint is near by design, and so is what
        touched at the start: the curve tells of what else comes near."""
        found, scene = self.found, self.scene
        movers = [p for p in self.moving if not self.by_design(p)]
        for value, poses in zip(found.values, found.poses, strict=True):
            least, who = scene.least(movers, self.spread(poses))
            if any(m.start == value for m in found.clashes):
                least = 0.0
            found.clearance.append(least)
            found.nearest.append(
                (self.runners[who[0]].id, self.runners[who[1]].id) if who else None
            )

    def by_design(self, pair: Duo) -> bool:
        contact = self.contacts.get(pair)
        near = contact is not None and (contact.gap <= TOUCH or contact.slid)
        return near or self.allowed(pair) is not None

    def allowed(self, pair: Duo) -> float | None:
        return self.fits(*(self.runners[k].id for k in pair))
