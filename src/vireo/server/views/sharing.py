"""Share copies: asked for, looked at."""

from __future__ import annotations

from pydantic import BaseModel, Field

from vireo.core.documents.kinds.assembly import ShareLevel, ShareRule


class ShareWish(BaseModel):
    """What a share copy shows of what, as it is kept by name."""

    rules: list[ShareRule] = Field(default_factory=list, max_length=200)
    level: ShareLevel = "skin"
    small: float = Field(default=3.0, ge=0, le=1000, allow_inf_nan=False)
    looks: bool = True


class SharedRowView(BaseModel):
    """A component of the copy: the rule that decided (none: the copy itself), its faces before and
    after, whether it is left out because nobody sees it, inner faces that could not be closed."""

    component: str
    name: str
    level: ShareLevel
    rule: int | None
    before: int
    after: int
    hidden: bool
    left: int


class SharedLeafView(BaseModel):
    id: str
    key: str
    colour: str
    matrix: list[float]


class ShareView(BaseModel):
    rows: list[SharedRowView]
    leaves: list[SharedLeafView]
