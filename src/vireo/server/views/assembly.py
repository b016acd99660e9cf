"""Assemblies put together and driven, studies."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from vireo.core.documents.frames import JointEnd
from vireo.core.documents.kinds.assembly import WeighedWord
from vireo.core.trouble import Report
from vireo.server.views.parameters import ParameterView
from vireo.server.views.part import BuildView
from vireo.server.views.shapes import Triple


class PlacementView(BaseModel):
    p: Triple
    q: tuple[float, float, float, float]


class ComponentView(BaseModel):
    """Where a component stands, or one inside an assembly that goes by its own joints (``c2/c4``,
    placed in that assembly): column-major 4x4 `matrix`, mass in g, motions left."""

    id: str
    matrix: list[float]
    freedom: int
    mass: float
    placement: PlacementView


class CoordinateView(BaseModel):
    """What a joint leaves to move, in its unit (degrees or mm)."""

    name: str
    label: str
    unit: str
    value: float
    least: float | None
    most: float | None


class JointView(BaseModel):
    """A joint as it stands, `inner` when it is one of an assembly inside. `repeats`: others say it
    already, in part; `turning`: its linkage stands at a change point and may go on in two ways;
    `flipped`: it holds against its ends."""

    id: str
    name: str
    kind: str
    inner: bool
    coordinates: list[CoordinateView]
    repeats: bool
    turning: bool
    flipped: bool
    trouble: Report | None


class CarryView(BaseModel):
    """A motion a copy goes by while `about` (a component, or the assembly) stands where it was."""

    about: str | None
    matrix: list[float]


class CopiesView(BaseModel):
    """What became of copies: the numbers there are, the original has 1."""

    id: str
    numbers: list[int]
    note: str
    trouble: Report | None


class LeafView(BaseModel):
    """A body where it stands. `names` are what the components that lead to it are called, `colour`
    tells components apart, `plain` is that of its material or its own. It goes with the component
    `member`, a copy by `carried` besides, the last motion last."""

    id: str
    component: str
    path: list[str]
    body: str
    document: str
    name: str
    names: list[str]
    member: str
    carried: list[CarryView]
    key: str
    colour: str
    plain: str
    mass: float
    reference: bool = False
    matrix: list[float]


class WeighedView(BaseModel):
    """A weighed number: `value` in the base units of formulas (mm, kg), or why there is none."""

    id: str
    name: str
    what: WeighedWord
    components: list[str]
    position: str | None
    value: float | None
    shown: str | None
    trouble: str


class AssemblyView(BaseModel):
    """An assembly put together. g, mm; joint values in degrees or mm."""

    revision: int = 0
    components: list[ComponentView]
    joints: list[JointView]
    leaves: list[LeafView]
    copies: list[CopiesView]
    #: The components that lead to each copy.
    occurrences: list[list[str]]
    #: What is said of documents, by their ids.
    properties: dict[str, dict[str, str]]
    #: What the members of documents are called that components are, where those are not as drawn.
    members: dict[str, str]
    freedom: int
    redundant: int
    holds: bool
    mass: float
    centre: Triple | None
    troubles: list[Report]
    parameters: dict[str, ParameterView]
    weighed: list[WeighedView]


class StudyView(BaseModel):
    revision: int = 0
    part: BuildView
    troubles: list[Report]
    parameters: dict[str, ParameterView]


class Gather(BaseModel):
    """Components to make an assembly of, and what that is called."""

    base: int
    components: list[str] = Field(min_length=2, max_length=5000)
    name: str = Field(min_length=1, max_length=80)


class Opposite(BaseModel):
    """Components whose opposite parts are to be made, and the plane between: picked, or across an axis
    of the assembly."""

    base: int
    components: list[str] = Field(min_length=1, max_length=200)
    of: JointEnd | None = None
    axis: Literal["X", "Y", "Z"] = "X"


class Dissolve(BaseModel):
    base: int
    component: str


class Replace(BaseModel):
    """Another document for a component."""

    component: str
    document: str


class KeptReplace(Replace):
    base: int


class FoundEndView(BaseModel):
    """What became of an end of a joint or of copies: `how` it was found again (port, name, likeness
    with a score of 0 to 1), or that it is lost, with the best there is."""

    id: str
    side: str
    title: str
    how: Literal["port", "name", "likeness", "lost"]
    score: float
    end: JointEnd | None


class ReplaceView(BaseModel):
    ends: list[FoundEndView]
    assembly: AssemblyView


class SnapView(BaseModel):
    """A place where a component fits by its ports: what joins it there, and where it stands then."""

    title: str
    commands: list[dict[str, Any]]
    placement: PlacementView


class SnapsView(BaseModel):
    places: list[SnapView]


class ApartStepView(BaseModel):
    components: list[str]
    by: Triple


class ApartView(BaseModel):
    """What comes off at each step, and by how much in all (mm)."""

    steps: list[ApartStepView]


class DriveRequest(BaseModel):
    """Move a joint to a value (degrees or mm) of a coordinate (its first when none is named), or
    pull a point of a component (mm)."""

    revision: int
    placements: dict[str, PlacementView] = {}
    joint: str | None = None
    coordinate: str | None = None
    value: float | None = None
    component: str | None = None
    grip: Triple | None = None
    target: Triple | None = None
    #: As far as nothing is met; with nothing to move it is only made ready for that.
    contact: bool = False


class MeetView(BaseModel):
    """What meets, by leaves and faces; or what is nearest to each other and by how much (mm)."""

    a: str
    b: str
    met: bool
    gap: float
    faces_a: list[str]
    faces_b: list[str]


class DriveView(BaseModel):
    holds: bool
    components: list[ComponentView]
    joints: dict[str, dict[str, float]]
    stopped: str | None = None
    meets: MeetView | None = None
