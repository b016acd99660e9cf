"""Revisions of documents: their timeline, branches, two of them compared."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from vireo.core.documents.base import Choice
from vireo.server.views.jobs import CheckView

Which = Literal["ours", "theirs"]


class RevisionView(BaseModel):
    """A revision in words; `mine` where it is on the way to where the document stands."""

    number: int
    parent: int | None
    words: str
    created: float
    version: str | None
    approved: float | None
    mine: bool


class DocumentRefView(BaseModel):
    id: str
    name: str
    kind: str


class OriginView(BaseModel):
    """What a branch was branched off, and at which revision of it."""

    document: str
    name: str
    revision: int


class TimelineView(BaseModel):
    """Newest first; `more` where there are older ones. `followers` have this document at its newest."""

    head: int
    revisions: list[RevisionView]
    more: bool
    branches: list[DocumentRefView]
    origin: OriginView | None
    followers: list[DocumentRefView]


class Mark(BaseModel):
    """A name for a revision (None takes it off), and whether it is approved."""

    version: str | None = Field(default=None, max_length=80)
    approved: bool | None = None


class Back(BaseModel):
    base: int
    revision: int


class NewBranch(BaseModel):
    name: str = Field(min_length=1, max_length=80)
    revision: int | None = None


class MergeAsk(BaseModel):
    """Which branch is taken in, and what is kept of what both changed."""

    base: int
    branch: str
    chosen: dict[str, Which] = Field(default_factory=dict, max_length=5000)


class AspectView(BaseModel):
    label: str
    before: str
    after: str


class DifferenceView(BaseModel):
    group: str
    word: str
    id: str
    name: str
    sign: Literal["added", "removed", "changed", "moved"]
    aspects: list[AspectView]


class ConflictView(BaseModel):
    key: str
    name: str
    label: str
    base: str
    ours: str
    theirs: str


class FaultView(BaseModel):
    name: str
    why: str


class MergeView(BaseModel):
    """What taking a branch in would bring, what both changed, and what would not build."""

    brings: list[DifferenceView]
    conflicts: list[ConflictView]
    faults: list[FaultView]


class SideAsk(BaseModel):
    """One of two states: of another document than the one asked, at a revision, as a member."""

    document: str | None = Field(default=None, max_length=40)
    revision: int | None = None
    choice: Choice | None = None


class CompareAsk(BaseModel):
    before: SideAsk
    after: SideAsk


class SideView(BaseModel):
    """g, mm3, mm."""

    document: str
    name: str
    revision: int
    member: str
    mass: float | None
    volume: float | None
    size: list[float] | None
    faults: list[FaultView]


class ComparedCheckView(BaseModel):
    id: str
    name: str
    before: CheckView | None
    after: CheckView | None


class ComparedBodyView(BaseModel):
    """A body that differs: volumes in mm3, how far it was moved (mm, rad). Not `whole` where the kernel
    could not take the two states apart."""

    id: str
    name: str
    sign: Literal["came", "went", "moved", "changed"]
    kept: float
    added: float
    removed: float
    moved: float | None
    turned: float | None
    whole: bool


class DrawnView(BaseModel):
    """What is drawn: bodies that are in both states, what a changed one `was` and `is`, and what of the
    material is in one alone."""

    id: str
    key: str
    matrix: list[float]
    sign: Literal["kept", "was", "is", "moved", "added", "removed"]


class GeometryView(BaseModel):
    rows: list[ComparedBodyView]
    drawn: list[DrawnView]
    volumes: dict[str, float]
    trouble: str | None


class CompareView(BaseModel):
    before: SideView
    after: SideView
    differences: list[DifferenceView]
    checks: list[ComparedCheckView]
    geometry: GeometryView | None


class FollowersView(BaseModel):
    followers: list[DocumentRefView]
