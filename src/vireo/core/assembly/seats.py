"""What an assembly is made of before it is solved: what moves, with the bodies that go along, what
is tied together, and all joints between them.

A component is one thing that moves, but for an assembly that goes by its own joints: that brings
its components in one by one, with their joints, tied to a frame that stands where it stands.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from vireo.core.assembly.mechanism import Member
from vireo.core.assembly.pose import Floats, Pose
from vireo.core.declared.joint import JOINTS
from vireo.core.documents.frames import JointEnd, Placement
from vireo.core.documents.kinds.assembly import Assembly, Component, Joint
from vireo.core.geometry import Frame, Run
from vireo.core.naming import Topology
from vireo.core.naming.grammar import leaf_name, within
from vireo.core.naming.repeats import Repeats
from vireo.core.quantity import Quantity, evaluate_parameters
from vireo.core.trouble import Report
from vireo.core.ways import Way

#: The form of a body that is only modelled against.
REFERENCE = "reference"


@dataclass(frozen=True)
class DrawnThread:
    """A thread that is only drawn on a body: about z of its frame, nominal radius and pitch in mm."""

    frame: Frame
    radius: float
    pitch: float


@dataclass(frozen=True)
class Solid:
    """A body of a built part: content key, volume mm3, mass g, centre mm, box corners mm, name."""

    id: str
    key: str
    volume: float
    mass: float
    centre: tuple[float, float, float]
    colour: str
    low: tuple[float, float, float]
    high: tuple[float, float, float]
    name: str = ""
    #: Colours of painted faces by index.
    paints: Mapping[int, str] = field(default_factory=dict)
    #: Whether the colour was chosen, and is not that of the material.
    own_colour: bool = False
    form: str = "solid"
    #: Threads on it that are only drawn, and whether it is hardware from a table.
    threads: tuple[DrawnThread, ...] = ()
    hardware: bool = False


@dataclass(frozen=True)
class Place:
    """A datum of a part that joints hold: what it is called, its form, the kind of a port, where, and
    whether what is joined to it may turn."""

    name: str
    form: str
    sort: str
    frame: Frame
    turns: bool = False


@dataclass(frozen=True)
class BuiltPart:
    """`places` are its datums by the steps that make them."""

    name: str
    solids: tuple[Solid, ...]
    topology: Callable[[str], Topology]
    troubles: tuple[str, ...] = ()
    places: Mapping[str, Place] = field(default_factory=dict)
    #: An edge of a body, by index, as a way to go along.
    run: Callable[[str, int], Run] | None = None
    #: Steps that copied others, in order, by id.
    repeats: Mapping[str, Repeats] = field(default_factory=dict)
    #: The same with all that goes on smoothly from it, as a curve that is computed with.
    way: Callable[[str, int], Way] | None = None


#: What a document id stands for: a built part or an assembly document.
Library = Mapping[str, BuiltPart | Assembly]


@dataclass(frozen=True)
class Carry:
    """A motion a copy goes by: all of `about` (a member, the whole assembly without one) being where
    it was when it was solved. A 4x4 matrix in outer coordinates; it may mirror."""

    about: str | None
    matrix: Floats


@dataclass(frozen=True)
class Leaf:
    """A solid where it stands. `path` leads from the assembly down: component ids, `names` are what
    these are called. It goes with a `member` of the mechanism, a copy by `carried` besides, the
    last motion last."""

    path: tuple[str, ...]
    names: tuple[str, ...]
    solid: Solid
    pose: Pose
    member: str = ""
    carried: tuple[Carry, ...] = ()
    #: The part it is of.
    document: str = ""

    @property
    def name(self) -> str:
        return " / ".join(self.names)

    @property
    def reference(self) -> bool:
        """Whether it is there to model against and no part of the thing."""
        return self.solid.form == REFERENCE

    @property
    def id(self) -> str:
        return leaf_name(self.path, self.solid.id)


@dataclass(frozen=True)
class Stood:
    """An assembly of the library as it stands by itself: its leaves, and its members by path."""

    leaves: list[Leaf]
    poses: Mapping[str, Pose]


@dataclass(frozen=True)
class Seat:
    """Something that moves: the components that lead to it, where it stands now, and its leaves in
    its own coordinates, their paths from it down."""

    path: tuple[str, ...]
    names: tuple[str, ...]
    pose: Pose
    anchored: bool
    leaves: list[Leaf]

    @property
    def id(self) -> str:
        return within(self.path)

    def member(self) -> Member:
        corners = [np.abs(leaf.pose.out(np.array(c))) for leaf in self.leaves
                   for c in (leaf.solid.low, leaf.solid.high)]  # fmt: skip
        size = float(np.max(corners)) if corners else 100.0
        return Member(self.id, self.pose, self.anchored, max(size, 1.0), " / ".join(self.names))


class Names(dict[str, Quantity]):
    """The numbers the formulas of an assembly know while it is put together; `later` are names of what
    is known only once it stands: what is weighed, and what comes of that."""

    later: frozenset[str] = frozenset()


def names_of(assembly: Assembly) -> Names:
    weighed = {w.name for w in assembly.weighed}
    parameters = evaluate_parameters(assembly.parameters, later=weighed)
    found = Names({n: e.value for n, e in parameters.items() if e.value is not None})
    late = set(weighed)
    while fresh := {n for n, e in parameters.items() if n not in late and late & set(e.uses)}:
        late |= fresh
    found.later = frozenset(late)
    return found


@dataclass(frozen=True)
class Entry:
    """A joint with what its assembly's formulas know, its ends led to from the top, and whether it
    is one of an assembly inside. Its name then says whose."""

    joint: Joint
    names: Mapping[str, Quantity]
    inner: bool


@dataclass
class Scene:
    seats: list[Seat] = field(default_factory=list)
    ties: list[tuple[int, ...]] = field(default_factory=list)
    entries: list[Entry] = field(default_factory=list)
    troubles: list[Report] = field(default_factory=list)
    #: Assemblies whose copies are made in the whole: the path to each, and its formulas' names.
    spread: list[tuple[tuple[str, ...], tuple[str, ...], Assembly, Mapping[str, Quantity]]] = field(
        default_factory=list
    )

    def index(self) -> dict[str, int]:
        return {s.id: i for i, s in enumerate(self.seats)}


#: How an assembly of the library stands by itself.
Alone = Callable[[str, Assembly], Stood]


def pose_of(placement: Placement) -> Pose:
    return Pose(np.array(placement.p), np.array(placement.q) / np.linalg.norm(placement.q))


def placement_of(pose: Pose) -> Placement:
    p, q = pose.p.tolist(), pose.q.tolist()
    return Placement(p=(p[0], p[1], p[2]), q=(q[0], q[1], q[2], q[3]))


def scene_of(assembly: Assembly, library: Library, alone: Alone) -> Scene:
    """Everything that moves in an assembly, and what holds it. Troubles are told, not raised."""
    scene = Scene()
    _Setting(library, alone, scene).assembly(assembly, (), (), None)
    return scene


@dataclass
class _Setting:
    library: Library
    alone: Alone
    scene: Scene

    def assembly(
        self,
        assembly: Assembly,
        path: tuple[str, ...],
        names: tuple[str, ...],
        inside: _Inside | None,
    ) -> list[int]:
        """Put the components of an assembly down; the seats of its own components, in order."""
        known = names_of(assembly)
        own: dict[str, int] = {}
        for component in assembly.components:
            own[component.id] = len(self.scene.seats)
            self._component(component, path, names, inside)
        for bunch in assembly.bunches:
            tie = tuple(own[c] for c in bunch.components if c in own)
            if len(tie) > 1:
                self.scene.ties.append(tie)
        for joint in assembly.joints:
            self.scene.entries.append(
                Entry(_led(joint, path, names, path != ()), known, path != ())
            )
        self.scene.spread.append((path, names, assembly, known))
        return list(own.values())

    def _component(
        self,
        component: Component,
        path: tuple[str, ...],
        names: tuple[str, ...],
        inside: _Inside | None,
    ) -> None:
        here, called = (*path, component.id), (*names, component.name)
        found = self.library.get(component.key)
        pose = pose_of(component.placement) if inside is None else inside.pose(here)
        anchored = component.anchored and inside is None
        if not component.moving or not isinstance(found, Assembly):
            leaves = self._leaves(component, here, called, found)
            self.scene.seats.append(Seat(here, called, pose, anchored, leaves))
            return
        frame = len(self.scene.seats)
        self.scene.seats.append(Seat(here, called, pose, anchored, []))
        if inside is None:
            stood = self.alone(component.key, found)
            inside = _Inside(here, pose, component.inside, stood.poses)
        inner = self.assembly(found, here, called, inside)
        held = [i for i, c in zip(inner, found.components, strict=True) if c.anchored]
        tie = held or inner[:1]
        if tie:
            self.scene.ties.append((frame, *tie))

    def _leaves(
        self,
        component: Component,
        path: tuple[str, ...],
        names: tuple[str, ...],
        found: BuiltPart | Assembly | None,
    ) -> list[Leaf]:
        """Leaves of a component in its own coordinates; of a reference they are that."""
        leaves = self._own_leaves(component, path, names, found)
        if not component.reference:
            return leaves
        return [replace(x, solid=replace(x.solid, form=REFERENCE, mass=0.0)) for x in leaves]

    def _own_leaves(
        self,
        component: Component,
        path: tuple[str, ...],
        names: tuple[str, ...],
        found: BuiltPart | Assembly | None,
    ) -> list[Leaf]:
        where = [f"component:{path[0]}"]
        title = " / ".join(names)
        if found is None:
            gone = "the variant it is" if component.choice is not None else "its document"
            text = f"{title}: {gone} is no longer in the project"
            self.scene.troubles.append(Report(code="missing", text=text, where=where))
            return []
        if isinstance(found, BuiltPart):
            self.scene.troubles += [
                Report(code="part", text=f"{title}: {text}", where=where) for text in found.troubles
            ]
            still = Pose.still()
            return [Leaf((), (), solid, still, document=component.key) for solid in found.solids]
        stood = self.alone(component.key, found)
        return [replace(leaf, member="", carried=()) for leaf in stood.leaves]


@dataclass(frozen=True)
class _Inside:
    """Where things inside a moving assembly stand: as its component says, else as they do by
    themselves."""

    root: tuple[str, ...]
    base: Pose
    said: Mapping[str, Placement]
    stood: Mapping[str, Pose]

    def pose(self, path: tuple[str, ...]) -> Pose:
        inner = within(path[len(self.root) :])
        said = self.said.get(inner)
        return self.base @ (pose_of(said) if said else self.stood.get(inner, Pose.still()))


def _led(joint: Joint, path: tuple[str, ...], names: tuple[str, ...], inner: bool) -> Joint:
    """A joint of an assembly inside as one of the whole: its ends led to from the top. What it is
    driven to in its own document is how things stand there; here it moves."""
    if not inner:
        return joint

    def led(end: JointEnd) -> JointEnd:
        return end.model_copy(
            update={"component": path[0], "path": (*path[1:], end.component, *end.path)}
        )

    kind = JOINTS.get(joint.kind)
    motions = joint.motions
    if kind is not None and kind.family != "Condition":
        motions = {n: m.model_copy(update={"value": None}) for n, m in motions.items()}
    return joint.model_copy(
        update={
            "id": within((*path, joint.id)),
            "name": " / ".join((*names, joint.name)),
            "motions": motions,
            **{side: led(end) for side, end in joint.ends.items()},
        }
    )


def seat_of(index: Mapping[str, int], path: Sequence[str]) -> tuple[int, tuple[str, ...]] | None:
    """The seat that leads to something, and the path that is left from there."""
    for cut in range(len(path), 0, -1):
        found = index.get(within(path[:cut]))
        if found is not None:
            return found, tuple(path[cut:])
    return None


def standing(seats: Sequence[Seat], poses: Sequence[Pose]) -> Iterator[Leaf]:
    """Every leaf where its seat stands, called from the top."""
    for seat, pose in zip(seats, poses, strict=True):
        for leaf in seat.leaves:
            yield Leaf(
                (*seat.path, *leaf.path), (*seat.names, *leaf.names), leaf.solid,
                pose @ leaf.pose, seat.id, document=leaf.document,
            )  # fmt: skip
