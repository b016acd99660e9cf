"""Parts made in place: made, what they take, whether that is still so."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from vireo.core.documents.frames import JointEnd
from vireo.core.naming import Pick
from vireo.core.trouble import Report
from vireo.server.views.documents import DocumentView


class Begin(BaseModel):
    """A new part in an assembly: at a picked origin, which it moves with, or at that of the assembly;
    with the axes of the assembly, or `turned` so that Z comes out of what is picked."""

    base: int
    name: str = Field(min_length=1, max_length=80)
    origin: JointEnd | None = None
    turned: bool = False


class BegunView(BaseModel):
    """The part and the component it is; the assembly as it is now."""

    part: str
    component: str
    assembly: DocumentView


class Wanted(BaseModel):
    """A body of the assembly that is taken from: picked faces and edges of it, or all of it."""

    component: str
    path: list[str] = Field(default_factory=list, max_length=16)
    solid: str
    picks: list[Pick] = Field(default_factory=list, max_length=2000)


class Take(BaseModel):
    """What a component takes from around it."""

    component: str
    wanted: list[Wanted] = Field(min_length=1, max_length=200)


class TakenView(BaseModel):
    """What was taken, as the fields of a step hold it but for its number."""

    taken: list[dict[str, Any]]


class SourceView(BaseModel):
    title: str
    state: Literal["fresh", "changed", "lost", "gone"]
    text: str


class InPlaceView(BaseModel):
    """A part of the assembly that takes from around it: what it uses, and whether that is still so."""

    component: str
    name: str
    document: str
    step: str
    fresh: bool
    sources: list[SourceView]


class InPlacesView(BaseModel):
    parts: list[InPlaceView]


class Renew(BaseModel):
    component: str
    step: str


class RenewedView(BaseModel):
    """What bringing a part up to date does: its mass before and after (g), steps that then fail, what
    cannot be brought up to date."""

    before: float
    after: float
    troubles: list[Report]
    left: list[str]


class Renewed(BaseModel):
    """The part as it is now, what could not be brought up to date."""

    part: DocumentView
    left: list[str]
