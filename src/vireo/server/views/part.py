"""Built parts: steps, bodies, references, lost picks."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict

from vireo.core.documents.commands.part import Swap
from vireo.core.naming import Pick
from vireo.core.trouble import Report
from vireo.server.views.parameters import ParameterView
from vireo.server.views.shapes import Pair, Triple


class FrameView(BaseModel):
    origin: Triple
    x: Triple
    y: Triple
    z: Triple


class CurveView(BaseModel):
    id: str
    points: list[Pair]


class RegionView(BaseModel):
    id: str
    area: float
    at: Pair
    outer: list[Pair]
    holes: list[list[Pair]]
    depth: int
    curves: list[str] = []


class WholeView(RegionView):
    """All inside an outline; `covers` are the regions that make it up."""

    covers: list[str]


class SketchView(BaseModel):
    frame: FrameView
    curves: list[CurveView]
    points: dict[str, Pair]
    regions: list[RegionView]
    wholes: list[WholeView] = []
    freedom: int


class DatumView(BaseModel):
    """A reference to turn, sketch or join by: an axis runs along z; `word` is a port's kind."""

    form: Literal["plane", "axis", "point", "frame", "port"]
    frame: FrameView
    length: float
    word: str


class MarkView(BaseModel):
    """A thread that is only drawn: a helix about z of its frame. Lengths in mm."""

    text: str
    frame: FrameView
    radius: float
    length: float
    pitch: float
    left: bool


class StepView(BaseModel):
    """What a step made. Products tell more of it under words of their own."""

    model_config = ConfigDict(extra="allow")
    id: str
    status: Literal["ok", "failed", "asleep", "waiting"]
    bodies: list[str]
    volume: float
    mass: float
    change: float
    seconds: float
    kept: bool
    caption: str
    values: dict[str, float]
    notes: list[Report]
    error: Report | None
    sketch: SketchView | None
    misses_target: bool
    datum: DatumView | None = None
    #: What the set it makes gathers.
    gathers: Literal["face", "edge", "body"] | None = None
    #: Ids of the regions of its sketch that it takes.
    counted: list[str] = []


class PaintView(BaseModel):
    face: int
    colour: str


class BodyView(BaseModel):
    """A body with its mass properties (mm2, mm3, g) and how it looks; `material` is an id."""

    id: str
    key: str
    name: str
    volume: float
    area: float
    centre: Triple
    mass: float
    colour: str
    opacity: float
    material: str
    tool: bool = False
    #: What it is: solid, surface or wire.
    form: str = "solid"
    #: Whether it is a sheet, with a blank.
    sheet: bool = False
    paints: list[PaintView] = []


class BodyStateView(BaseModel):
    """A body at some point of the build."""

    id: str
    key: str
    colour: str


class PieceView(BaseModel):
    """Material of a body that a step added or removed (mm3); no key where it cannot be shown."""

    body: str
    sign: Literal["added", "removed"]
    volume: float
    key: str | None


class ChangeView(BaseModel):
    before: list[BodyStateView]
    after: list[BodyStateView]
    pieces: list[PieceView]


class MeasuredView(BaseModel):
    """A number a step read off the model, in working units and as shown."""

    step: str
    name: str
    value: float
    shown: str
    dimension: str


class BuildView(BaseModel):
    """A built part. g, mm, mm2, mm3."""

    revision: int = 0
    steps: list[StepView]
    bodies: list[BodyView]
    parameters: dict[str, ParameterView]
    measured: list[MeasuredView] = []
    volume: float
    mass: float
    centre: Triple | None
    area: float
    marks: list[MarkView] = []
    #: Bodies that cannot be built any more, as they last were.
    past: list[BodyView] = []
    #: Painted faces that are no longer there.
    lost_paints: int = 0
    cache_trouble: str | None = None
    mesh_seconds: float = 0.0


class GhostRequest(BaseModel):
    step: str
    pick: Pick


class GhostView(BaseModel):
    """Polylines in mm."""

    lines: list[list[Triple]]


class AlikeRequest(BaseModel):
    """A lost pick of a step, and the one to be put in its place."""

    step: str
    old: Pick
    new: Pick


class AlikeView(BaseModel):
    swaps: list[Swap]
