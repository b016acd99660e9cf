"""Sketches being drawn and solved."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from vireo.core.sketch.model import Constraint, Drawing
from vireo.core.sketch.tools import Spot
from vireo.core.trouble import Report
from vireo.server.views.part import CurveView, RegionView
from vireo.server.views.shapes import Pair


class SketchRequest(BaseModel):
    """A drawing, with the document whose parameters its formulas use."""

    document: str
    drawing: Drawing


class SolveRequest(SketchRequest):
    """`pull` drags points (mm). `edited` is the size just typed: when it has no solution, how
    far it could go is told."""

    pull: dict[str, Pair] = {}
    full: bool = True
    edited: str | None = None


class DrawRequest(SketchRequest):
    """A sketch tool at work: places clicked, what was typed, what is selected."""

    tool: str
    spots: list[Spot] = Field(default=[], max_length=500)
    texts: dict[str, str] = {}
    selected: list[str] = []
    construction: bool = False


class DrawView(BaseModel):
    """The drawing after a tool (not solved yet); `curves` shows what is new or other in it."""

    drawing: Drawing
    touched: list[str]
    curves: list[CurveView]
    read: dict[str, float] = {}
    chain: str | None = None
    #: Why it cannot be done here: no fault while the pointer is still on its way.
    trouble: str | None = None


class ProposalView(BaseModel):
    constraint: Constraint
    words: str
    takes: int


class ProposalsView(BaseModel):
    proposals: list[ProposalView]


class MotionView(BaseModel):
    """By how much (of 1) each point shifts and each radius grows."""

    points: dict[str, Pair]
    radii: dict[str, float]


class MotionsView(BaseModel):
    motions: list[MotionView]


class GapView(BaseModel):
    curve: str
    at: Pair
    size: float | None
    to: Pair | None
    kind: Literal["gap", "overhang", "double", "loop"]


class ReadingView(BaseModel):
    """A value in mm, mm2 or rad, and how it is written."""

    label: str
    value: float
    dimension: str
    shown: str


class ReadingsView(BaseModel):
    readings: list[ReadingView]
    line: tuple[Pair, Pair] | None


class MeasureRequest(BaseModel):
    drawing: Drawing
    selected: list[str] = Field(max_length=2000)


class SolvedView(BaseModel):
    drawing: Drawing
    values: dict[str, float]
    freedom: int
    loose: dict[str, str]
    holds: bool
    culprits: list[str]
    loop: list[str]
    troubles: list[Report]
    #: Free curves and ellipses as polylines; lines and circles are drawn from their points.
    curves: list[CurveView]


class RegionsView(BaseModel):
    regions: list[RegionView]
    gaps: list[GapView]
