"""Links into a sketch and 2D files that lie under it."""

from __future__ import annotations

from pydantic import BaseModel, Field

from vireo.core.declared.fields import Brought, LayoutItem, Underlay
from vireo.core.sketch.model import Drawing
from vireo.core.trouble import Report
from vireo.server.views.part import CurveView
from vireo.server.views.shapes import Pair
from vireo.server.views.sketch import SketchRequest


class BringRequest(SketchRequest):
    """Links to be brought, from the part before sketch `step` and what lies under it."""

    step: str
    brought: list[Brought] = Field(max_length=500)
    underlays: list[Underlay] = Field(default=[], max_length=50)


class ReplaceRequest(BringRequest):
    """`file` takes the place of the file of `underlay`."""

    underlay: str
    file: str
    source: str = ""


class ChainRequest(BaseModel):
    document: str
    file: str
    key: str


class ChainView(BaseModel):
    items: list[LayoutItem]


class BroughtView(BaseModel):
    """The drawing with its links; `lost` says why one brings nothing any more."""

    drawing: Drawing
    touched: list[str]
    curves: list[CurveView]
    lost: dict[str, Report] = {}


class LayoutItemView(LayoutItem):
    points: list[Pair]


class ChangedItemView(LayoutItemView):
    """`was` is its key in the older file; `guessed` when it was found by likeness alone."""

    was: str
    guessed: bool


class LayoutFileView(BaseModel):
    """A 2D file to lie under a sketch: curves as polylines in mm; `left` counts what could not
    be taken, by kind."""

    file: str
    source: str
    layers: list[str]
    items: list[LayoutItemView]
    left: dict[str, int]


class ReplacedView(BaseModel):
    """What a newer file changes, and everything as it then stands (nothing is kept yet)."""

    same: int
    changed: list[ChangedItemView]
    gone: list[LayoutItemView]
    new: list[LayoutItemView]
    brought: list[Brought]
    underlays: list[Underlay]
    drawing: Drawing
    lost: dict[str, Report]


class LayoutView(BaseModel):
    """A 2D file as a drawing; `left` counts what could not be taken, by kind."""

    drawing: Drawing
    layers: list[str]
    left: dict[str, int]
