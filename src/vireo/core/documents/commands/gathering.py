"""Commands on components taken together: groups that move as one, copies."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from vireo.core.declared.copying import COPY_KINDS, CopyKind
from vireo.core.documents.base import Document
from vireo.core.documents.commands.assembly import AssemblyCommand, free_name
from vireo.core.documents.commands.base import RemoveItem, command, edited, place, update
from vireo.core.documents.frames import JointEnd, Placement
from vireo.core.documents.kinds.assembly import Assembly, Bunch, Copies
from vireo.core.naming.grammar import original_of
from vireo.core.trouble import BadInput, NotAllowed


@command
class GroupComponents(AssemblyCommand):
    """Have components move as one, as they stand to each other. What was in another group leaves
    that."""

    do: Literal["group_components"] = "group_components"
    components: list[str] = Field(min_length=2, max_length=5000)
    name: str | None = None

    def apply(self, document: Assembly) -> Document:
        chosen = list(dict.fromkeys(self.components))
        for id in chosen:
            place(document.components, id, "component")
        if len(chosen) < 2:
            raise NotAllowed("a group has two components or more")
        number = document.last_id + 1
        taken = {b.name for b in document.bunches}
        name = free_name((self.name or "Group").strip() or "Group", taken)
        made = Bunch(id=f"g{number}", name=name, components=tuple(chosen))
        kept = _without(document.bunches, set(chosen))
        return update(document, bunches=(*kept, made), last_id=number)

    def label(self) -> str:
        return "group"


def _without(bunches: tuple[Bunch, ...], ids: set[str]) -> tuple[Bunch, ...]:
    """Groups without some components; one of a single component is none any more."""
    left = [update(b, components=tuple(c for c in b.components if c not in ids)) for b in bunches]
    return tuple(b for b in left if len(b.components) > 1)


@command
class EditGroup(AssemblyCommand):
    """Another name, or other components: those leave the groups they were in."""

    do: Literal["edit_group"] = "edit_group"
    id: str
    name: str | None = None
    components: list[str] | None = None

    def apply(self, document: Assembly) -> Document:
        changes = self.given("id")
        if self.components is not None:
            chosen = tuple(dict.fromkeys(self.components))
            for id in chosen:
                place(document.components, id, "component")
            if len(chosen) < 2:
                raise NotAllowed("a group has two components or more; dissolve it instead")
            others = tuple(b for b in document.bunches if b.id != self.id)
            mine = document.bunches[place(document.bunches, self.id, "group")]
            kept = {b.id: b for b in (*_without(others, set(chosen)), mine)}
            order = tuple(kept[b.id] for b in document.bunches if b.id in kept)
            document = update(document, bunches=order)
            changes["components"] = chosen
        return edited(document, "bunches", self.id, "group", changes)


@command
class DissolveGroup(RemoveItem):
    """The components stay where they are, each by itself again."""

    on: ClassVar[tuple[str, ...]] = ("assembly",)
    group, what = "bunches", "group"
    do: Literal["dissolve_group"] = "dissolve_group"

    def label(self) -> str:
        return "dissolve group"


def _checked(document: Assembly, copies: Copies) -> None:
    """That copies are of what is there, and by something else. Raises NotAllowed."""
    kind = COPY_KINDS.called(copies.kind)
    before = [c.id for c in document.copies]
    known = before[: before.index(copies.id)] if copies.id in before else before
    for id in copies.components:
        if id not in known:
            place(document.components, id, "component")
    if copies.of is not None:
        place(document.components, copies.of.component, "component")
        if copies.of.component in copies.components:
            raise NotAllowed(
                "components are not copied along, round or over themselves: pick another one, or an "
                "axis of the assembly"
            )
    elif not kind.axis:
        raise NotAllowed(f"{kind.label.lower()}: pick {kind.hint[:1].lower()}{kind.hint[1:]}")
    if any(n < 2 for n in copies.left_out):
        raise BadInput("only copies can be left out: they are numbered from 2", ["field:left_out"])


def _title(document: Assembly, kind: CopyKind, ids: list[str]) -> str:
    """What copies are called at first: by what is copied, and how."""
    known = {c.id: c.name for c in document.components}
    known |= {c.id: c.name for c in document.copies}
    what = known.get(ids[0], "Copies")
    more = f" and {len(ids) - 1} more" if len(ids) > 1 else ""
    return f"{what[:40]}{more} {kind.label[:1].lower()}{kind.label[1:]}"


@command
class AddCopies(AssemblyCommand):
    """Copies of components (or of copies made before) that follow them. `of` is what they are
    copied along, round or over, else the `axis` of the assembly is."""

    do: Literal["add_copies"] = "add_copies"
    kind: str
    components: list[str] = Field(min_length=1, max_length=2000)
    name: str | None = None
    of: JointEnd | None = None
    axis: Literal["X", "Y", "Z"] | None = None
    count: str | None = None
    spacing: str | None = None
    reverse: bool = False
    left_out: list[int] = Field(default_factory=list)

    def apply(self, document: Assembly) -> Document:
        kind = COPY_KINDS.called(self.kind)
        number = document.last_id + 1
        taken = {c.name for c in document.copies}
        default = Copies.model_fields
        made = Copies(
            id=f"r{number}",
            kind=kind.kind,
            name=free_name(self.name or _title(document, kind, self.components), taken),
            components=tuple(dict.fromkeys(self.components)),
            of=self.of,
            axis=self.axis or default["axis"].default,
            count=self.count or default["count"].default,
            spacing=self.spacing or (kind.spacing.default if kind.spacing else None),
            reverse=self.reverse,
            left_out=tuple(sorted(set(self.left_out))),
        )
        _checked(document, made)
        return update(document, copies=(*document.copies, made), last_id=number)

    def label(self) -> str:
        return "copies"


@command
class EditCopies(AssemblyCommand):
    """Only what is given changes."""

    do: Literal["edit_copies"] = "edit_copies"
    id: str
    kind: str | None = None
    components: list[str] | None = None
    name: str | None = None
    of: JointEnd | None = None
    axis: Literal["X", "Y", "Z"] | None = None
    count: str | None = None
    spacing: str | None = None
    reverse: bool | None = None
    left_out: list[int] | None = None
    asleep: bool | None = None

    def apply(self, document: Assembly) -> Document:
        changes = self.given("id")
        if "of" in self.model_fields_set:
            changes["of"] = self.of
        if self.kind is not None:
            kind = COPY_KINDS.called(self.kind)
            now = document.copies[place(document.copies, self.id, "copies")]
            if kind.kind != now.kind and self.spacing is None:
                changes["spacing"] = kind.spacing.default if kind.spacing else None
        after = edited(document, "copies", self.id, "copies", changes)
        _checked(after, after.copies[place(after.copies, self.id, "copies")])
        return after


@command
class RemoveCopies(AssemblyCommand):
    """Copies go, and those that are made of them."""

    do: Literal["remove_copies"] = "remove_copies"
    id: str

    def apply(self, document: Assembly) -> Document:
        place(document.copies, self.id, "copies")
        gone, kept = {self.id}, []
        for copies in document.copies:
            left = tuple(c for c in copies.components if c not in gone)
            if copies.id in gone or not left:
                gone.add(copies.id)
            else:
                kept.append(update(copies, components=left))
        return update(document, copies=tuple(kept))


@command
class FreeCopies(AssemblyCommand):
    """Copies become components of their own, standing where `placements` tell (by the names of the
    copies); they follow nothing any more."""

    do: Literal["free_copies"] = "free_copies"
    id: str
    placements: dict[str, Placement]

    def apply(self, document: Assembly) -> Document:
        place(document.copies, self.id, "copies")
        taken = {c.name for c in document.components}
        number, made = document.last_id, []
        for id, at in self.placements.items():
            if not id.split("_")[1:2] == [self.id]:
                raise BadInput(f"{id} is no copy made by {self.id}")
            original = document.components[place(document.components, original_of(id), "component")]
            number += 1
            name = free_name(original.name, taken)
            taken.add(name)
            made.append(
                update(original, id=f"c{number}", name=name, anchored=False, tag="", placement=at)
            )
        fresh = tuple(c.id for c in made)
        copies = tuple(
            update(c, components=tuple(x for k in c.components for x in (fresh if k == self.id else (k,))))
            for c in document.copies if c.id != self.id
        )  # fmt: skip
        return update(
            document, components=(*document.components, *made),
            copies=tuple(c for c in copies if c.components), last_id=number,
        )  # fmt: skip

    def label(self) -> str:
        return "make copies components of their own"
