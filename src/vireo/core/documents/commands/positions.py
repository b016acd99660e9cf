"""Commands on stands of an assembly, views taken apart and share copies, that are kept by name."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from vireo.core.declared.joint import JOINTS
from vireo.core.documents.base import Document
from vireo.core.documents.commands.assembly import AssemblyCommand, placed
from vireo.core.documents.commands.base import RemoveItem, command, place, update
from vireo.core.documents.commands.parameters import free_parameter
from vireo.core.documents.frames import Placement
from vireo.core.documents.kinds.assembly import (
    ApartStep,
    Assembly,
    Explosion,
    Motion,
    Position,
    Run,
    Share,
    ShareLevel,
    ShareRule,
    Weighed,
    WeighedWord,
)
from vireo.core.naming.grammar import original_of


def kept_anew(
    document: Assembly, group: str, made: Position | Weighed | Explosion | Share | Run
) -> Assembly:
    """The document with something in a group, in place of what has its id there."""
    there = getattr(document, group)
    if any(x.id == made.id for x in there):
        return update(document, **{group: tuple(made if x.id == made.id else x for x in there)})
    return update(document, **{group: (*there, made), "last_id": document.last_id + 1})


@command
class KeepPosition(AssemblyCommand):
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
            for c in document.components:
                placements |= {f"{c.id}/{inner}": at for inner, at in c.inside.items()}
        values = self.values
        if values is None:
            held = {
                j.id: {n: m.value for n, m in j.motions.items() if m.value is not None}
                for j in document.joints
            }
            values = {id: found for id, found in held.items() if found}
        name = self.name.strip()
        known = next((p for p in document.positions if p.name == name), None)
        number = document.last_id + 1
        made = Position(
            id=known.id if known else f"p{number}", name=name, placements=placements, values=values
        )
        return kept_anew(document, "positions", made)

    def label(self) -> str:
        return f"keep position {self.name}"


@command
class TakePosition(AssemblyCommand):
    """Have components stand as they were kept by name. What came since stays where it is; joints
    that were not held then move freely."""

    do: Literal["take_position"] = "take_position"
    id: str

    def apply(self, document: Assembly) -> Document:
        found = document.positions[place(document.positions, self.id, "position")]
        components = placed(document, found.placements)
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


@command
class KeepWeighed(AssemblyCommand):
    """Keep a number of the mass properties of some components under a name that formulas use; the same
    name again keeps it anew."""

    do: Literal["keep_weighed"] = "keep_weighed"
    name: str
    what: WeighedWord = "mass"
    components: list[str] = Field(default_factory=list, max_length=5000)
    position: str | None = None

    def apply(self, document: Assembly) -> Document:
        name = self.name.strip()
        known = next((w for w in document.weighed if w.name == name), None)
        # One kept anew has its name already.
        if known is None:
            free_parameter(document, name)
        for id in self.components:
            place(document.components, original_of(id), "component")
        if self.position is not None:
            place(document.positions, self.position, "position")
        number = document.last_id + 1
        made = Weighed(
            id=known.id if known else f"w{number}", name=name, what=self.what,
            components=tuple(self.components), position=self.position,
        )  # fmt: skip
        return kept_anew(document, "weighed", made)

    def label(self) -> str:
        return f"weigh {self.name}"


@command
class RemoveWeighed(RemoveItem):
    on: ClassVar[tuple[str, ...]] = ("assembly",)
    group, what = "weighed", "weighed number"
    do: Literal["remove_weighed"] = "remove_weighed"


@command
class KeepApart(AssemblyCommand):
    """Keep a view taken apart under a name; the same name again keeps it anew."""

    do: Literal["keep_apart"] = "keep_apart"
    name: str
    steps: list[ApartStep] = Field(min_length=1, max_length=2000)

    def apply(self, document: Assembly) -> Document:
        name = self.name.strip()
        known = next((x for x in document.explosions if x.name == name), None)
        number = document.last_id + 1
        made = Explosion(id=known.id if known else f"x{number}", name=name, steps=tuple(self.steps))
        return kept_anew(document, "explosions", made)

    def label(self) -> str:
        return f"keep {self.name} taken apart"


@command
class RemoveApart(RemoveItem):
    on: ClassVar[tuple[str, ...]] = ("assembly",)
    group, what = "explosions", "view taken apart"
    do: Literal["remove_apart"] = "remove_apart"


@command
class KeepShare(AssemblyCommand):
    """Keep a share copy under a name; the same name again keeps it anew."""

    do: Literal["keep_share"] = "keep_share"
    name: str
    rules: list[ShareRule] = Field(default_factory=list, max_length=200)
    level: ShareLevel = "skin"
    small: float = Field(default=3.0, ge=0, le=1000, allow_inf_nan=False)
    looks: bool = True

    def apply(self, document: Assembly) -> Document:
        name = self.name.strip()
        known = next((s for s in document.shares if s.name == name), None)
        number = document.last_id + 1
        made = Share(
            id=known.id if known else f"k{number}", name=name, rules=tuple(self.rules),
            level=self.level, small=self.small, looks=self.looks,
        )  # fmt: skip
        return kept_anew(document, "shares", made)

    def label(self) -> str:
        return f"keep share copy {self.name}"


@command
class RemoveShare(RemoveItem):
    on: ClassVar[tuple[str, ...]] = ("assembly",)
    group, what = "shares", "share copy"
    do: Literal["remove_share"] = "remove_share"
