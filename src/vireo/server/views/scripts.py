"""Scripts and what became of them."""

from __future__ import annotations

from pydantic import BaseModel, Field

from vireo.core.naming import Pick


class RunRequest(BaseModel):
    """A script to run; `document` is the open one, `picks` what is picked in it."""

    text: str = Field(max_length=1_000_000)
    name: str = Field(default="", max_length=60)
    document: str | None = None
    picks: list[Pick] = Field(default_factory=list, max_length=2000)
    seconds: float = Field(default=120.0, gt=0, le=900)


class SaidView(BaseModel):
    """Something a script said, and the line it said it in (0: none known)."""

    text: str
    line: int


class RunView(BaseModel):
    """What became of a script: ids of documents it made or changed, why it stopped."""

    printed: list[SaidView]
    changed: list[str]
    trouble: SaidView | None


class ScriptText(BaseModel):
    text: str = Field(max_length=1_000_000)


class KeptScript(BaseModel):
    name: str
    text: str


class ScriptsView(BaseModel):
    scripts: list[KeptScript]


class ScriptView(BaseModel):
    text: str
