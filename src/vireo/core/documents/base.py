"""What documents of every kind hold: a name, units, parameters, checks, views and notes."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from vireo.core.documents.views import MeasureNote, SavedView
from vireo.core.naming import Pick
from vireo.core.quantity import Formula, Parameter
from vireo.core.quantity.shown import PLAIN as PLAIN_UNITS
from vireo.core.quantity.shown import Units

Name = Annotated[str, Field(min_length=1, max_length=80)]
Id = Annotated[str, Field(min_length=1, max_length=24, pattern=r"^[a-z][a-z0-9_]*$")]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]


class Data(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Check(Data):
    """A saved rule: `kind` names an entry of the check registry, `limit` what it is held to."""

    id: Id
    kind: str = Field(max_length=24)
    name: Name
    fields: dict[str, Any] = Field(default_factory=dict)
    relation: Literal["at_most", "at_least"] = "at_most"
    limit: Formula
    #: Whether the design is wrong where it fails, or worth another look.
    severity: Literal["must", "should"] = "must"
    #: Why it is held to this.
    note: Annotated[str, Field(max_length=500)] = ""


class Property(Data):
    """What is said of a document in lists: a part number, a description, one's own."""

    name: Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[^\x00-\x1f]+$")]
    kind: Literal["text", "number", "yes_no"] = "text"
    value: Annotated[str, Field(max_length=500, pattern=r"^[^\x00-\x08\x0b-\x1f]*$")] = ""


class Amount(Data):
    """A number of a variant as typed."""

    formula: Formula


class Choice(Data):
    """Which member of a document is meant: a row of its variants (None: as drawn), and what is chosen
    of its options by their ids; what is not said is as the option has it by itself. `revision` pins the
    document where it stood then; without it follows the newest."""

    variant: Id | None = None
    options: dict[Id, Annotated[str, Field(max_length=500)]] = Field(
        default_factory=dict, max_length=100
    )
    revision: int | None = Field(default=None, ge=1, exclude_if=lambda v: v is None)

    @property
    def member(self) -> Choice:
        """The same member, wherever the document stands."""
        return Choice(variant=self.variant, options=self.options)


def member_key(document: str, choice: Choice | None) -> str:
    """What a member of a document is looked up by where its id alone means it as drawn.

    >>> member_key("d1", Choice(variant="v3"))
    'd1@{"variant":"v3","options":{}}'
    """
    if choice is None or choice == Choice():
        return document
    said = choice.model_copy(update={"options": dict(sorted(choice.options.items()))})
    return f"{document}@{said.model_dump_json()}"


def key_parts(key: str) -> tuple[str, Choice]:
    """Document and choice of a key."""
    document, _, said = key.partition("@")
    return document, Choice.model_validate_json(said) if said else Choice()


#: What a driver is set to: a number, asleep or awake, a member of another document, a word or text,
#: picks.
Cell = Amount | bool | Choice | Annotated[str, Field(max_length=500)] | tuple[Pick, ...]


class Column(Data):
    """Something of a document that differs between its members: `drives` names an entry of the
    registry of drivers, `of` what of the document it is. `base` is what it is where nothing else is
    said. It belongs to the table of variants, or to an `option`."""

    id: Id
    drives: str = Field(max_length=24)
    of: dict[str, Annotated[str, Field(max_length=200)]] = Field(max_length=4)
    base: Cell
    option: Id | None = None


class Variant(Data):
    """A row of the table of variants: what of its columns is not as drawn."""

    id: Id
    name: Name
    cells: dict[Id, Cell] = Field(default_factory=dict, max_length=500)


class OptionValue(Data):
    """One of the values of an option, and what of its columns is then not as drawn. Whoever chose it by a
    name it had before (`was`) still means it."""

    name: Name
    was: tuple[Name, ...] = Field(default=(), max_length=50, exclude_if=lambda v: not v)
    cells: dict[Id, Cell] = Field(default_factory=dict, max_length=100)


class Option(Data):
    """A choice that is independent of the variants, with drivers of its own: one of several values,
    yes or no, or a number from `least` to `most` that all its drivers are set to. `default` is what is
    taken where nothing is chosen: the name of a value, or a formula."""

    id: Id
    name: Name
    kind: Literal["list", "yes_no", "number"] = "list"
    default: str = Field(max_length=500)
    values: tuple[OptionValue, ...] = Field(default=(), max_length=200)
    least: Formula | None = None
    most: Formula | None = None


class Document(Data):
    """A document of any kind. Each kind has a model of its own (`documents.kinds`)."""

    schema_version: int = 1
    #: The word of its kind.
    kind: str
    name: Name
    #: What it shows and reads; values and formulas are stored as they are.
    units: Units = PLAIN_UNITS
    parameters: tuple[Parameter, ...] = Field(default=(), max_length=2000)
    checks: tuple[Check, ...] = Field(default=(), max_length=500)
    views: tuple[SavedView, ...] = Field(default=(), max_length=200)
    notes: tuple[MeasureNote, ...] = Field(default=(), max_length=500)
    properties: tuple[Property, ...] = Field(default=(), max_length=60)
    columns: tuple[Column, ...] = Field(default=(), max_length=500)
    variants: tuple[Variant, ...] = Field(default=(), max_length=10_000)
    options: tuple[Option, ...] = Field(default=(), max_length=100)
    #: The member the document stands as: its drivers are set so.
    active: Choice = Choice()
    #: Ids are handed out once and never again.
    last_id: int = 0

    @property
    def numbers(self) -> frozenset[str]:
        """Names of numbers that formulas know besides the parameters."""
        return frozenset()


def dump(document: Document) -> dict[str, Any]:
    """Plain, sorted JSON of a document; loading it gives the same document."""
    return document.model_dump(mode="json")
