"""Copies of components, made where all else stands: each goes with its original by a motion."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from vireo.core.assembly.joining import Holds, number
from vireo.core.assembly.pose import Floats, Pose
from vireo.core.assembly.seats import Carry, Leaf, Scene, seat_of
from vireo.core.declared.copying import COPY_KINDS, Asked, CopyKind, Move, Track
from vireo.core.declared.joint import EndFrame, EndTrouble
from vireo.core.documents.frames import JointEnd
from vireo.core.documents.kinds.assembly import Assembly, Copies
from vireo.core.geometry import Frame
from vireo.core.naming.grammar import copy_of, within
from vireo.core.quantity import NUMBER, Quantity
from vireo.core.trouble import Report

#: More copies than this at once are a slip of the pen, and more bodies in all nobody looks at.
MOST = 5000
MOST_BODIES = 20_000


@dataclass
class Spread:
    """All leaves, copies among them. `numbers` of the copies there are, by the path to what makes
    them; `troubles` and `notes` by the same."""

    leaves: list[Leaf] = field(default_factory=list)
    numbers: dict[str, list[int]] = field(default_factory=dict)
    troubles: dict[str, Report] = field(default_factory=dict)
    notes: dict[str, str] = field(default_factory=dict)


def spread(scene: Scene, holds: Holds, poses: Sequence[Pose], leaves: Sequence[Leaf]) -> Spread:
    """The leaves of the seats with all copies. Troubles are told, not raised."""
    found = Spread(list(leaves))
    # From the inside out: what is copied has its own copies already.
    for path, _, assembly, names in scene.spread:
        made: dict[str, list[str]] = {}
        for copies in assembly.copies:
            if copies.asleep:
                continue
            where = within((*path, copies.id))
            try:
                work = _Work(scene, holds, poses, path, assembly, names, copies)
                made[copies.id] = work.make(found, where, made)
            except EndTrouble as trouble:
                report = trouble.report()
                found.troubles[where] = report.model_copy(
                    update={"where": [f"copies:{where}", *report.where]}
                )
    return found


@dataclass
class _Work:
    scene: Scene
    holds: Holds
    poses: Sequence[Pose]
    path: tuple[str, ...]
    assembly: Assembly
    names: Mapping[str, Quantity]
    copies: Copies

    def make(self, into: Spread, where: str, made: Mapping[str, list[str]]) -> list[str]:
        """Puts the copies in; the components there are now because of them."""
        kind = COPY_KINDS.get(self.copies.kind)
        if kind is None:
            raise EndTrouble(f"there is no way to copy called {self.copies.kind} here")
        originals = [o for c in self.copies.components for o in made.get(c, [c])]
        depth = len(self.path)
        whose: dict[str, list[Leaf]] = {o: [] for o in originals}
        for leaf in into.leaves:
            if leaf.path[:depth] == self.path and leaf.path[depth] in whose:
                whose[leaf.path[depth]].append(leaf)
        about, of, track = self._track() if kind.along else (*self._of(kind), None)
        alike = self._alike(kind, about)
        repeats = self._repeats(kind)
        count, spacing = self._count(kind), self._spacing(kind)
        fresh: dict[int, list[str]] = {}
        asks = {
            original: Asked(of, alike, count, spacing, *_middle(leaves), track, repeats)
            for original, leaves in whose.items()
            if leaves
        }
        moves = {original: kind.moves(asked) for original, asked in asks.items()}
        self._bounded(moves, whose, len(into.leaves))
        for original, asked in asks.items():
            leaves = whose[original]
            for k, move in moves[original].items():
                fresh.setdefault(k, [])
                if k in self.copies.left_out:
                    continue
                id = copy_of(original, self.copies.id, k)
                fresh[k].append(id)
                carry = Carry(None if about is None else self.scene.seats[about].id, move.matrix)
                into.leaves += [_copied(leaf, depth, id, k, carry, move) for leaf in leaves]
            note = kind.note(asked, leaves[0].names[depth], _centre(leaves, asked.middle))
            if note:
                into.notes[where] = note
        into.numbers[where] = sorted(k for k in fresh if k not in self.copies.left_out)
        return [id for k in sorted(fresh) for id in fresh[k]]

    def _bounded(
        self,
        moves: Mapping[str, Mapping[int, Move]],
        whose: Mapping[str, Sequence[Leaf]],
        there: int,
    ) -> None:
        out = set(self.copies.left_out)
        fresh = {original: len(found.keys() - out) for original, found in moves.items()}
        if sum(fresh.values()) > MOST:
            raise EndTrouble(f"more than {MOST} copies at once are too many")
        bodies = there + sum(n * len(whose[original]) for original, n in fresh.items())
        if bodies > MOST_BODIES:
            raise EndTrouble(
                f"with these copies there would be {bodies} bodies here, of {MOST_BODIES} at most: "
                "make fewer copies"
            )

    def _of(self, kind: CopyKind) -> tuple[int | None, EndFrame]:
        """What the copies go by, in outer coordinates, and the seat it is on."""
        led = self._led()
        if led is None:
            if not kind.axis:
                raise EndTrouble(f"{kind.label.lower()}: pick {_small(kind.hint)}")
            base = self._base()
            axes = base.rotation @ _AXES[self.copies.axis]
            return None, self._turned(EndFrame(base.p, axes, False, kind.takes[0]))
        # Inside an assembly nothing can be mended from out here.
        seat, frame = self.holds.end(led, "" if self.path else "of")
        if frame.nature not in kind.takes and frame.nature != "frame":
            raise EndTrouble(
                f"{kind.label.lower()}: what is picked does not fit; pick {_small(kind.hint)}"
            )
        pose = self.poses[seat]
        return seat, self._turned(
            replace(frame, origin=pose.out(frame.origin), axes=pose.rotation @ frame.axes)
        )

    def _track(self) -> tuple[int, EndFrame, Track]:
        """The picked edge as a way in outer coordinates, and the seat it is on."""
        led = self._led()
        if led is None:
            raise EndTrouble("pick an edge to go along")
        seat, run, lies = self.holds.run(led)
        outer = self.poses[seat].matrix() @ lies
        back, length = self.copies.reverse, run.length

        def at(lengths: Sequence[float]) -> list[Floats]:
            frames = run.frames([length - s if back else s for s in lengths])
            return [outer @ _matrix(f) for f in frames]

        (start,) = at([0.0])
        of = EndFrame(start[:3, 3], start[:3, :3], False, "axis")
        return seat, of, Track(length, run.closed, at)

    def _led(self) -> JointEnd | None:
        """What is picked, led to from the top."""
        of = self.copies.of
        if of is None or not self.path:
            return of
        path = (*self.path[1:], of.component, *of.path)
        return of.model_copy(update={"component": self.path[0], "path": path})

    def _turned(self, frame: EndFrame) -> EndFrame:
        """Against the sense of what was picked, where that is asked."""
        return replace(frame, axes=frame.axes @ _OPPOSED) if self.copies.reverse else frame

    def _base(self) -> Pose:
        """Where the assembly itself stands: that of a moving one is a seat."""
        found = seat_of(self.scene.index(), self.path) if self.path else None
        return self.poses[found[0]] if found else Pose.still()

    def _alike(self, kind: CopyKind, about: int | None) -> tuple[EndFrame, ...]:
        led = self._led()
        if not kind.alike or led is None or about is None:
            return ()
        pose = self.poses[about]
        return tuple(
            self._turned(replace(f, origin=pose.out(f.origin), axes=pose.rotation @ f.axes))
            for f in self.holds.alike(led)
        )

    def _repeats(self, kind: CopyKind) -> dict[int, Floats]:
        led = self._led()
        if not kind.repeats or led is None:
            return {}
        seat, inner, moves = self.holds.repeats(led)
        lies = self.poses[seat].matrix() @ inner
        back = np.linalg.inv(lies)
        return {k: lies @ m @ back for k, m in moves.items()}

    def _count(self, kind: CopyKind) -> int:
        if not kind.counted:
            return 0
        value = number(self.copies.count, NUMBER, "", self.names, "number") or 0.0
        if abs(value - round(value)) > 1e-9 or not 1 <= value <= MOST:
            raise EndTrouble(f"the number is {value:g}: it is whole, from 1 to {MOST}")
        return round(value)

    def _spacing(self, kind: CopyKind) -> float:
        asked = kind.spacing
        if asked is None:
            return 0.0
        text = self.copies.spacing or asked.default
        value = number(text, asked.dimension, asked.unit, self.names, asked.label.lower()) or 0.0
        if abs(value) < 1e-9 and not kind.spreads:
            raise EndTrouble(f"without {_small(asked.label)} the copies would lie on one another")
        return value


_OPPOSED = np.diag([1.0, -1.0, -1.0])
#: Axes whose z is X, Y or Z.
_AXES: dict[str, Floats] = {
    "X": np.array([[0.0, 0.0, 1.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]]),
    "Y": np.array([[0.0, 1.0, 0.0], [0.0, 0.0, 1.0], [1.0, 0.0, 0.0]]),
    "Z": np.eye(3),
}


def _matrix(frame: Frame) -> Floats:
    found = np.eye(4)
    found[:3, :3], found[:3, 3] = frame.matrix, frame.origin
    return found


def _small(text: str) -> str:
    return text[:1].lower() + text[1:]


def _centre(leaves: Sequence[Leaf], middle: Floats) -> Floats:
    """The centre of volume of some leaves; the middle of their box where they have none."""
    total = sum(leaf.solid.volume for leaf in leaves)
    if total <= 0:
        return middle
    centres = np.array([leaf.pose.out(np.array(leaf.solid.centre)) for leaf in leaves])
    weights = np.array([leaf.solid.volume for leaf in leaves]) / total
    return np.asarray(weights @ centres)


def _copied(leaf: Leaf, depth: int, id: str, number: int, carry: Carry, move: Move) -> Leaf:
    matrix = leaf.pose.matrix() if move.back is None else move.back @ leaf.pose.matrix()
    matrix = move.matrix @ matrix
    return replace(
        leaf,
        path=(*leaf.path[:depth], id, *leaf.path[depth + 1 :]),
        names=(*leaf.names[:depth], f"{leaf.names[depth]} · {number}", *leaf.names[depth + 1 :]),
        pose=Pose.of(matrix),
        carried=(*leaf.carried, carry),
    )


def _middle(leaves: Sequence[Leaf]) -> tuple[Floats, Floats]:
    """The middle of the box of a component along its own axes, and these."""
    axes = leaves[0].pose.rotation
    corners = np.array(
        [
            leaf.pose.out(np.array([x, y, z]))
            for leaf in leaves
            for x in (leaf.solid.low[0], leaf.solid.high[0])
            for y in (leaf.solid.low[1], leaf.solid.high[1])
            for z in (leaf.solid.low[2], leaf.solid.high[2])
        ]
    ) @ axes  # fmt: skip
    return np.asarray(axes @ (0.5 * (corners.min(axis=0) + corners.max(axis=0)))), axes
