"""The contract of a kind of document and the registry they enter by being read.

A kind is one file in `vireo.core.documents.kinds`: its model, its groups of named items, what it
refers to, how it is built, handed over and told as a script. Nothing else lists kinds; the rest
asks here.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Generic, Protocol, TypeVar

from pydantic import ValidationError

from vireo.core.documents.base import Choice, Document, dump
from vireo.core.registry import Registry
from vireo.core.trouble import BadInput, first_said

D = TypeVar("D", bound=Document)
Json = dict[str, Any]
Command = Json
#: What is wrong in a document by where it is: the name of what has it, and the words.
Faults = dict[str, tuple[str, str]]


def _nothing(item: Json) -> list[Command]:
    return []


@dataclass(frozen=True)
class Group:
    """Named items of a document.

    `name` is the field that holds them, `letter` what stands before the number in their ids,
    `word` what messages call one, `command` what makes one; `tell` turns an item into that
    command's fields, `after` says what else has to be done for it. Where items stand in an order
    of their own and not in that of their making, `ordered`.
    """

    name: str
    letter: str
    word: str
    command: str
    tell: Callable[[Json], Json]
    after: Callable[[Json], list[Command]] = _nothing
    ordered: bool = False


def all_but(*left: str) -> Callable[[Json], Json]:
    """Tells all of an item that is said, but for its id and the fields named."""
    return lambda item: {k: v for k, v in item.items() if k not in ("id", *left) and v is not None}


CHECKS = Group("checks", "k", "check", "add_check", all_but())
NOTES = Group("notes", "n", "note", "add_note", all_but())
#: What is kept of variants; cells are told when all is there that they speak of.
MEMBERS = (
    Group("columns", "y", "column of the variants", "add_column", all_but("base")),
    Group("variants", "v", "variant", "add_variant", all_but("cells")),
    Group(
        "options", "o", "option", "add_option",
        lambda o: {**all_but("values")(o), "values": [v["name"] for v in o["values"]]}
        if o["kind"] == "list"
        else all_but("values")(o),
        lambda o: [
            {"do": "edit_option", "id": o["id"], "was": {v["name"]: v["was"]}}
            for v in o["values"] if v.get("was")
        ],
    ),
)  # fmt: skip


class Around(Protocol):
    """What a document's kind may ask of the project it stands in."""

    @property
    def project(self) -> str: ...

    @property
    def doomed(self) -> Mapping[str, str]:
        """Steps that took a worker down, by key, with what to tell."""
        ...

    def other(self, id: str) -> Document | None:
        """Another document of the project; None when it is not there (any more)."""
        ...

    def materials(self, ids: set[str]) -> dict[str, Json]:
        """Those of some materials that are known in the project."""
        ...


class DocumentKind(Generic[D]):
    """Subclass, set the class attributes, write what applies, decorate with `register`."""

    #: Stored in documents; never changes once released.
    kind: ClassVar[str]
    #: The version its model is at, and what lifts JSON from one version to the next.
    version: ClassVar[int] = 1
    lifts: ClassVar[Mapping[int, Callable[[Json], Json]]] = {}
    model: ClassVar[type[Document]]
    label: ClassVar[str]
    icon: ClassVar[str]
    #: One plain line for where documents are made.
    line: ClassVar[str]
    #: Where it stands among the kinds that are offered.
    order: ClassVar[int] = 50
    groups: ClassVar[tuple[Group, ...]] = (CHECKS, NOTES, *MEMBERS)
    #: Forms of files it is written in, by ending, with the task that writes it.
    exports: ClassVar[Mapping[str, str]] = {}
    #: The task that draws its small picture, and whether that depends on nothing else than it.
    picture: ClassVar[str] = ""
    alone: ClassVar[bool] = False
    #: Whether there is something in it to measure.
    measurable: ClassVar[bool] = False
    #: Whether it can stand in an assembly.
    placeable: ClassVar[bool] = False
    #: Whether another can start as a copy of one.
    template: ClassVar[bool] = False
    #: Whether its picture can be looked at from kept views, with readings that stay.
    viewed: ClassVar[bool] = True

    @property
    def article(self) -> str:
        """What messages call one.

        >>> DOCUMENT_KINDS["assembly"].article
        'an assembly'
        """
        word = self.label.lower()
        return f"{'an' if word[0] in 'aeiou' else 'a'} {word}"

    # What it refers to

    def refers(self, document: D) -> set[str]:
        """Ids of the other documents it needs."""
        return set()

    def follows(self, document: D) -> set[str]:
        """Ids of those it has at their newest revision, whatever that becomes."""
        return self.refers(document)

    def chosen(self, document: D) -> list[tuple[str, str, Choice]]:
        """Which members of other documents it speaks of: as what, of which, and the choice."""
        return []

    def redirected(self, data: Json, fresh: Mapping[str, str]) -> Json:
        """Its JSON with the ids of other documents replaced."""
        return data

    def files(self, document: D) -> list[str]:
        """Ids of the stored files it reads."""
        return []

    def materials(self, document: D) -> set[str]:
        """Ids of the materials it names."""
        return set()

    def content(self, document: D) -> Json:
        """What of it decides answers about its shape, place or strength, its formulas put as
        values (`content.valued`): neither names nor views nor looks."""
        raise NotImplementedError

    # How it is made, built and placed

    def made(self, given: Mapping[str, Any], defaults: Mapping[str, Any]) -> Json:
        """Fields of a new one from what was given for it and the project's first choices. Raises
        BadInput for what is missing."""
        return {}

    def present(self, document: D) -> D:
        """The document without what of it is not there as it stands: what is built."""
        return document

    def request(self, document: D, around: Around, upto: int | None = None) -> tuple[str, Json]:
        """Task and request that build it. Raises BadInput for what cannot be built."""
        raise BadInput(f"{self.label.lower()} documents show nothing")

    def component(self, document: D, around: Around) -> Json | None:
        """How it stands in an assembly: ``{"part": request}`` for one that is built,
        ``{"assembly": data}`` for one put together of others; None when it cannot be placed."""
        return None

    def standing_for(self, document: str, choice: Choice, member: D) -> list[Command]:
        """Commands by which an empty document of this kind stands for a member of another, and follows it.
        Raises BadInput where none can."""
        raise BadInput(f"{self.article} cannot stand for a variant of another")

    # What is said of it

    def faults(self, document: D, built: Json) -> Faults:
        """What its build found wrong."""
        return {}

    def described(self, document: D, built: Json) -> Json:
        """What is told of it without a screen."""
        return {}

    # Telling it as a script

    def given(self, document: D, variables: Mapping[str, str]) -> list[str]:
        """What a script gives besides the name to make an empty one, as text."""
        return []

    def first(self, data: Json) -> list[Command]:
        """What is told before its items."""
        return []

    def last(self, data: Json) -> list[Command]:
        """What is told after its items and views."""
        return []


DOCUMENT_KINDS: Registry[DocumentKind[Any]] = Registry(
    "kind of document", "vireo.core.documents.kinds"
)
K = TypeVar("K", bound="type[DocumentKind[Any]]")


def register(cls: K) -> K:
    DOCUMENT_KINDS.add(cls.kind, cls())
    return cls


def kind_of(document: Document) -> DocumentKind[Any]:
    return DOCUMENT_KINDS[document.kind]


def load_document(data: Any) -> Document:
    """A document from its JSON, lifted to what its kind is today. Raises BadInput with the first
    thing wrong with it."""
    if not isinstance(data, dict) or not isinstance(data.get("kind"), str):
        raise BadInput("this document cannot be read: it does not say what kind it is")
    kind = DOCUMENT_KINDS.called(data["kind"])
    version = data.get("schema_version", 1)
    if not isinstance(version, int) or version < 1:
        raise BadInput("this document cannot be read: its version is no number")
    if version > kind.version:
        raise BadInput(
            f"this {kind.label.lower()} was written by a newer program (version {version}; "
            f"up to {kind.version} is known here)"
        )
    try:
        while version < kind.version:
            data = {**kind.lifts[version](data), "schema_version": version + 1}
            version += 1
        return kind.model.model_validate(data)
    except (ValidationError, TypeError, KeyError, AttributeError) as error:
        if not isinstance(error, ValidationError):
            raise BadInput(
                f"this document cannot be read: {kind.label} of an old version"
            ) from error
        place, said = first_said(error)
        raise BadInput(f"this document cannot be read: {place}: {said}") from error


def new_document(kind: str, name: str, **more: Any) -> Document:
    """A document of a kind as it is today."""
    version = DOCUMENT_KINDS.called(kind).version
    return load_document({"kind": kind, "name": name, "schema_version": version, **more})


__all__ = [
    "CHECKS", "DOCUMENT_KINDS", "MEMBERS", "NOTES", "Around", "Command", "DocumentKind", "Faults", "Group",
    "all_but", "dump", "kind_of", "load_document", "new_document", "register",
]  # fmt: skip
