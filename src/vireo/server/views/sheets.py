"""Blanks of sheets."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from vireo.core.sheet.library import SheetRule
from vireo.server.views.shapes import Pair, Triple


class FlatAsk(BaseModel):
    """Which sheet of a part, the first there is where none is named; the side kept up, and by what the blank is
    turned (deg). With `commands` as the part would be after them, up to a step where one is said."""

    model_config = ConfigDict(extra="forbid")
    body: str = Field(default="", max_length=60)
    side: Literal["top", "bottom"] = "top"
    turn: float = Field(default=0.0, ge=-360, le=360, allow_inf_nan=False)
    commands: list[dict[str, Any]] = Field(default_factory=list, max_length=500)
    upto: int | None = Field(default=None, ge=0)


class FlatBendView(BaseModel):
    """A bend in the blank: `lines` are its middle, `said` what stands on it. Angle in deg, lengths in mm."""

    id: str
    number: int
    name: str
    up: bool
    angle: float
    radius: float
    allowance: float
    deduction: float
    k: float
    length: float
    lines: list[tuple[Pair, Pair]]
    said: str


class FlatWallView(BaseModel):
    name: str
    points: list[Pair]


class FlatPatchView(BaseModel):
    """A flat piece, or a bend's zone, where it lies; faces of it are ``<id>/top`` and ``<id>/bottom``."""

    id: str
    bend: bool
    loops: list[list[Pair]]
    walls: list[FlatWallView]


class FlatFormView(BaseModel):
    """What is pressed into the blank: what it takes of it, lines along it, what stands on it (mm)."""

    id: str
    kind: str
    name: str
    up: bool
    height: float
    pilot: float
    loops: list[list[Pair]]
    path: list[Pair]
    at: Pair
    said: str


class LapView(BaseModel):
    """Two pieces of a blank that lie on each other (mm2)."""

    a: str
    b: str
    name_a: str
    name_b: str
    area: float
    at: Pair


class MakingFaultView(BaseModel):
    """What cannot be made, or not well: `at` is the place in the blank, `spot` on the body as it stands, `mend`
    what would do."""

    rule: str
    label: str
    patch: str
    name: str
    text: str
    mend: str
    at: Pair
    spot: Triple


class SheetRulesView(BaseModel):
    """Rules of sheets a project keeps, and those there are anyway."""

    own: list[SheetRule]
    library: list[SheetRule]


class SheetSizesAsk(BaseModel):
    model_config = ConfigDict(extra="forbid")
    body: str = Field(max_length=60)


class SheetSizesView(BaseModel):
    """Thickness and inner bend radius (mm) of a body; no radius where it has no bend."""

    thickness: float
    radius: float | None


class SheetName(BaseModel):
    id: str
    name: str


class FlatView(BaseModel):
    """The blank of a sheet, lower left at 0, 0; lengths in mm, mass in g. `key` is that of the folded body."""

    body: str
    name: str
    key: str
    side: Literal["top", "bottom"]
    turn: float
    thickness: float
    size: Pair
    area: float
    mass: float
    cut: float
    pierces: int
    outline: list[list[Pair]]
    patches: list[FlatPatchView]
    bends: list[FlatBendView]
    laps: list[LapView]
    forms: list[FlatFormView]
    #: Which way the sheet was rolled (rad, from x of the blank), where that is said.
    grain: float | None
    faults: list[MakingFaultView]
    sheets: list[SheetName]
