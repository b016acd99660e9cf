"""Commands on assemblies: components, joints, where things stand."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

from vireo.core.declared.joint import JOINTS, JointKind
from vireo.core.documents.base import Choice, Document
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
    Copies,
    Joint,
    JointSide,
    Motion,
)
from vireo.core.naming.grammar import top_of
from vireo.core.trouble import BadInput, NotAllowed


class AssemblyCommand(Command):
    on: ClassVar[tuple[str, ...]] = ("assembly",)


@command
class AddComponent(AssemblyCommand):
    """Bring a part or assembly in; the first one is anchored."""

    do: Literal["add_component"] = "add_component"
    document: str
    name: str
    anchored: bool | None = None
    placement: Placement = Placement()
    reference: bool = False
    choice: Choice | None = None

    def apply(self, document: Assembly) -> Document:
        number = document.last_id + 1
        name = free_name(self.name, {c.name for c in document.components})
        anchored = self.anchored if self.anchored is not None else not document.components
        new = Component(
            id=f"c{number}", name=name, document=self.document, anchored=anchored,
            placement=self.placement, reference=self.reference,
            choice=self.choice,
        )  # fmt: skip
        return update(document, components=(*document.components, new), last_id=number)

    def label(self) -> str:
        return f"bring in {self.name}"


@command
class EditComponent(AssemblyCommand):
    do: Literal["edit_component"] = "edit_component"
    id: str
    name: str | None = None
    anchored: bool | None = None
    tag: str | None = None
    placement: Placement | None = None
    moving: bool | None = None
    inside: dict[str, Placement] | None = None
    reference: bool | None = None
    choice: Choice | None = None
    absent: bool | None = None

    def apply(self, document: Assembly) -> Document:
        return edited(document, "components", self.id, "component", self.given("id"))


class FoundEnd(BaseModel):
    """An end of a joint (`side` as it is called there) or of copies (`of`) found again elsewhere."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: str
    side: JointSide | Literal["of"]
    end: JointEnd


@command
class ReplaceComponent(AssemblyCommand):
    """Another document stands where a component does; `ends` are what holds it, found again on
    that. It keeps its name where that is its own."""

    do: Literal["replace_component"] = "replace_component"
    id: str
    document: str
    name: str | None = None
    ends: list[FoundEnd] = Field(default_factory=list, max_length=5000)

    def apply(self, document: Assembly) -> Document:
        changes: dict[str, Any] = {
            "document": self.document,
            "moving": False,
            "inside": {},
            "choice": None,
        }
        if self.name is not None:
            mine = document.components[place(document.components, self.id, "component")]
            taken = {c.name for c in document.components if c is not mine}
            changes["name"] = free_name(self.name, taken)
        document = edited(document, "components", self.id, "component", changes)
        for found in self.ends:
            if found.end.component != self.id:
                raise NotAllowed("an end found again lies on the replaced component")
            group, what = ("copies", "copies") if found.side == "of" else ("joints", "joint")
            document = edited(document, group, found.id, what, {found.side: found.end})
        return document

    def label(self) -> str:
        return "replace"


@command
class RemoveComponent(AssemblyCommand):
    """Takes its joints, and copies that need it, with it only when asked to."""

    do: Literal["remove_component"] = "remove_component"
    id: str
    with_joints: bool = False

    def apply(self, document: Assembly) -> Document:
        index = place(document.components, self.id, "component")
        users = [j for j in document.joints if self.id in j.components]
        copies = [c for c in document.copies if needs(c, {self.id})]
        if (users or copies) and not self.with_joints:
            held = [(f"joint:{j.id}", j.name) for j in users]
            held += [(f"copies:{c.id}", c.name) for c in copies]
            names = ", ".join(n for _, n in held)
            raise NotAllowed(
                f"{document.components[index].name} is held by {names}", [w for w, _ in held]
            )
        joints = tuple(j for j in document.joints if j not in users)
        document = freed_of(document, {self.id})
        return update(document, components=without(document.components, index), joints=joints)


def needs(copies: Copies, ids: set[str]) -> bool:
    """Whether copies are of nothing but some components, or go by one of them."""
    return ids >= set(copies.components) or (copies.of is not None and copies.of.component in ids)


def freed_of(document: Assembly, ids: set[str]) -> Assembly:
    """The document with some components (or copies) in no group, no copies and no overlap that is
    meant."""
    bunches = tuple(
        update(b, components=tuple(c for c in b.components if c not in ids))
        if ids & set(b.components)
        else b
        for b in document.bunches
    )
    copies = list(document.copies)
    while gone := {c.id for c in copies if needs(c, ids)}:
        copies = [c for c in copies if c.id not in gone]
        ids = ids | gone
    kept = tuple(
        update(c, components=tuple(x for x in c.components if x not in ids))
        if ids & set(c.components)
        else c
        for c in copies
    )
    meant = tuple(m for m in document.meant if not {p.split("/")[0] for p in (m.a, m.b)} & ids)
    bunches = tuple(b for b in bunches if len(b.components) > 1)
    return update(document, copies=kept, bunches=bunches, meant=meant)


def free_name(wanted: str, taken: set[str]) -> str:
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
class CopyComponents(AssemblyCommand):
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
            if j.components <= {c.id for c in chosen}
        ]  # fmt: skip
        components, joints = list(document.components), list(document.joints)
        taken = {c.name for c in components}
        number = document.last_id
        for k in range(1, self.count + 1):
            fresh: dict[str, str] = {}
            for c in chosen:
                number += 1
                fresh[c.id] = f"c{number}"
                name = free_name(c.name, taken)
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
                    for side, end in j.ends.items()
                }
                joints.append(update(j, id=f"j{number}", **ends))
        return update(document, components=tuple(components), joints=tuple(joints), last_id=number)

    def label(self) -> str:
        return "copy components"


def placed(document: Assembly, placements: Mapping[str, Placement]) -> tuple[Component, ...]:
    """The components with some of them, or of what is inside moving ones, where they are told to
    be; what is not there is passed over."""
    inner: dict[str, dict[str, Placement]] = {}
    for id, at in placements.items():
        if top_of(id) != id:
            inner.setdefault(top_of(id), {})[id.split("/", 1)[1]] = at
    made = []
    for c in document.components:
        changes: dict[str, Any] = {}
        if c.id in placements:
            changes["placement"] = placements[c.id]
        if c.moving and c.id in inner:
            changes["inside"] = {**c.inside, **inner[c.id]}
        made.append(update(c, **changes) if changes else c)
    return tuple(made)


@command
class PlaceComponents(AssemblyCommand):
    """Where components stand after they were dragged or driven. What is inside an assembly that
    goes by its own joints is named by what leads to it (``c2/c4``), placed in that assembly."""

    do: Literal["place_components"] = "place_components"
    placements: dict[str, Placement]

    def apply(self, document: Assembly) -> Document:
        for id in self.placements:
            place(document.components, top_of(id), "component")
        return update(document, components=placed(document, self.placements))

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


def _held(document: Assembly, joint: Joint) -> None:
    """That the ends of a joint lie on two components. Raises NotAllowed."""
    for id in sorted(joint.components):
        place(document.components, id, "component")
    if joint.a.component == joint.b.component:
        raise NotAllowed("a joint holds two different components; both ends are on the same one")
    if _kind(joint.kind).mirrors and joint.mirror is None:
        raise NotAllowed("pick the plane in the middle: a flat face, or two faces of one component")
    for one, other in ((joint.a, joint.a2), (joint.b, joint.b2), (joint.mirror, joint.mirror2)):
        if other is not None and (one is None or other.component != one.component):
            raise NotAllowed("the two faces something lies between belong to one component")


@command
class AddJoint(AssemblyCommand):
    """Joins two components. `motions` say of its coordinates, by name, where they are driven to and
    their limits; `value`, `least` and `most` are short for those of its first one."""

    do: Literal["add_joint"] = "add_joint"
    kind: str
    name: str | None = None
    a: JointEnd
    b: JointEnd
    a2: JointEnd | None = None
    b2: JointEnd | None = None
    mirror: JointEnd | None = None
    mirror2: JointEnd | None = None
    flip: bool | None = None
    offset: str = "0 mm"
    factor: str | None = None
    motions: dict[str, Motion] | None = None
    least: str | None = None
    most: str | None = None
    value: str | None = None

    def apply(self, document: Assembly) -> Document:
        kind = _kind(self.kind)
        number = document.last_id + 1
        same = sum(1 for j in document.joints if j.kind == kind.kind)
        name = self.name or (kind.label + (f" {same + 1}" if same else ""))
        said = self.given()
        new = Joint(
            id=f"j{number}", kind=kind.kind, name=name, a=self.a, b=self.b, a2=self.a2, b2=self.b2,
            mirror=self.mirror, mirror2=self.mirror2, flip=self.flip, offset=self.offset,
            factor=_factor(kind, self.factor), motions=_motions(kind, said, {}),
        )  # fmt: skip
        _held(document, new)
        return update(document, joints=(*document.joints, new), last_id=number)

    def label(self) -> str:
        return f"join {self.kind}"


@command
class EditJoint(AssemblyCommand):
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
        _held(after, after.joints[place(after.joints, self.id, "joint")])
        return after


@command
class RemoveJoint(RemoveItem):
    on: ClassVar[tuple[str, ...]] = ("assembly",)
    group, what = "joints", "joint"
    do: Literal["remove_joint"] = "remove_joint"
