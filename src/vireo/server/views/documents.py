"""Projects, documents, edits of them."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field

from vireo.core.material import DEFAULT
from vireo.core.quantity.shown import PLAIN, Units
from vireo.server.views.kinds import AnyDocument, KindWord


class DocumentLine(BaseModel):
    id: str
    kind: KindWord
    name: str
    revision: int
    changed: float
    #: Offered as a start for new parts.
    template: bool = False


class Defaults(BaseModel):
    """What new documents of a project start with."""

    units: Units = PLAIN
    material: str = Field(default=DEFAULT, max_length=40)


class ProjectView(BaseModel):
    id: str
    name: str
    created: float
    defaults: Defaults = Defaults()
    documents: list[DocumentLine]


class ShelfView(BaseModel):
    projects: list[ProjectView]


class NewProject(BaseModel):
    name: str = Field(min_length=1, max_length=80)
    defaults: Defaults | None = None


class NewDocument(BaseModel):
    kind: KindWord
    name: str = Field(min_length=1, max_length=80)
    #: For a study: the part it looks at.
    part: str | None = None
    #: For a part: the one it starts as a copy of, of this project or another.
    like: str | None = None


class Made(BaseModel):
    id: str


class Done(BaseModel):
    ok: bool = True


class DocumentView(BaseModel):
    id: str
    project: str
    project_name: str
    kind: KindWord
    revision: int
    document: AnyDocument
    undo: str | None
    redo: str | None


class Edit(BaseModel):
    """Commands applied together against revision `base`, or not at all."""

    base: int
    commands: list[dict[str, Any]] = Field(min_length=1, max_length=4000)
    label: str | None = Field(default=None, max_length=200)


class Base(BaseModel):
    base: int


class Trial(BaseModel):
    """Commands tried out on the stored document without keeping them."""

    commands: list[dict[str, Any]] = Field(default_factory=list, max_length=4000)
    upto: int | None = None
