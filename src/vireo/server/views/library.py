"""What there is to choose from: kinds of steps, tools, constraints, checks, joints, materials."""

from __future__ import annotations

import math
from typing import Any, Literal

from pydantic import BaseModel, Field

from vireo.core.material import PLAIN, Material
from vireo.core.quantity import Dimension, FormulaError, evaluate
from vireo.core.quantity.units import DENSITY, PRESSURE
from vireo.core.trouble import BadInput, Report
from vireo.server.views.kinds import KindWord


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
    #: Other fields that taking this one sets.
    sets: list[str] | None = None
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
    #: What else is chosen for it: a run, a coordinate of a joint, a side.
    asks: list[str]


class JointCoordinateView(BaseModel):
    name: str
    label: str
    unit: str


class GroupView(BaseModel):
    """Named items of a kind of document: the field that holds them, what one is called."""

    name: str
    word: str


class DocumentKindView(BaseModel):
    """A kind of document; `exports` are the endings of the files it is written in."""

    kind: KindWord
    label: str
    icon: str
    line: str
    exports: list[str]
    groups: list[GroupView]
    template: bool
    #: Whether it can stand in an assembly.
    placeable: bool


class JointFactorView(BaseModel):
    label: str
    dimension: str
    default: str


class JointKindView(BaseModel):
    """`best` are pairs of what is picked it is proposed for, `fits` those it can hold at all, `picks` how
    many ends each side has at the most, `about` what its ends mostly are; one that `mirrors` takes the
    plane in the middle besides, of one that `shifts` an offset moves the other end."""

    kind: str
    label: str
    icon: str
    line: str
    family: Literal["Joint", "Condition", "Drive"]
    coordinates: list[JointCoordinateView]
    factor: JointFactorView | None
    picks: tuple[int, int]
    mirrors: bool
    shifts: bool
    hint: str
    best: list[str]
    fits: list[str]
    about: Literal["axis", "plane", "point", ""]


class CopySpacingView(BaseModel):
    label: str
    unit: str
    default: str


class SlotView(BaseModel):
    """Something a law of motion or a load asks for; what can be left out says what it is then."""

    name: str
    label: str
    what: str
    default: str
    empty: str


class ListView(BaseModel):
    """A list of faults in how components are put together."""

    kind: str
    label: str
    line: str


class ActsView(BaseModel):
    """A law by which a coordinate is driven over a run, or a kind of load."""

    kind: str
    label: str
    line: str
    slots: list[SlotView]


class CopyKindView(BaseModel):
    """A way to copy components: what is picked for it, whether an axis of the assembly does too, whether
    it can go the other way round."""

    kind: str
    label: str
    icon: str
    line: str
    hint: str
    axis: bool
    counted: bool
    turns: bool
    spacing: CopySpacingView | None


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
    documents: list[DocumentKindView]
    checks: list[CheckKindView]
    joints: list[JointKindView]
    copies: list[CopyKindView]
    laws: list[ActsView]
    loads: list[ActsView]
    lists: list[ListView]
    #: Files of the user's own steps that could not be loaded.
    troubles: list[Report] = []


class MaterialsView(BaseModel):
    materials: list[Material]


class TypedMaterial(BaseModel):
    """A material as a person types it: a plain density is kg/m3, plain moduli and strengths MPa."""

    id: str = Field(min_length=1, max_length=40)
    name: str = Field(min_length=1, max_length=80)
    density: str | float
    young: str | float
    poisson: float = Field(ge=0, lt=0.5)
    strength: str | float
    source: str = Field(default="", max_length=200)
    colour: str = Field(default=PLAIN, pattern=r"^#[0-9a-f]{6}$")

    def material(self) -> Material:
        """With values in kg/m3 and MPa. Raises BadInput for another kind of unit or a value no
        material has."""
        values = {
            "density": _typed(self.density, "density", DENSITY, 1e9),
            "young": _typed(self.young, "Young’s modulus", PRESSURE, 1e-3),
            "strength": _typed(self.strength, "yield strength", PRESSURE, 1e-3),
        }
        for field, value in values.items():
            if not 0 < value < math.inf:
                word = {"young": "Young’s modulus", "strength": "yield strength"}.get(field, field)
                raise BadInput(f"{word} must be more than nothing, not {value:g}")
        return Material(
            id=self.id, name=self.name, poisson=self.poisson, source=self.source,
            colour=self.colour, **values,
        )  # fmt: skip


def _typed(raw: str | float, what: str, dimension: Dimension, factor: float) -> float:
    """A number as it stands, or a value with its unit (held in kg, mm, s) times a factor."""
    if not isinstance(raw, str):
        return raw
    try:
        found = evaluate(raw)
    except FormulaError as error:
        raise BadInput(f"{what}: {error.text}") from error
    if found.dimension.plain:
        return found.value
    if found.dimension != dimension:
        raise BadInput(f"{what} “{raw}” is {found.dimension.name}, not {dimension.name}")
    return found.value * factor
