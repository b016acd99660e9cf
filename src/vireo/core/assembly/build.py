"""An assembly document put together: joint frames from picks, the solution, all its leaves."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from vireo.core.assembly.couplings import coupled
from vireo.core.assembly.ends import EndTrouble, end_frame, middle, proposed
from vireo.core.assembly.mechanism import Coupling, Mechanism, Member, Pair, Span
from vireo.core.assembly.pose import Floats, Pose
from vireo.core.assembly.solver import (
    Solution,
    beyond,
    driven_home,
    droppable,
    solve,
    within_limits,
)
from vireo.core.declared.joint import JOINTS, Coordinate, EndFrame, JointKind
from vireo.core.documents.frames import JointEnd
from vireo.core.documents.kinds.assembly import Assembly, Component, Joint, Motion
from vireo.core.naming import Topology
from vireo.core.naming.grammar import leaf_name
from vireo.core.quantity import (
    ANGLE,
    DIMENSIONS,
    LENGTH,
    Dimension,
    Evaluated,
    FormulaError,
    Quantity,
    evaluate,
    evaluate_parameters,
    format_quantity,
)
from vireo.core.trouble import Offer, Report


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


@dataclass(frozen=True)
class BuiltPart:
    name: str
    solids: tuple[Solid, ...]
    topology: Callable[[str], Topology]
    troubles: tuple[str, ...] = ()


@dataclass(frozen=True)
class Leaf:
    """A solid where it stands. `path` leads from the assembly down: component ids, `names` are what
    these are called."""

    path: tuple[str, ...]
    names: tuple[str, ...]
    solid: Solid
    pose: Pose

    @property
    def name(self) -> str:
        return " / ".join(self.names)

    @property
    def id(self) -> str:
        return leaf_name(self.path, self.solid.id)


@dataclass
class Built:
    mechanism: Mechanism
    solution: Solution
    leaves: list[Leaf]
    parameters: dict[str, Evaluated]
    troubles: list[Report] = field(default_factory=list)
    joint_troubles: dict[str, Report] = field(default_factory=dict)

    def leaves_of(self, component: str) -> list[Leaf]:
        return [leaf for leaf in self.leaves if leaf.path[0] == component]


#: What a document id stands for: a built part or an assembly document.
Library = Mapping[str, BuiltPart | Assembly]


def build_assembly(
    assembly: Assembly, library: Library, known: dict[str, list[Leaf]] | None = None
) -> Built:
    """Derive the joints' frames, solve, and place every leaf. Troubles are told, not raised.

    `known` are leaves of assemblies built already, by document: equal ones are solved once.
    """
    known = {} if known is None else known
    parameters = evaluate_parameters(assembly.parameters)
    names = {n: e.value for n, e in parameters.items() if e.value is not None}
    inside: dict[str, list[Leaf]] = {}
    troubles: list[Report] = []
    for component in assembly.components:
        inside[component.id] = _inside(component, library, troubles, known)
    members = tuple(_member(c, inside[c.id]) for c in assembly.components)
    index = {c.id: i for i, c in enumerate(assembly.components)}
    pairs: list[Pair] = []
    couplings: list[Coupling] = []
    joint_troubles: dict[str, Report] = {}
    # What ties joints to each other is made once all joints are there.
    awake = [(j, JOINTS.get(j.kind)) for j in assembly.joints if not j.asleep]
    for joint, kind in sorted(awake, key=lambda x: x[1] is not None and x[1].couples):
        try:
            if kind is None:
                raise EndTrouble(f"there is no joint called {joint.kind} here")
            a = _end_pair(joint.a, joint.a2, inside, library, "a")
            b = _end_pair(joint.b, joint.b2, inside, library, "b")
            ends = _Ends(index[joint.a.component], index[joint.b.component], a, b)
            if kind.couples:
                factor = _factor(kind, joint, names)
                couplings.append(coupled(joint, kind, ends, factor, members, pairs))
            else:
                pairs.append(_pair(joint, kind, ends, members, names))
        except EndTrouble as trouble:
            report = trouble.report()
            joint_troubles[joint.id] = report.model_copy(
                update={"where": [f"joint:{joint.id}", *report.where]}
            )
    mechanism = driven_home(Mechanism(members, tuple(pairs), tuple(couplings)))
    conditions = {p.id for p in pairs if p.firm}
    solution = within_limits(mechanism, solve(mechanism), conditions)
    _judge(assembly, mechanism, solution, joint_troubles)
    leaves = [
        Leaf((c.id, *leaf.path), (c.name, *leaf.names), leaf.solid, pose @ leaf.pose)
        for c, pose in zip(assembly.components, solution.poses, strict=True)
        for leaf in inside[c.id]
    ]
    return Built(mechanism, solution, leaves, parameters, troubles, joint_troubles)


def _inside(
    component: Component, library: Library, troubles: list[Report], known: dict[str, list[Leaf]]
) -> list[Leaf]:
    """Leaves of a component in its own coordinates."""
    found = library.get(component.document)
    if found is None:
        troubles.append(
            Report(
                code="missing",
                text=f"{component.name}: its document is no longer in the project",
                where=[f"component:{component.id}"],
            )
        )
        return []
    if isinstance(found, BuiltPart):
        for text in found.troubles:
            troubles.append(
                Report(code="part", text=f"{component.name}: {text}",
                       where=[f"component:{component.id}"])
            )  # fmt: skip
        return [Leaf((), (), solid, Pose.still()) for solid in found.solids]
    if component.document not in known:
        known[component.document] = build_assembly(found, library, known).leaves
    return known[component.document]


def _member(component: Component, leaves: list[Leaf]) -> Member:
    corners = [np.abs(leaf.pose.out(np.array(c))) for leaf in leaves
               for c in (leaf.solid.low, leaf.solid.high)]  # fmt: skip
    size = float(np.max(corners)) if corners else 100.0
    placed = component.placement
    pose = Pose(np.array(placed.p), np.array(placed.q) / np.linalg.norm(placed.q))
    return Member(component.id, pose, component.anchored, max(size, 1.0), component.name)


@dataclass(frozen=True)
class _Ends:
    """The members a joint ties together and what it holds on each, in their coordinates."""

    of_a: int
    of_b: int
    a: EndFrame
    b: EndFrame


def _end_pair(
    end: JointEnd, other: JointEnd | None, inside: Mapping[str, list[Leaf]], library: Library,
    side: str,
) -> EndFrame:  # fmt: skip
    """One end of a joint, or the middle between two faces."""
    found = _end(end, inside, library, side)
    return middle(found, _end(other, inside, library, f"{side}2")) if other else found


def _end(end: JointEnd, inside: Mapping[str, list[Leaf]], library: Library, side: str) -> EndFrame:
    """A joint end in its component's coordinates."""
    leaf = next(
        (x for x in inside[end.component] if x.path == end.path and x.solid.id == end.pick.body),
        None,
    )
    if leaf is None:
        raise EndTrouble(f"end {side} holds a body that is no longer there")
    topology = _topology(library, leaf)
    try:
        frame = end_frame(end.pick, topology)
    except EndTrouble as trouble:
        better = proposed(end.pick, topology)
        if better is not None:
            put = end.model_copy(update={"pick": better}).model_dump(mode="json")
            trouble.offers = [Offer(label=f"Use the nearest {better.kind}", fields={side: put})]
        raise
    r = leaf.pose.rotation
    return replace(frame, origin=leaf.pose.out(frame.origin), axes=r @ frame.axes)


def _topology(library: Library, leaf: Leaf) -> Topology:
    for entry in library.values():
        if isinstance(entry, BuiltPart) and any(s.key == leaf.solid.key for s in entry.solids):
            return entry.topology(leaf.solid.id)
    raise EndTrouble("the part of this joint end is not built")


def _number(
    formula: str | None, dimension: Dimension, unit: str, names: Mapping[str, Quantity], what: str
) -> float | None:
    if formula is None or not formula.strip():
        return None
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
    value = _number(text, dimension, "mm", names, kind.factor.label.lower()) or 0.0
    if abs(value) < 1e-6:
        raise EndTrouble(f"{kind.factor.label.lower()} must not be nothing")
    return value


#: Turns z round about x: the way from one side to the other.
_OPPOSED = np.diag([1.0, -1.0, -1.0])


def _pair(
    joint: Joint,
    kind: JointKind,
    ends: _Ends,
    members: tuple[Member, ...],
    names: Mapping[str, Quantity],
) -> Pair:
    fit = kind.fit(ends.a, ends.b)
    form = kind.forms[fit.form]
    (i, a), (j, b) = (ends.of_a, ends.a), (ends.of_b, ends.b)
    if fit.swapped:
        (i, a), (j, b) = (j, b), (i, a)
    axes_a, axes_b = a.axes, b.axes
    flipped = bool(joint.flip)
    if kind.family == "Condition":
        axes_a, axes_b, flipped = _as_they_stand(
            (members[i].pose, a), (members[j].pose, b), form.aligned, fit.sided, joint.flip
        )
    elif (a.outward and b.outward) != flipped:
        # Two outward ends meet face to face; axes without a side point the same way.
        axes_b = axes_b @ _OPPOSED
    values, limits = {}, dict(fit.limits)
    for coordinate in form.coordinates:
        value, span = _coordinate(coordinate, joint, names, len(form.coordinates) > 1)
        for size in (value, *span):
            if kind.sizes and size is not None and not kind.sizes[0] < size < kind.sizes[1]:
                shown = format_quantity(Quantity(size, coordinate.dimension))
                raise EndTrouble(f"{kind.label.lower()} cannot be {shown}: {kind.instead}")
        if value is not None:
            values[coordinate.name] = value
        if span != (None, None):
            limits[coordinate.name] = span
    return Pair(
        id=joint.id, kind=joint.kind, a=i, b=j,
        origin_a=a.origin, axes_a=axes_a, origin_b=b.origin, axes_b=axes_b,
        offset=fit.offset + (_number(joint.offset, LENGTH, "mm", names, "offset") or 0.0),
        values=values, limits=limits, form=fit.form, pitch=_factor(kind, joint, names),
        firm=kind.family == "Condition", flipped=flipped,
    )  # fmt: skip


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

    def number(formula: str | None, what: str) -> float | None:
        return _number(formula, coordinate.dimension, coordinate.unit, names, of + what)

    def shown(value: float) -> str:
        return format_quantity(Quantity(value, coordinate.dimension))

    value, least, most = (
        number(said.value, "value"), number(said.least, "least"), number(said.most, "most"),
    )  # fmt: skip
    if least is not None and most is not None and least > most:
        raise EndTrouble(f"{of}its least value lies above its largest")
    if value is not None and (
        (least is not None and value < least - 1e-9) or (most is not None and value > most + 1e-9)
    ):
        ends = " to ".join(shown(v) for v in (least, most) if v is not None)
        raise EndTrouble(f"{of}{shown(value)} lies outside its limits {ends}")
    return value, (least, most)


def _tell_conflict(
    mechanism: Mechanism, solution: Solution, titles: Mapping[str, str], troubles: dict[str, Report]
) -> None:
    """Who cannot hold together with whom, by how much, and which to do without."""
    names = [titles[i] for i in solution.broken if i in titles]
    spare = droppable(mechanism, solution.broken)
    offers = [
        Offer(label=f"Put {titles[i]} to sleep",
              commands=[{"do": "edit_joint", "id": i, "fields": {"asleep": True}}])
        for i in spare if i in titles
    ]  # fmt: skip
    for i in solution.broken:
        others = ", ".join(n for n in names if n != titles[i]) or "how the components stand"
        text = f"{titles[i]} cannot hold together with {others}"
        if i in solution.gaps:
            size, length = solution.gaps[i]
            gap = Quantity(size, LENGTH if length else ANGLE)
            text += f": {format_quantity(gap, None, 2)} off at the best"
        if spare and i not in spare:
            text += f"; it would hold without {' or without '.join(titles[k] for k in spare)}"
        troubles.setdefault(
            i,
            Report(code="over_constrained", text=text, offers=offers,
                   where=[f"joint:{k}" for k in solution.broken]),
        )  # fmt: skip


def _judge(
    assembly: Assembly, mechanism: Mechanism, solution: Solution, troubles: dict[str, Report]
) -> None:
    """Joints that contradict each other, and joints beyond their limits."""
    titles = {j.id: j.name for j in assembly.joints}
    if not solution.holds:
        _tell_conflict(mechanism, solution, titles, troubles)
    for (id, name), limit in beyond(mechanism, solution.coordinates).items():
        pair = mechanism.pair(id)
        coordinate = pair.joint.coordinate(name) if pair else None
        if coordinate is None:
            continue
        dimension = coordinate.dimension
        here = format_quantity(Quantity(solution.coordinates[id][name], dimension), None, 2)
        end = format_quantity(Quantity(limit, dimension), None, 2)
        troubles.setdefault(
            id,
            Report(code="limit", text=f"{titles[id]} stands at {here}, beyond its limit {end}",
                   where=[f"joint:{id}"]),
        )  # fmt: skip


def mass_of(leaves: list[Leaf]) -> tuple[float, Floats | None]:
    """Mass in g and centre of gravity in mm of leaves together."""
    total = sum(leaf.solid.mass for leaf in leaves)
    if total <= 0:
        return 0.0, None
    moment: Any = sum(
        leaf.solid.mass * leaf.pose.out(np.array(leaf.solid.centre)) for leaf in leaves
    )
    return total, np.asarray(moment / total)
