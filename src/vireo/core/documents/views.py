"""What is kept of looking at a document: named views, and readings that stay in the picture."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from vireo.core.trouble import BadInput

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e7, le=1e7)]
Place = tuple[Number, Number, Number]


class _Data(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class CutPlane(_Data):
    """What lies beyond the plane on the side of its unit normal is taken away; `at` is how far
    along the normal the plane stands (mm)."""

    normal: Place
    at: Number

    @model_validator(mode="after")
    def _unit(self) -> CutPlane:
        if abs(sum(v * v for v in self.normal) - 1.0) > 1e-6:
            raise BadInput("the normal of a section plane has a length of 1")
        return self


class PlanesCut(_Data):
    """One to three planes; with `corner` only what lies beyond them all is taken away."""

    kind: Literal["planes"] = "planes"
    planes: tuple[CutPlane, ...] = Field(min_length=1, max_length=3)
    corner: bool = False


class BoxCut(_Data):
    """Everything outside a box is taken away (mm)."""

    kind: Literal["box"] = "box"
    low: Place
    high: Place


class SavedView(_Data):
    """`height` is what the pane takes in from top to bottom, in mm at the target."""

    name: str = Field(min_length=1, max_length=40)
    eye: Place
    up: Place
    target: Place
    height: float = Field(gt=0, le=1e7, allow_inf_nan=False)
    perspective: bool = False
    style: str = Field(default="shaded", max_length=24)
    way: str = Field(default="+Z", max_length=2)
    threshold: float | None = Field(default=None, allow_inf_nan=False)
    cut: Annotated[PlanesCut | BoxCut, Field(discriminator="kind")] | None = None
    #: Bodies or components that are not shown.
    hidden: tuple[str, ...] = Field(default=(), max_length=5000)
    #: Components that are seen through, and what their colours tell apart: `component`, `material`, or
    #: a property as ``=name``.
    ghosts: tuple[str, ...] = Field(default=(), max_length=5000)
    colours: str = Field(default="component", max_length=80)


class MeasureNote(_Data):
    """A reading that stays: `key` names it among all there are to read of the picks."""

    id: str = Field(pattern=r"^n[0-9]{1,8}$")
    picks: tuple[dict[str, Any], ...] = Field(min_length=1, max_length=200)
    key: str = Field(max_length=24)
    words: str = Field(max_length=60)
