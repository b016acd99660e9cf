"""Hardware: the standards there are, what is put into a hole."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from vireo.core.documents.frames import JointEnd
from vireo.server.views.assembly import AssemblyView


class StandardView(BaseModel):
    """`lengths` says whether one has a length of its own."""

    standard: str
    label: str
    role: Literal["screw", "washer", "nut", "pin", "ring"]
    system: Literal["metric", "inch"]
    sizes: list[str]
    lengths: bool


class StandardsView(BaseModel):
    standards: list[StandardView]


class HardwareWish(BaseModel):
    """What is put where: `end` is the round edge it sits at. An empty size and a length of nothing
    (mm) are chosen from the hole; `alike` puts it into all holes alike as well."""

    end: JointEnd
    standard: str = "ISO 4762"
    size: str = ""
    length: float = Field(default=0.0, ge=0, le=1000, allow_inf_nan=False)
    washer: bool = True
    nut: bool = True
    alike: bool = False


class HardwareKept(HardwareWish):
    base: int


class BoreView(BaseModel):
    diameter: float
    start: float
    end: float
    name: str


class HardwareItemView(BaseModel):
    title: str
    name: str
    far: bool


class HardwareView(BaseModel):
    """What would go in (mm): the hole, the pieces from the head on, and how all would stand."""

    diameter: float
    bores: list[BoreView]
    through: bool
    alike: int
    items: list[HardwareItemView]
    size: str
    sizes: list[str]
    length: float
    lengths: list[float]
    grip: float
    held: float
    tapped: bool
    notes: list[str]
    assembly: AssemblyView
