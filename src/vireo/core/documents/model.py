"""What is stored: documents of every kind, with stable ids and a schema version."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import (
    BaseModel,
    ConfigDict,
    Field,
    TypeAdapter,
    ValidationError,
    model_validator,
)

from vireo.core.documents.frames import JointEnd, Placement
from vireo.core.documents.views import MeasureNote, SavedView
from vireo.core.material import DEFAULT
from vireo.core.naming import Pick
from vireo.core.quantity import Parameter
from vireo.core.quantity.shown import PLAIN as PLAIN_UNITS
from vireo.core.quantity.shown import Units
from vireo.core.trouble import BadInput

Name = Annotated[str, Field(min_length=1, max_length=80)]
Formula = Annotated[str, Field(max_length=500)]
Id = Annotated[str, Field(min_length=1, max_length=24, pattern=r"^[a-z][a-z0-9_]*$")]


class _Data(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Check(_Data):
    """A saved rule: `kind` names an entry of the check registry, `limit` what it is held to."""

    id: Id
    kind: str = Field(max_length=24)
    name: Name
    fields: dict[str, Any] = Field(default_factory=dict)
    relation: Literal["at_most", "at_least"] = "at_most"
    limit: Formula


class _Document(_Data):
    schema_version: Literal[1] = 1
    name: Name
    #: What it shows and reads; values and formulas are stored as they are.
    units: Units = PLAIN_UNITS
    parameters: tuple[Parameter, ...] = Field(default=(), max_length=2000)
    checks: tuple[Check, ...] = Field(default=(), max_length=500)
    views: tuple[SavedView, ...] = Field(default=(), max_length=200)
    notes: tuple[MeasureNote, ...] = Field(default=(), max_length=500)
    #: Ids are handed out once and never again.
    last_id: int = 0


class Mended(_Data):
    """A pick that was put in place of a lost one, how alike they are (0 to 1)."""

    was: Pick
    now: Pick
    score: float = Field(ge=0, le=1, allow_inf_nan=False)


class Step(_Data):
    id: Id
    kind: str = Field(max_length=24)
    name: Name
    asleep: bool = False
    fields: dict[str, Any] = Field(default_factory=dict)
    #: Mass in grams, or volume in mm3, the part should have after this step; the first miss is
    #: flagged.
    target: float | None = Field(default=None, gt=0, allow_inf_nan=False)
    target_volume: float | None = Field(default=None, gt=0, allow_inf_nan=False)
    #: Mended picks nobody has looked at yet.
    mended: tuple[Mended, ...] = Field(default=(), max_length=5000)


Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]


class Look(_Data):
    """What is kept of a body besides its shape; what is None follows the part."""

    body: str = Field(min_length=1, max_length=60)
    name: Name | None = None
    material: str | None = Field(default=None, max_length=40)
    colour: Colour | None = None
    opacity: float = Field(default=1.0, ge=0.05, le=1.0, allow_inf_nan=False)
    #: Mass in grams it counts with instead of volume by density: bought-in parts.
    mass: float | None = Field(default=None, gt=0, le=1e9, allow_inf_nan=False)
    #: A tool has no mass and is not handed over; None is what made it says.
    tool: bool | None = None


class Paint(_Data):
    """A colour on a face, or on all faces of a set."""

    pick: Pick
    colour: Colour


class Part(_Document):
    kind: Literal["part"] = "part"
    #: Offered as a start for new parts.
    template: bool = False
    material: str = DEFAULT
    steps: tuple[Step, ...] = Field(default=(), max_length=5000)
    looks: tuple[Look, ...] = Field(default=(), max_length=2000)
    paints: tuple[Paint, ...] = Field(default=(), max_length=5000)
    #: How many steps are built; None is all of them.
    marker: int | None = Field(default=None, ge=0)

    def step(self, id: str) -> Step | None:
        return next((s for s in self.steps if s.id == id), None)

    def look(self, body: str) -> Look:
        """What is kept of a body; plain when nothing is."""
        return next((x for x in self.looks if x.body == body), Look(body=body))

    def body_name(self, body: str) -> str:
        """What a body is called: by its own name, else after the step it came from."""
        if own := self.look(body).name:
            return own
        maker, *rest = body[2:].split("_")
        step = self.step(maker)
        return " ".join([step.name if step else body, *rest])[:80]


class Component(_Data):
    """An occurrence of a part or assembly."""

    id: Id
    name: Name
    document: str = Field(max_length=40)
    anchored: bool = False
    placement: Placement = Placement()
    tag: str = Field(default="", max_length=40)


class Joint(_Data):
    """A kinematic pair. `value` is where it is driven to, in mm or degrees as a formula."""

    id: Id
    kind: Literal["rigid", "revolute", "slider"]
    name: Name
    a: JointEnd
    b: JointEnd
    flip: bool = False
    offset: Formula = "0 mm"
    least: Formula | None = None
    most: Formula | None = None
    value: Formula | None = None
    asleep: bool = False


class Assembly(_Document):
    kind: Literal["assembly"] = "assembly"
    components: tuple[Component, ...] = Field(default=(), max_length=5000)
    joints: tuple[Joint, ...] = Field(default=(), max_length=5000)

    def component(self, id: str) -> Component | None:
        return next((c for c in self.components if c.id == id), None)

    def joint(self, id: str) -> Joint | None:
        return next((j for j in self.joints if j.id == id), None)


class Support(_Data):
    """Faces and edges that are held.

    `all` holds them still, `across` lets faces slide in themselves (rollers, planes of
    symmetry), `chosen` holds the ticked ones of X, Y and Z.
    """

    id: Id
    name: Name
    faces: tuple[Pick, ...] = Field(default=(), max_length=500)
    edges: tuple[Pick, ...] = Field(default=(), max_length=500)
    hold: Literal["all", "across", "chosen"] = "all"
    ways: tuple[bool, bool, bool] = (True, True, True)

    @model_validator(mode="after")
    def _sensible(self) -> Support:
        if not self.faces and not self.edges:
            raise BadInput("a support needs the faces or edges it holds")
        if self.hold == "across" and self.edges:
            raise BadInput("an edge has no face to slide in; choose the directions it is held in")
        if self.hold == "chosen" and not any(self.ways):
            raise BadInput("this support holds no direction; tick X, Y or Z")
        return self


class Load(_Data):
    """A force spread over faces (N, in X, Y, Z), a pressure on faces, or gravity."""

    id: Id
    kind: Literal["force", "pressure", "gravity"]
    name: Name
    faces: tuple[Pick, ...] = Field(default=(), max_length=500)
    size: Formula
    direction: tuple[float, float, float] = (0.0, 0.0, -1.0)


class Study(_Document):
    """Linear static strength of one body of a part."""

    kind: Literal["study"] = "study"
    part: str = Field(max_length=40)
    supports: tuple[Support, ...] = Field(default=(), max_length=200)
    loads: tuple[Load, ...] = Field(default=(), max_length=200)
    #: Element size; None lets the mesher choose for the part.
    mesh_size: Formula | None = None


Document = Annotated[Part | Assembly | Study, Field(discriminator="kind")]
_ADAPTER: TypeAdapter[Part | Assembly | Study] = TypeAdapter(Document)


def load_document(data: Any) -> Part | Assembly | Study:
    """A document from its JSON. Raises BadInput with the first thing wrong with it."""
    try:
        return _ADAPTER.validate_python(data)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(p) for p in first["loc"])
        raise BadInput(f"this document cannot be read: {place}: {first['msg']}") from error


def new_document(kind: str, name: str, **more: Any) -> Part | Assembly | Study:
    return load_document({"kind": kind, "name": name, **more})


def dump(document: Part | Assembly | Study) -> dict[str, Any]:
    """Plain, sorted JSON of a document; loading it gives the same document."""
    data: dict[str, Any] = document.model_dump(mode="json")
    return data
