"""Joints of a document as pairs of a mechanism: what their ends hold, their values and limits."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from vireo.core.assembly.couplings import coupled
from vireo.core.assembly.ends import EndTrouble, alike, datum_frame, end_frame, middle, proposed
from vireo.core.assembly.mechanism import Coupling, Member, Mirror, Pair, Span
from vireo.core.assembly.pose import Floats, Pose
from vireo.core.assembly.seats import BuiltPart, Entry, Leaf, Library, Names, Seat, seat_of
from vireo.core.declared.joint import JOINTS, Coordinate, EndFrame, Fit, JointKind, fitted
from vireo.core.documents.frames import JointEnd
from vireo.core.documents.kinds.assembly import SIDES, Joint, Motion
from vireo.core.geometry import Run
from vireo.core.naming import Topology, make_pick, ranked, resolve
from vireo.core.naming.repeats import ORIGINAL, Repeats
from vireo.core.quantity import (
    DIMENSIONS,
    LENGTH,
    Dimension,
    FormulaError,
    Quantity,
    evaluate,
    format_quantity,
    names_in,
)
from vireo.core.trouble import Offer, Report
from vireo.core.ways import Way


@dataclass
class Joined:
    """Pairs, what ties them to each other, and what is wrong with joints by id."""

    pairs: list[Pair]
    couplings: list[Coupling]
    troubles: dict[str, Report]


def joined(entries: Sequence[Entry], holds: Holds, members: tuple[Member, ...]) -> Joined:
    """Every joint that is awake. Troubles are told, not raised."""
    found = Joined([], [], {})
    # What ties joints to each other is made once all joints are there.
    awake = [(e, JOINTS.get(e.joint.kind)) for e in entries if not e.joint.asleep]
    for entry, kind in sorted(awake, key=lambda x: x[1] is not None and x[1].couples):
        joint = entry.joint
        try:
            if kind is None:
                raise EndTrouble(f"there is no joint called {joint.kind} here")
            of_a, a = holds.end_pair(joint.a, joint.a2, "a")
            of_b, b = holds.end_pair(joint.b, joint.b2, "b")
            if of_a == of_b:
                raise EndTrouble("both its ends are on one thing that moves as a whole")
            fit = fitted(kind, a, b)
            ends = _Ends(
                of_a, of_b, a, b, _mirror(kind, joint, holds), _way(kind, joint, (a, b), fit, holds)
            )
            if kind.couples:
                factor = _factor(kind, joint, entry.names)
                found.couplings.append(coupled(joint, kind, ends, factor, members, found.pairs))
            else:
                found.pairs.append(_pair(joint, kind, ends, fit, members, entry.names))
        except EndTrouble as trouble:
            report = trouble.report()
            found.troubles[joint.id] = report.model_copy(
                update={"where": [f"joint:{joint.id}", *report.where]}
            )
    return found


@dataclass(frozen=True)
class _Ends:
    """The members a joint ties together and what it holds on each, in their coordinates."""

    of_a: int
    of_b: int
    a: EndFrame
    b: EndFrame
    mirror: Mirror | None = None
    way: Way | None = None


def _way(
    kind: JointKind, joint: Joint, ends: tuple[EndFrame, EndFrame], fit: Fit, holds: Holds
) -> Way | None:
    """What a kind runs along, in the axes of the end that it is. Raises EndTrouble."""
    if not kind.runs:
        return None
    k = 1 if fit.swapped else 0
    way = holds.way((joint.a, joint.b)[k])
    return way.seen_from(ends[k].origin, ends[k].axes)


def _mirror(kind: JointKind, joint: Joint, holds: Holds) -> Mirror | None:
    """The plane a kind mirrors in. Raises EndTrouble."""
    if not kind.mirrors:
        return None
    if joint.mirror is None:
        raise EndTrouble("the plane in the middle is not picked")
    of, frame = holds.end_pair(joint.mirror, joint.mirror2, "mirror")
    if frame.nature not in ("plane", "frame"):
        raise EndTrouble("the middle is a flat face, or that between two faces")
    return Mirror(of, frame.origin, frame.axes[:, 2])


@dataclass(frozen=True)
class Holds:
    """Finds what the ends of joints hold on the seats of an assembly."""

    library: Library
    seats: Sequence[Seat]
    index: Mapping[str, int]

    def end_pair(self, end: JointEnd, other: JointEnd | None, side: str) -> tuple[int, EndFrame]:
        """One end of a joint, or the middle between two faces: its seat, and the frame in that.

        Raises EndTrouble for what is lost or gives no frame.
        """
        seat, found = self.end(end, side)
        if other is None:
            return seat, found
        second, beside = self.end(other, f"{side}2")
        if second != seat:
            raise EndTrouble("the two faces it lies between move against each other")
        return seat, middle(found, beside)

    def end(self, end: JointEnd, side: str = "") -> tuple[int, EndFrame]:
        seat, leaf, topology = self._held(end, side)
        try:
            frame = end_frame(end.pick, topology) if end.pick else self._datum(end, leaf)
        except EndTrouble as trouble:
            better = proposed(end.pick, topology) if end.pick else None
            if better is not None:
                put = end.model_copy(update={"pick": better}).model_dump(mode="json")
                trouble.offers = [Offer(label=f"Use the nearest {better.kind}", fields={side: put})]
            raise
        return seat, _in_seat(frame, leaf)

    def run(self, end: JointEnd) -> tuple[int, Run, Floats]:
        """A picked edge as a way to go along: its seat, and where it lies in that (a 4x4 matrix). Raises
        EndTrouble."""
        seat, leaf, part, index = self._edge(end)
        if part.run is None:
            raise EndTrouble("the picked edge cannot be followed")
        return seat, part.run(leaf.solid.id, index), leaf.pose.matrix()

    def way(self, end: JointEnd) -> Way:
        """A picked edge with all that goes on smoothly from it, in the coordinates of its seat. Raises
        EndTrouble."""
        _, leaf, part, index = self._edge(end)
        if part.way is None:
            raise EndTrouble("the picked edge cannot be followed")
        return part.way(leaf.solid.id, index).moved(leaf.pose.rotation, leaf.pose.p)

    def _edge(self, end: JointEnd) -> tuple[int, Leaf, BuiltPart, int]:
        seat, leaf, topology = self._held(end, "")
        part = _part(self.library, leaf)
        if end.pick is None or end.pick.kind != "edge" or part is None:
            raise EndTrouble("pick an edge to go along")
        found = resolve(end.pick, topology)
        if found.index is None:
            raise EndTrouble("the picked edge is no longer on the part")
        return seat, leaf, part, found.index

    def repeats(self, end: JointEnd) -> tuple[int, Floats, dict[int, Floats]]:
        """The copies a step of the part made of what is picked: the seat, where the part lies in that
        (4x4), and the motion from the picked one to each other (4x4, in the part), by number: the
        picked one has 1. Raises EndTrouble."""
        seat, leaf, topology = self._held(end, "")
        part, pick = _part(self.library, leaf), end.pick
        if pick is None or part is None:
            raise EndTrouble("pick a face, edge or corner that the part has copies of")
        found = resolve(pick, topology)
        if found.index is None:
            raise EndTrouble(f"the picked {pick.kind} is no longer on the part")
        names = topology.names[pick.kind][found.index]
        found_in = [
            (made, mine) for step, made in part.repeats.items()
            if made.moves and (mine := made.copy_of(step, leaf.solid.id, names)) is not None
        ]  # fmt: skip
        # A copy of copies belongs to the step that copied it last, what no step made by copying to
        # the first that copied it.
        copied = [x for x in found_in if x[1] != ORIGINAL] or found_in
        if copied:
            return seat, leaf.pose.matrix(), _from_one(*copied[0])
        raise EndTrouble(
            f"no copies step of {part.name} copied what is picked: pick a face of what is copied there"
        )

    def alike(self, end: JointEnd) -> tuple[EndFrame, ...]:
        """All other ends alike to one on its part, in the coordinates of its seat."""
        _, leaf, topology = self._held(end, "")
        found = alike(end.pick, topology) if end.pick else []
        return tuple(_in_seat(frame, leaf) for frame in found)

    def _held(self, end: JointEnd, side: str) -> tuple[int, Leaf, Topology]:
        of = f"end {side}" if side in SIDES else "it"
        found = seat_of(self.index, (end.component, *end.path))
        if found is None:
            raise EndTrouble(f"{of} holds a component that is no longer there")
        number, rest = found
        body = end.pick.body if end.pick else None
        there = [x for x in self.seats[number].leaves if x.path == rest]
        leaf = next((x for x in there if body in (None, x.solid.id)), None)
        if leaf is None:
            trouble = EndTrouble(f"{of} holds a body that is no longer there")
            trouble.offers = _elsewhere(end, side, there, self.library)
            raise trouble
        return number, leaf, _topology(self.library, leaf)

    def _datum(self, end: JointEnd, leaf: Leaf) -> EndFrame:
        part = _part(self.library, leaf)
        place = part.places.get(end.datum) if part else None
        if place is None:
            raise EndTrouble("it holds a port or reference that is no longer on the part")
        return datum_frame(place.form, place.frame)


def _from_one(made: Repeats, mine: str) -> dict[int, Floats]:
    """Motions from one copy to the others, numbered as these are; the original bears the number of
    that one."""
    moves = {int(k): np.array(m) for k, m in made.moves.items() if k.isdigit()}
    if mine == ORIGINAL:
        return moves
    back = np.linalg.inv(np.array(made.moves[mine]))
    number = int(mine)
    return {number: back} | {k: m @ back for k, m in moves.items() if k != number}


def _elsewhere(end: JointEnd, side: str, leaves: Sequence[Leaf], library: Library) -> list[Offer]:
    """What is most like a pick whose body is gone, on the bodies there are."""
    if end.pick is None or not side:
        return []
    found = []
    for leaf in leaves:
        topology = _topology(library, leaf)
        for index, score in ranked(end.pick, topology, 2):
            better = make_pick(topology, leaf.solid.id, end.pick.kind, index)
            found.append((score, end.model_copy(update={"pick": better}).model_dump(mode="json")))
    best = sorted(found, key=lambda x: -x[0])[:2]
    return [
        Offer(label=f"Use a {end.pick.kind}, {score:.0%} alike", fields={side: put})
        for score, put in best
    ]


def _in_seat(frame: EndFrame, leaf: Leaf) -> EndFrame:
    r = leaf.pose.rotation
    return replace(frame, origin=leaf.pose.out(frame.origin), axes=r @ frame.axes)


def _part(library: Library, leaf: Leaf) -> BuiltPart | None:
    found = library.get(leaf.document)
    return found if isinstance(found, BuiltPart) else None


def _topology(library: Library, leaf: Leaf) -> Topology:
    part = _part(library, leaf)
    if part is None:
        raise EndTrouble("the part of this joint end is not built")
    return part.topology(leaf.solid.id)


def number(
    formula: str | None, dimension: Dimension, unit: str, names: Mapping[str, Quantity], what: str
) -> float | None:
    """What a formula gives, a plain number taken in a unit; None for none. Raises EndTrouble."""
    if formula is None or not formula.strip():
        return None
    late = names.later & names_in(formula) if isinstance(names, Names) else ()
    if late:
        raise EndTrouble(
            f"{what}: {', '.join(sorted(late))} is weighed once everything stands, and cannot say how "
            "it is to stand"
        )
    try:
        found = evaluate(formula, names)
    except FormulaError as error:
        raise EndTrouble(f"{what}: {error.text}") from error
    if found.dimension.plain and not dimension.plain:
        found = evaluate(f"({formula})*(1 {unit})", names)
    if found.dimension != dimension:
        raise EndTrouble(f"{what} is {dimension.name}, but “{formula}” is {found.dimension.name}")
    return found.value


def _factor(kind: JointKind, joint: Joint, names: Mapping[str, Quantity]) -> float:
    """The number a kind asks for: mm or plain. Raises EndTrouble for none at all."""
    if kind.factor is None:
        return 0.0
    dimension = DIMENSIONS[kind.factor.dimension]
    text = joint.factor or kind.factor.default
    value = number(text, dimension, "mm", names, kind.factor.label.lower()) or 0.0
    if abs(value) < 1e-6:
        raise EndTrouble(f"{kind.factor.label.lower()} must not be nothing")
    return value


#: Turns z round about x: the way from one side to the other.
_OPPOSED = np.diag([1.0, -1.0, -1.0])


def _pair(
    joint: Joint,
    kind: JointKind,
    ends: _Ends,
    fit: Fit,
    members: tuple[Member, ...],
    names: Mapping[str, Quantity],
) -> Pair:
    form = kind.forms[fit.form]
    (i, a), (j, b) = (ends.of_a, ends.a), (ends.of_b, ends.b)
    if fit.swapped:
        (i, a), (j, b) = (j, b), (i, a)
    axes_a, axes_b = a.axes, b.axes
    flipped = bool(joint.flip)
    if ends.mirror is not None:
        # Without its word the sense is that in which they stand.
        standing = Pair(joint.id, joint.kind, i, j, a.origin, axes_a, b.origin, axes_b, form=fit.form,
                        mirror=ends.mirror).sense([m.pose.rotation for m in members])  # fmt: skip
        flipped = form.aligned and (standing < -1e-9 if joint.flip is None else joint.flip)
        axes_b = axes_b @ _OPPOSED if flipped else axes_b
    elif kind.family == "Condition":
        axes_a, axes_b, flipped = _as_they_stand(
            (members[i].pose, a), (members[j].pose, b), form.aligned, fit.sided, joint.flip
        )
    elif (a.outward and b.outward) != flipped:
        # Two outward ends meet face to face; axes without a side point the same way.
        axes_b = axes_b @ _OPPOSED
    shift = number(joint.offset, LENGTH, "mm", names, "offset") or 0.0
    if shift and not form.shifts:
        raise EndTrouble(f"{kind.label.lower()} has no offset: nothing of it can be shifted")
    values, limits = {}, dict(fit.limits)
    if ends.way is not None and not ends.way.closed:
        limits |= {c.name: (0.0, ends.way.length) for c in form.coordinates}
    for coordinate in form.coordinates:
        value, span = _coordinate(coordinate, joint, names, len(form.coordinates) > 1)
        for size in (value, *span):
            if kind.sizes and size is not None and not kind.sizes[0] < size < kind.sizes[1]:
                shown = format_quantity(Quantity(size, coordinate.dimension))
                raise EndTrouble(f"{kind.label.lower()} cannot be {shown}: {kind.instead}")
        if value is not None:
            values[coordinate.name] = value
        bound = limits.get(coordinate.name, (None, None))
        if value is not None and not _inside(value, bound):
            ends_of = " to ".join(_words(v, coordinate) for v in bound if v is not None)
            raise EndTrouble(f"{_words(value, coordinate)} is more than its ends allow: {ends_of}")
        if span != (None, None):
            limits[coordinate.name] = _both(bound, span)
    return Pair(
        id=joint.id, kind=joint.kind, a=i, b=j,
        origin_a=a.origin, axes_a=axes_a, origin_b=b.origin, axes_b=axes_b,
        offset=fit.offset + shift,
        values=values, limits=limits, form=fit.form, pitch=_factor(kind, joint, names),
        firm=kind.family == "Condition", flipped=flipped, mirror=ends.mirror,
        way=ends.way,
    )  # fmt: skip


def _words(value: float, coordinate: Coordinate) -> str:
    return format_quantity(Quantity(value, coordinate.dimension))


def _inside(value: float, span: Span) -> bool:
    least, most = span
    return (least is None or value >= least - 1e-9) and (most is None or value <= most + 1e-9)


def _both(bound: Span, span: Span) -> Span:
    """What the ends of a joint allow and what is asked for, both."""
    least = max((v for v in (bound[0], span[0]) if v is not None), default=None)
    most = min((v for v in (bound[1], span[1]) if v is not None), default=None)
    return least, most


def _as_they_stand(
    a: tuple[Pose, EndFrame],
    b: tuple[Pose, EndFrame],
    aligned: bool,
    sided: bool,
    flip: bool | None,
) -> tuple[Floats, Floats, bool]:
    """Axes of both ends of a condition, and whether they are flipped.

    Where `flip` is not said nothing turns round to meet it: parallel axes keep their sense, b stays
    on its side of a. Said, it counts from the ends and not from how they stand: it asks for the
    same again and again.
    """  # fmt: skip
    (pose_a, end_a), (pose_b, end_b) = a, b
    axes_a, axes_b = end_a.axes, end_b.axes
    flipped = bool(flip)
    if sided:
        across = pose_b.out(end_b.origin) - pose_a.out(end_a.origin)
        stands = float(across @ (pose_a.rotation @ axes_a[:, 2])) < -1e-9
        flipped = stands if flip is None else flip
    elif aligned and flip is None:
        along = (pose_a.rotation @ axes_a[:, 2]) @ (pose_b.rotation @ axes_b[:, 2])
        flipped = float(along) < 0.0
    if flipped and (sided or not aligned):
        axes_a = axes_a @ _OPPOSED
    if aligned and sided:
        along = (pose_a.rotation @ axes_a[:, 2]) @ (pose_b.rotation @ axes_b[:, 2])
        if float(along) < 0.0:
            axes_b = axes_b @ _OPPOSED
    elif aligned and flipped:
        axes_b = axes_b @ _OPPOSED
    return axes_a, axes_b, flipped


def _coordinate(
    coordinate: Coordinate, joint: Joint, names: Mapping[str, Quantity], several: bool
) -> tuple[float | None, Span]:
    """Where a coordinate is held, and its limits. Raises EndTrouble for what contradicts itself."""
    said = joint.motions.get(coordinate.name, Motion())
    of = f"{coordinate.label.lower()}: " if several else ""

    def size(formula: str | None, what: str) -> float | None:
        return number(formula, coordinate.dimension, coordinate.unit, names, of + what)

    def shown(value: float) -> str:
        return format_quantity(Quantity(value, coordinate.dimension))

    value, least, most = (
        size(said.value, "value"), size(said.least, "least"), size(said.most, "most"),
    )  # fmt: skip
    if least is not None and most is not None and least > most:
        raise EndTrouble(f"{of}its least value lies above its largest")
    if value is not None and (
        (least is not None and value < least - 1e-9) or (most is not None and value > most + 1e-9)
    ):
        ends = " to ".join(shown(v) for v in (least, most) if v is not None)
        raise EndTrouble(f"{of}{shown(value)} lies outside its limits {ends}")
    return value, (least, most)
