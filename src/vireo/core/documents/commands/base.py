"""The contract of a command and the registry it enters."""

from __future__ import annotations

from typing import Any, ClassVar, TypeVar

from pydantic import BaseModel, ConfigDict, ValidationError

from vireo.core.declared.reading import unreadable
from vireo.core.documents.base import Document
from vireo.core.documents.kind import DocumentKind, kind_of
from vireo.core.documents.members import settled
from vireo.core.trouble import NotAllowed

C = TypeVar("C", bound="type[Command]")
T = TypeVar("T", bound=BaseModel)


class Command(BaseModel):
    """An edit. `apply` returns the new document or raises Trouble; it changes nothing itself."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    do: str
    #: Kinds of document it works on; all when none is named.
    on: ClassVar[tuple[str, ...]] = ()
    #: Whether it sees to cells and columns itself.
    of_members: ClassVar[bool] = False

    @classmethod
    def fits(cls, kind: DocumentKind[Any]) -> bool:
        return not cls.on or kind.kind in cls.on

    def given(self, *but: str) -> dict[str, Any]:
        """The fields that were given and are not null, without ``do`` and those named."""
        return {
            k: v
            for k in self.model_fields_set
            if k not in ("do", *but) and (v := getattr(self, k)) is not None
        }

    def apply(self, document: Any) -> Document:
        raise NotImplementedError

    def label(self) -> str:
        """What undo says it takes back."""
        return self.do.replace("_", " ")


REGISTRY: dict[str, type[Command]] = {}


def command(cls: C) -> C:
    kind: type[Command] = cls
    REGISTRY[kind.model_fields["do"].default] = cls
    return cls


def run(command: Command, document: Document) -> Document:
    """Apply a command after checking that it fits the kind of document."""
    if not command.fits(kind_of(document)):
        raise NotAllowed(f"{command.label()} does not work on a {document.kind}")
    try:
        made = command.apply(document)
        return made if command.of_members else settled(made)
    except ValidationError as error:
        raise unreadable(command.label(), error) from error


def update(model: T, **changes: Any) -> T:
    """A copy with changes, validated again."""
    return type(model).model_validate({**dict(model), **changes})


def place(items: tuple[Any, ...], id: str, what: str) -> int:
    """Index of the item with that id. Raises NotAllowed when there is none."""
    for index, item in enumerate(items):
        if item.id == id:
            return index
    raise NotAllowed(f"there is no {what} {id} in this document")


def edited(document: T, group: str, id: str, what: str, changes: dict[str, Any]) -> T:
    """The document with changed fields on one item of a group, validated again."""
    items = getattr(document, group)
    index = place(items, id, what)
    return update(document, **{group: replaced(items, index, update(items[index], **changes))})


class RemoveItem(Command):
    """Take one item out of a group nobody else refers to."""

    group: ClassVar[str]
    what: ClassVar[str]
    id: str

    def apply(self, document: Any) -> Document:
        items = getattr(document, self.group)
        found: Document = update(
            document, **{self.group: without(items, place(items, self.id, self.what))}
        )
        return found


def replaced(items: tuple[Any, ...], index: int, item: Any) -> tuple[Any, ...]:
    return (*items[:index], item, *items[index + 1 :])


def without(items: tuple[Any, ...], index: int) -> tuple[Any, ...]:
    return (*items[:index], *items[index + 1 :])
