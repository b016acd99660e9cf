"""Commands on assemblies: components, joints, where things stand."""

from __future__ import annotations

import re
from typing import Any, ClassVar, Literal

from pydantic import Field

from vireo.core.declared.joint import JOINTS, JointKind
from vireo.core.documents.base import Document
from vireo.core.documents.commands.base import (
    Command,
    RemoveItem,
    command,
    edited,
    place,
    update,
    without,
)
from vireo.core.documents.frames import JointEnd, Number, Placement
from vireo.core.documents.kinds.assembly import (
    FORMER_JOINTS,
    Assembly,
    Component,
    Joint,
    Motion,
    Position,
)
from vireo.core.trouble import BadInput, NotAllowed


class _AssemblyCommand(Command):
    on: ClassVar[tuple[str, ...]] = ("assembly",)


@command
class AddComponent(_AssemblyCommand):
    """Bring a part or assembly in; the first one is anchored."""

    do: Literal["add_component"] = "add_component"
    document: str
    name: str
    anchored: bool | None = None
    placement: Placement = Placement()

    def apply(self, document: Assembly) -> Document:
        number = document.last_id + 1
        name = _free_name(self.name, {c.name for c in document.components})
        anchored = self.anchored if self.anchored is not None else not document.components
        new = Component(
            id=f"c{number}", name=name, document=self.document, anchored=anchored,
            placement=self.placement,
        )  # fmt: skip
        return update(document, components=(*document.components, new), last_id=number)

    def label(self) -> str:
        return f"bring in {self.name}"


@command
class EditComponent(_AssemblyCommand):
    do: Literal["edit_component"] = "edit_component"
    id: str
    name: str | None = None
    anchored: bool | None = None
    tag: str | None = None
    placement: Placement | None = None

    def apply(self, document: Assembly) -> Document:
        return edited(document, "components", self.id, "component", self.given("id"))


@command
class RemoveComponent(_AssemblyCommand):
    """Takes its joints with it only when asked to."""

    do: Literal["remove_component"] = "remove_component"
    id: str
    with_joints: bool = False

    def apply(self, document: Assembly) -> Document:
        index = place(document.components, self.id, "component")
        users = [j for j in document.joints if self.id in (j.a.component, j.b.component)]
        if users and not self.with_joints:
            names = ", ".join(j.name for j in users)
            raise NotAllowed(
                f"{document.components[index].name} is held by {names}",
                [f"joint:{j.id}" for j in users],
            )
        joints = tuple(j for j in document.joints if j not in users)
        return update(document, components=without(document.components, index), joints=joints)


def _free_name(wanted: str, taken: set[str]) -> str:
    """A name nobody bears yet: its number counted on."""
    stem, number = wanted, 1
    if found := re.fullmatch(r"(.*\S) (\d{1,6})", wanted):
        stem, number = found[1], int(found[2])
    name = wanted
    while name in taken:
        number += 1
        name = f"{stem} {number}"
    return name


@command
class CopyComponents(_AssemblyCommand):
    """Copies of components with the joints among them, each further along by `by` (mm). Joints to
    others stay theirs alone."""

    do: Literal["copy_components"] = "copy_components"
    ids: list[str] = Field(min_length=1, max_length=2000)
    by: tuple[Number, Number, Number] = (0.0, 0.0, 0.0)
    count: int = Field(default=1, ge=1, le=500)

    def apply(self, document: Assembly) -> Document:
        chosen = [document.components[place(document.components, i, "component")]
                  for i in dict.fromkeys(self.ids)]  # fmt: skip
        inner = [
            j for j in document.joints
            if {j.a.component, j.b.component} <= {c.id for c in chosen}
        ]  # fmt: skip
        components, joints = list(document.components), list(document.joints)
        taken = {c.name for c in components}
        number = document.last_id
        for k in range(1, self.count + 1):
            fresh: dict[str, str] = {}
            for c in chosen:
                number += 1
                fresh[c.id] = f"c{number}"
                name = _free_name(c.name, taken)
                taken.add(name)
                p = tuple(a + k * b for a, b in zip(c.placement.p, self.by, strict=True))
                components.append(
                    update(c, id=fresh[c.id], name=name, anchored=False, tag="",
                           placement=Placement(p=p, q=c.placement.q))
                )  # fmt: skip
            for j in inner:
                number += 1
                ends = {
                    side: end.model_copy(update={"component": fresh[end.component]})
                    for side in ("a", "b", "a2", "b2")
                    if (end := getattr(j, side)) is not None
                }
                joints.append(update(j, id=f"j{number}", **ends))
        return update(document, components=tuple(components), joints=tuple(joints), last_id=number)

    def label(self) -> str:
        return "copy components"


@command
class PlaceComponents(_AssemblyCommand):
    """Where components stand after they were dragged or driven."""

    do: Literal["place_components"] = "place_components"
    placements: dict[str, Placement]

    def apply(self, document: Assembly) -> Document:
        for id in self.placements:
            place(document.components, id, "component")
        components = tuple(
            update(c, placement=self.placements[c.id]) if c.id in self.placements else c
            for c in document.components
        )
        return update(document, components=components)

    def label(self) -> str:
        return "move"


def _kind(word: str) -> JointKind:
    """A kind of joint by its word, also by one from before. Raises BadInput."""
    return JOINTS.called(FORMER_JOINTS.get(word, word))


def _motions(kind: JointKind, given: dict[str, Any], known: dict[str, Motion]) -> dict[str, Motion]:
    """What is known of the coordinates of a joint after `given`: all of them under ``motions``, or
    value, least and most of its only (or first) one. Raises BadInput for a coordinate it has not.
    """
    motions = dict(known)
    if "motions" in given:
        motions = {n: Motion.model_validate(m) for n, m in (given["motions"] or {}).items()}
    short = {k: given[k] for k in ("value", "least", "most") if k in given}
    if short and kind.coordinates:
        first = kind.coordinates[0].name
        motions[first] = update(motions.get(first, Motion()), **short)
    elif any(v is not None for v in short.values()):
        raise BadInput(f"a {kind.kind} joint has nothing that moves", ["field:value"])
    there = [c.name for c in kind.coordinates]
    for name in motions:
        if name not in there:
            has = f"it has {', '.join(there)}" if there else "nothing moves in it"
            raise BadInput(
                f"a {kind.kind} joint has no coordinate {name}; {has}", ["field:motions"]
            )
    return {name: motion for name, motion in motions.items() if motion != Motion()}


def _factor(kind: JointKind, given: str | None) -> str | None:
    """The number a kind asks for: its usual one where none is given, none where it asks for none."""
    return (given or kind.factor.default) if kind.factor else None


def _ends(
    document: Assembly, a: JointEnd, b: JointEnd, a2: JointEnd | None, b2: JointEnd | None
) -> None:
    """That the ends of a joint lie on two components. Raises NotAllowed."""
    for end in (a, b):
        place(document.components, end.component, "component")
    if a.component == b.component:
        raise NotAllowed("a joint holds two different components; both ends are on the same one")
    for one, other in ((a, a2), (b, b2)):
        if other is not None and other.component != one.component:
            raise NotAllowed("the two faces something lies between belong to one component")


@command
class AddJoint(_AssemblyCommand):
    """Joins two components. `motions` say of its coordinates, by name, where they are driven to and
    their limits; `value`, `least` and `most` are short for those of its first one."""

    do: Literal["add_joint"] = "add_joint"
    kind: str
    name: str | None = None
    a: JointEnd
    b: JointEnd
    a2: JointEnd | None = None
    b2: JointEnd | None = None
    flip: bool | None = None
    offset: str = "0 mm"
    factor: str | None = None
    motions: dict[str, Motion] | None = None
    least: str | None = None
    most: str | None = None
    value: str | None = None

    def apply(self, document: Assembly) -> Document:
        kind = _kind(self.kind)
        _ends(document, self.a, self.b, self.a2, self.b2)
        number = document.last_id + 1
        same = sum(1 for j in document.joints if j.kind == kind.kind)
        name = self.name or (kind.label + (f" {same + 1}" if same else ""))
        said = self.given()
        new = Joint(
            id=f"j{number}", kind=kind.kind, name=name, a=self.a, b=self.b, a2=self.a2, b2=self.b2,
            flip=self.flip, offset=self.offset, factor=_factor(kind, self.factor),
            motions=_motions(kind, said, {}),
        )  # fmt: skip
        return update(document, joints=(*document.joints, new), last_id=number)

    def label(self) -> str:
        return f"join {self.kind}"


@command
class EditJoint(_AssemblyCommand):
    """Only the fields given change; `value` null lets the joint move freely."""

    do: Literal["edit_joint"] = "edit_joint"
    id: str
    fields: dict[str, Any] = Field(default_factory=dict)

    def apply(self, document: Assembly) -> Document:
        short = {"least", "most", "value"}
        unknown = set(self.fields) - set(Joint.model_fields) - short | set(self.fields) & {"id"}
        if unknown:
            raise NotAllowed(f"a joint has no {', '.join(sorted(unknown))}")
        joint = document.joints[place(document.joints, self.id, "joint")]
        kind = _kind(str(self.fields.get("kind", joint.kind)))
        kept = {n: m for n, m in joint.motions.items() if kind.coordinate(n)}
        motions = _motions(kind, self.fields, kept)
        fields = {k: v for k, v in self.fields.items() if k not in short}
        factor = _factor(kind, self.fields.get("factor", joint.factor))
        changes = {**fields, "kind": kind.kind, "motions": motions, "factor": factor}
        after = edited(document, "joints", self.id, "joint", changes)
        now = after.joints[place(after.joints, self.id, "joint")]
        _ends(after, now.a, now.b, now.a2, now.b2)
        return after


@command
class RemoveJoint(RemoveItem):
    on: ClassVar[tuple[str, ...]] = ("assembly",)
    group, what = "joints", "joint"
    do: Literal["remove_joint"] = "remove_joint"


@command
class KeepPosition(_AssemblyCommand):
    """Keep how things stand under a name; the same name again keeps it anew. Without `placements`
    components stand as they are kept, without `values` joints are held as they are. What is named
    and not there is passed over when the position is taken."""

    do: Literal["keep_position"] = "keep_position"
    name: str
    placements: dict[str, Placement] | None = None
    values: dict[str, dict[str, str]] | None = None

    def apply(self, document: Assembly) -> Document:
        placements = self.placements
        if placements is None:
            placements = {c.id: c.placement for c in document.components}
        values = self.values
        if values is None:
            held = {
                j.id: {n: m.value for n, m in j.motions.items() if m.value is not None}
                for j in document.joints
            }
            values = {id: found for id, found in held.items() if found}
        name = self.name.strip()
        known = next((p for p in document.positions if p.name == name), None)
        number = document.last_id + (known is None)
        made = Position(
            id=known.id if known else f"p{number}", name=name, placements=placements, values=values
        )
        if known:
            kept = tuple(made if p is known else p for p in document.positions)
            return update(document, positions=kept)
        return update(document, positions=(*document.positions, made), last_id=number)

    def label(self) -> str:
        return f"keep position {self.name}"


@command
class TakePosition(_AssemblyCommand):
    """Have components stand as they were kept by name. What came since stays where it is; joints
    that were not held then move freely."""

    do: Literal["take_position"] = "take_position"
    id: str

    def apply(self, document: Assembly) -> Document:
        found = document.positions[place(document.positions, self.id, "position")]
        components = tuple(
            update(c, placement=found.placements.get(c.id, c.placement))
            for c in document.components
        )
        joints = []
        for joint in document.joints:
            kind = JOINTS.get(joint.kind)
            if kind is None or kind.family == "Condition":
                joints.append(joint)
                continue
            then = found.values.get(joint.id, {})
            names = {*joint.motions, *(n for n in then if kind.coordinate(n))}
            motions = {
                n: update(joint.motions.get(n, Motion()), value=then.get(n)) for n in sorted(names)
            }
            kept = {n: m for n, m in motions.items() if m != Motion()}
            joints.append(joint if kept == joint.motions else update(joint, motions=kept))
        return update(document, components=components, joints=tuple(joints))

    def label(self) -> str:
        return "take position"


@command
class RemovePosition(RemoveItem):
    on: ClassVar[tuple[str, ...]] = ("assembly",)
    group, what = "positions", "position"
    do: Literal["remove_position"] = "remove_position"
