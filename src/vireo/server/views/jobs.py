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
    state: Literal["queued", "running", "done", "failed", "cancelled"]
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


class CheckView(BaseModel):
    id: str
    state: Literal["holds", "fails", "running", "trouble"]
    shown: str | None
    limit: str | None = None
    was: str | None = None
    job: str | None = None
    progress: float | None = None
    trouble: Report | None = None


class ChecksView(BaseModel):
    checks: list[CheckView]
