"""Commands on assemblies: components, joints, where things stand."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from pydantic import Field

from vireo.core.documents.commands.base import (
    Command,
    Model,
    RemoveItem,
    command,
    edited,
    place,
    update,
    without,
)
from vireo.core.documents.frames import JointEnd, Placement
from vireo.core.documents.model import Assembly, Component, Joint
from vireo.core.trouble import NotAllowed


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

    def apply(self, document: Assembly) -> Model:
        number = document.last_id + 1
        taken = {c.name for c in document.components}
        name, count = self.name, 1
        while name in taken:
            count += 1
            name = f"{self.name} {count}"
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

    def apply(self, document: Assembly) -> Model:
        return edited(document, "components", self.id, "component", self.given("id"))


@command
class RemoveComponent(_AssemblyCommand):
    """Takes its joints with it only when asked to."""

    do: Literal["remove_component"] = "remove_component"
    id: str
    with_joints: bool = False

    def apply(self, document: Assembly) -> Model:
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


@command
class PlaceComponents(_AssemblyCommand):
    """Where components stand after they were dragged or driven."""

    do: Literal["place_components"] = "place_components"
    placements: dict[str, Placement]

    def apply(self, document: Assembly) -> Model:
        for id in self.placements:
            place(document.components, id, "component")
        components = tuple(
            update(c, placement=self.placements[c.id]) if c.id in self.placements else c
            for c in document.components
        )
        return update(document, components=components)

    def label(self) -> str:
        return "move"


@command
class AddJoint(_AssemblyCommand):
    do: Literal["add_joint"] = "add_joint"
    kind: Literal["rigid", "revolute", "slider"]
    name: str | None = None
    a: JointEnd
    b: JointEnd
    flip: bool = False
    offset: str = "0 mm"
    least: str | None = None
    most: str | None = None
    value: str | None = None

    def apply(self, document: Assembly) -> Model:
        for end in (self.a, self.b):
            place(document.components, end.component, "component")
        if self.a.component == self.b.component:
            raise NotAllowed(
                "a joint holds two different components; both ends are on the same one"
            )
        number = document.last_id + 1
        same = sum(1 for j in document.joints if j.kind == self.kind)
        name = self.name or (self.kind.capitalize() + (f" {same + 1}" if same else ""))
        fields = self.model_dump(exclude={"do", "name"})
        new = Joint.model_validate({**fields, "id": f"j{number}", "name": name})
        return update(document, joints=(*document.joints, new), last_id=number)

    def label(self) -> str:
        return f"join {self.kind}"


@command
class EditJoint(_AssemblyCommand):
    """Only the fields given change; `value` null lets the joint move freely."""

    do: Literal["edit_joint"] = "edit_joint"
    id: str
    fields: dict[str, Any] = Field(default_factory=dict)

    def apply(self, document: Assembly) -> Model:
        allowed = {"name", "kind", "a", "b", "flip", "offset", "least", "most", "value", "asleep"}
        unknown = set(self.fields) - allowed
        if unknown:
            raise NotAllowed(f"a joint has no {', '.join(sorted(unknown))}")
        return edited(document, "joints", self.id, "joint", self.fields)


@command
class RemoveJoint(RemoveItem):
    on: ClassVar[tuple[str, ...]] = ("assembly",)
    group, what = "joints", "joint"
    do: Literal["remove_joint"] = "remove_joint"
