"""What the server answers with. The web types are generated from these."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from vireo.core.documents.commands.part import Swap
from vireo.core.documents.model import Assembly, Part, Study
from vireo.core.material import Material
from vireo.core.naming import Pick
from vireo.core.part.fields import Brought, LayoutItem, Underlay
from vireo.core.sketch.model import Constraint, Drawing
from vireo.core.sketch.tools import Spot
from vireo.core.trouble import Report

Pair = tuple[float, float]
Triple = tuple[float, float, float]


class DocumentLine(BaseModel):
    id: str
    kind: Literal["part", "assembly", "study"]
    name: str
    revision: int
    changed: float
    #: Offered as a start for new parts.
    template: bool = False


class ProjectView(BaseModel):
    id: str
    name: str
    created: float
    documents: list[DocumentLine]


class ShelfView(BaseModel):
    projects: list[ProjectView]


class NewProject(BaseModel):
    name: str = Field(min_length=1, max_length=80)


class NewDocument(BaseModel):
    kind: Literal["part", "assembly", "study"]
    name: str = Field(min_length=1, max_length=80)
    #: For a study: the part it looks at.
    part: str | None = None
    #: For a part: the one it starts as a copy of, of this project or another.
    like: str | None = None


class Made(BaseModel):
    id: str


class BroughtFileView(BaseModel):
    """A kept file as the fields of an import step want it."""

    file: str
    source: str
    form: str


class Done(BaseModel):
    ok: bool = True


class DocumentView(BaseModel):
    id: str
    project: str
    project_name: str
    kind: Literal["part", "assembly", "study"]
    revision: int
    document: Part | Assembly | Study
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


class FormulaWordView(BaseModel):
    """A function, sign or unit; the example works and gives what is said."""

    word: str
    kind: str
    line: str
    example: str
    gives: str


class FormulaWordsView(BaseModel):
    words: list[FormulaWordView]


class UseView(BaseModel):
    kind: str
    id: str
    name: str


class UsesView(BaseModel):
    """Users of parameters by name."""

    uses: dict[str, list[UseView]]


class FaultView(BaseModel):
    """Something wrong and what has it."""

    name: str
    text: str


class MovedValue(BaseModel):
    name: str
    was: str | None
    now: str | None


class ForeseenView(BaseModel):
    """What an edit would break, mend and change. g."""

    breaks: list[FaultView]
    mends: list[FaultView]
    values: list[MovedValue]
    mass_before: float | None
    mass_after: float | None


class TableText(BaseModel):
    """A table as a spreadsheet copies it, or a CSV file."""

    text: str = Field(max_length=2_000_000)


class TableRead(BaseModel):
    """The commands that put a table in, and how many parameters are new."""

    commands: list[dict[str, Any]]
    new: int


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


class HelpSection(BaseModel):
    """Paragraphs, points of a list, and rows of two columns under a heading."""

    heading: str
    paragraphs: list[str]
    points: list[str]
    rows: list[tuple[str, str]]


class HelpPage(BaseModel):
    """`picture` is the kind of step whose picture the page shows."""

    id: str
    title: str
    group: str
    line: str
    sections: list[HelpSection]
    picture: str | None


class HelpView(BaseModel):
    pages: list[HelpPage]


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


class SketchView(BaseModel):
    frame: FrameView
    curves: list[CurveView]
    points: dict[str, Pair]
    regions: list[RegionView]
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
    gathers: Literal["face", "edge"] | None = None


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


class ParameterView(BaseModel):
    value: float | None
    shown: str | None
    dimension: str | None
    uses: list[str]
    trouble: Report | None


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


class PicksRequest(BaseModel):
    """Picks of a part, or ends of an assembly (component, path, pick); `frame` is a reference step
    whose axes coordinates are told along."""

    picks: list[dict[str, Any]] = Field(min_length=1, max_length=500)
    frame: str | None = None


class SizeView(BaseModel):
    """A value in mm, mm2 or rad, with the line that shows it."""

    key: str
    label: str
    value: float
    dimension: Literal["length", "area", "angle", "number"]
    line: list[Triple]


class SizesView(BaseModel):
    readings: list[SizeView]


class PrintRequest(BaseModel):
    """How a part is handed to a printer: deviation and bed in mm, the steepest lean from upright
    that prints without supports in degrees, the face that lies down."""

    form: Literal["3mf", "stl", "stl-text"] = "3mf"
    deviation: float = 0.05
    bodies: list[str] = []
    lay: bool = True
    down: Pick | None = None
    batch: bool = False
    bed: Triple = (220.0, 220.0, 250.0)
    steepest: float = Field(default=45.0, ge=0, le=90, allow_inf_nan=False)
    #: Walls thinner than this (mm) are told; zero looks for none.
    thin: float = Field(default=0.8, ge=0, le=100, allow_inf_nan=False)


class PrintTrouble(BaseModel):
    """What would go wrong: where it lies on the bed, and where it is in the part (mm)."""

    text: str
    at: Triple | None
    here: Triple | None


class PrintReview(BaseModel):
    """mm, mm2, mm3."""

    triangles: int
    size: Triple
    volume: float
    rests: float
    overhangs: float
    troubles: list[PrintTrouble]


class WeighRequest(BaseModel):
    """Bodies to weigh (none: all), and the reference step inertia is told about."""

    bodies: list[str] = []
    frame: str | None = None


class MassView(BaseModel):
    """g, mm, mm2, mm3; inertia in g mm2: about the centre, about the frame, principal."""

    volume: float
    area: float
    mass: float
    centre: Triple
    inertia: list[Triple]
    about: list[Triple]
    moments: Triple
    axes: list[Triple]


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


class DrawView(BaseModel):
    """The drawing after a tool (not solved yet); `curves` shows what is new or other in it."""

    drawing: Drawing
    touched: list[str]
    curves: list[CurveView]
    read: dict[str, float] = {}
    chain: str | None = None
    #: Why it cannot be done here: no fault while the pointer is still on its way.
    trouble: str | None = None


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


class PlacementView(BaseModel):
    p: Triple
    q: tuple[float, float, float, float]


class ComponentView(BaseModel):
    """Where a component stands: column-major 4x4 `matrix`, mass in g, motions left."""

    id: str
    matrix: list[float]
    freedom: int
    mass: float
    placement: PlacementView


class JointView(BaseModel):
    id: str
    value: float | None
    unit: str
    least: float | None
    most: float | None
    repeats: bool
    trouble: Report | None


class LeafView(BaseModel):
    id: str
    component: str
    path: list[str]
    body: str
    name: str
    key: str
    colour: str
    mass: float
    matrix: list[float]


class AssemblyView(BaseModel):
    """An assembly put together. g, mm; joint values in degrees or mm."""

    revision: int = 0
    components: list[ComponentView]
    joints: list[JointView]
    leaves: list[LeafView]
    freedom: int
    redundant: int
    holds: bool
    mass: float
    centre: Triple | None
    troubles: list[Report]
    parameters: dict[str, ParameterView]


class StudyView(BaseModel):
    revision: int = 0
    part: BuildView
    troubles: list[Report]
    parameters: dict[str, ParameterView]


class DriveRequest(BaseModel):
    """Move a joint to a value (degrees or mm), or pull a point of a component (mm)."""

    revision: int
    placements: dict[str, PlacementView] = {}
    joint: str | None = None
    value: float | None = None
    component: str | None = None
    grip: Triple | None = None
    target: Triple | None = None


class DriveView(BaseModel):
    holds: bool
    components: list[ComponentView]
    joints: dict[str, float]
    stopped: str | None = None


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
