"""What documents of every kind hold: a name, units, parameters, checks, views and notes."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from vireo.core.documents.views import MeasureNote, SavedView
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


class Property(Data):
    """What is said of a document in lists: a part number, a description, one's own."""

    name: Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[^\x00-\x1f]+$")]
    kind: Literal["text", "number", "yes_no"] = "text"
    value: Annotated[str, Field(max_length=500, pattern=r"^[^\x00-\x08\x0b-\x1f]*$")] = ""


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
    #: Ids are handed out once and never again.
    last_id: int = 0

    @property
    def numbers(self) -> frozenset[str]:
        """Names of numbers that formulas know besides the parameters."""
        return frozenset()


def dump(document: Document) -> dict[str, Any]:
    """Plain, sorted JSON of a document; loading it gives the same document."""
    return document.model_dump(mode="json")
