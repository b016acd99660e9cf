"""Jobs and checks."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel

from vireo.core.trouble import Report


class NewJob(BaseModel):
    kind: str
    options: dict[str, Any] = {}


class JobView(BaseModel):
    id: str
    key: str
    kind: str
    document: str
    state: Literal["queued", "running", "done", "failed", "cancelled", "forgotten"]
    progress: float
    stage: str
    request: dict[str, Any]
    result: dict[str, Any] | None
    error: Report | None
    created: float


class JobsView(BaseModel):
    jobs: list[JobView]


class CurrentView(BaseModel):
    """Of the newest done job of each kind of a document, by its id: whether it would be asked the
    same now."""

    current: dict[str, bool]


CheckState = Literal["holds", "fails", "running", "old", "trouble"]


class CheckView(BaseModel):
    """What a check says now. `old`: it has yet to be run since something changed; `was` tells what it said
    before. `value` and `bound` are what was found and allowed, in the base units of formulas."""

    id: str
    state: CheckState
    shown: str | None
    limit: str | None = None
    value: float | None = None
    bound: float | None = None
    was: str | None = None
    job: str | None = None
    progress: float | None = None
    trouble: Report | None = None


class ChecksView(BaseModel):
    checks: list[CheckView]


class ProjectCheckView(CheckView):
    """A check in the list of its project."""

    name: str
    label: str
    relation: Literal["at_most", "at_least"]
    typed: str
    severity: Literal["must", "should"]
    note: str


class CheckedDocumentView(BaseModel):
    """A document with checks; `member` is what it stands as."""

    document: str
    name: str
    kind: str
    revision: int
    member: str
    checks: list[ProjectCheckView]


class ProjectChecksView(BaseModel):
    project: str
    name: str
    documents: list[CheckedDocumentView]


class MadeView(BaseModel):
    """A change: the revision of a document it made, its words and when."""

    document: str
    name: str
    revision: int
    label: str
    created: float


class BlameView(BaseModel):
    """The changes after which a check that held did not, the first made first; `broke` is the one that is
    known to have done it."""

    between: list[MadeView]
    broke: MadeView | None
    why: str


class FoundView(BaseModel):
    """What a check found once; `mine` where the document stood as it stands now."""

    revision: int
    member: str
    mine: bool
    state: CheckState
    shown: str | None
    limit: str | None
    value: float | None
    bound: float | None
    created: float


class CheckHistoryView(BaseModel):
    rows: list[FoundView]
    blame: BlameView
