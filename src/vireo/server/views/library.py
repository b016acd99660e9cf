"""What there is to choose from: kinds of steps, tools, constraints, checks, joints, materials."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel

from vireo.core.material import Material
from vireo.core.trouble import Report


class FieldView(BaseModel):
    """One field of a step kind, as the editor needs it."""

    name: str
    type: str
    label: str
    default: Any = None
    dimension: str | None = None
    key: str | None = None
    words: dict[str, str] | None = None
    when: dict[str, list[str]] | None = None
    accepts: str | None = None
    hint: str | None = None
    of: str | None = None
    #: Picks and bodies that may be left empty.
    free: bool = False
    #: Forms of reference steps that may be chosen too, as ``step:<id>``.
    datums: list[str] | None = None
    #: Steps of any kind may be chosen, not only those that can be done again.
    any: bool = False
    #: What numbers count: copies, which are clicked in the picture as well.
    marks: str | None = None
    least: float | None = None
    above: float | None = None
    most: float | None = None


class KindView(BaseModel):
    kind: str
    label: str
    group: str
    icon: str
    line: str
    deciding: list[str]
    copyable: bool
    fields: list[FieldView]


class ConstraintKindView(BaseModel):
    type: str
    label: str
    forms: list[list[str]]
    dimension: str | None
    offered: bool


class CheckKindView(BaseModel):
    kind: str
    label: str
    documents: list[str]
    picks: int
    relation: str
    limit: str
    line: str


class JointKindView(BaseModel):
    kind: str
    label: str
    icon: str
    line: str
    coordinate: str | None


class ToolSizeView(BaseModel):
    name: str
    label: str
    kind: Literal["length", "angle", "count", "number", "flag", "text"]
    after: int
    default: str


class ToolView(BaseModel):
    name: str
    label: str
    icon: str
    group: str
    line: str
    key: str
    spots: list[str]
    more: bool
    wants: list[str]
    sizes: list[ToolSizeView]
    chain: bool


class LinkWayView(BaseModel):
    """What a sketch can take from elsewhere, and from what."""

    name: str
    label: str
    line: str
    takes: list[str]


class Registries(BaseModel):
    links: list[LinkWayView]
    steps: list[KindView]
    tools: list[ToolView]
    constraints: list[ConstraintKindView]
    units: dict[str, str]
    functions: list[str]
    checks: list[CheckKindView]
    joints: list[JointKindView]
    #: Files of the user's own steps that could not be loaded.
    troubles: list[Report] = []


class MaterialsView(BaseModel):
    materials: list[Material]
