"""The contract of a command and the registry it enters."""

from __future__ import annotations

from difflib import get_close_matches
from typing import Any, ClassVar, TypeVar

from pydantic import BaseModel, ConfigDict, ValidationError

from vireo.core.documents.model import Assembly, Part, Study
from vireo.core.trouble import BadInput, NotAllowed

Model = Part | Assembly | Study
C = TypeVar("C", bound="type[Command]")
T = TypeVar("T", bound=BaseModel)


class Command(BaseModel):
    """An edit. `apply` returns the new document or raises Trouble; it changes nothing itself."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    do: str
    #: Kinds of document it works on.
    on: ClassVar[tuple[str, ...]] = ("part", "assembly", "study")

    def given(self, *but: str) -> dict[str, Any]:
        """The fields that were given and are not null, without ``do`` and those named."""
        return {
            k: v
            for k in self.model_fields_set
            if k not in ("do", *but) and (v := getattr(self, k)) is not None
        }

    def apply(self, document: Any) -> Model:
        raise NotImplementedError

    def label(self) -> str:
        """What undo says it takes back."""
        return self.do.replace("_", " ")


REGISTRY: dict[str, type[Command]] = {}


def command(cls: C) -> C:
    kind: type[Command] = cls
    REGISTRY[kind.model_fields["do"].default] = cls
    return cls


def run(command: Command, document: Model) -> Model:
    """Apply a command after checking that it fits the kind of document."""
    if document.kind not in command.on:
        raise NotAllowed(f"{command.label()} does not work on a {document.kind}")
    try:
        return command.apply(document)
    except ValidationError as error:
        raise unreadable(command.label(), error) from error


def unreadable(what: str, error: ValidationError, model: type[BaseModel] | None = None) -> BadInput:
    """The first thing wrong, with its place; a field that `model` does not have comes first, as
    what is missing may only be misspelt."""
    every = error.errors()
    unknown = [e for e in every if e["type"] == "extra_forbidden" and len(e["loc"]) == 1]
    if model is not None and unknown:
        name = str(unknown[0]["loc"][0])
        there = [f.alias or n for n, f in model.model_fields.items()]
        meant = get_close_matches(name, there, 1, 0.6)
        hint = f"did you mean {meant[0]}?" if meant else f"it has {', '.join(there)}"
        return BadInput(f"{what} has no field {name}; {hint}", [f"field:{name}"])
    first = every[0]
    where = ".".join(str(p) for p in first["loc"])
    return BadInput(f"{what}: {where}: {first['msg']}", [f"field:{where}"])


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

    def apply(self, document: Any) -> Model:
        items = getattr(document, self.group)
        found: Model = update(
            document, **{self.group: without(items, place(items, self.id, self.what))}
        )
        return found


def replaced(items: tuple[Any, ...], index: int, item: Any) -> tuple[Any, ...]:
    return (*items[:index], item, *items[index + 1 :])


def without(items: tuple[Any, ...], index: int) -> tuple[Any, ...]:
    return (*items[:index], *items[index + 1 :])
