"""Measures and mass properties."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from vireo.server.views.shapes import Triple


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


class WeighRequest(BaseModel):
    """Bodies to weigh, components in an assembly (none: all), and the reference step inertia is told
    about; an assembly may be weighed as it stands in a position kept by name."""

    bodies: list[str] = []
    frame: str | None = None
    position: str | None = None


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
