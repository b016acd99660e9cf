"""Files brought in and prints."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from vireo.core.naming import Pick
from vireo.server.views.shapes import Triple


class BroughtFileView(BaseModel):
    """A kept file as the fields of an import step want it."""

    file: str
    source: str
    form: str


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


class StepRowView(BaseModel):
    """A product where it stands in a STEP file: by the number of its definition, how deep, how many,
    whether it holds others."""

    number: int
    name: str
    level: int
    count: int
    holds: bool


class StepTreeView(BaseModel):
    """`key` is what the file is known by for a while; `holds` are the products in each by number;
    `unit` is what it counts lengths in, where it says so."""

    key: str
    unit: str
    holds: dict[int, list[int]]
    rows: list[StepRowView]
    products: int
    faults: list[str]


class StepProductView(BaseModel):
    """A product looked at: a picture (SVG), the sizes of its box (mm), how many solids."""

    picture: str
    size: tuple[float, float, float]
    solids: int


class StepChoice(BaseModel):
    """Products of a file that was sent, by number; all of them without `keep`."""

    key: str = Field(max_length=80)
    name: str = Field(max_length=120)
    keep: list[int] | None = Field(default=None, max_length=100_000)


class BroughtApartView(BaseModel):
    """The document on top of what was brought in, and what could not be."""

    id: str
    parts: int
    assemblies: int
    faults: list[str]
