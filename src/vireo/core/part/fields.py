"""Field types of step kinds. Each carries what the editor, quick entry and help need.

A field is declared once, in the step kind; its unit, limits, label and the geometry it accepts
travel in the JSON schema under ``vireo``.
"""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from vireo.core.naming import Pick
from vireo.core.quantity import DIMENSIONS


class StepFields(BaseModel):
    """Base of the fields of a step kind."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Offset(BaseModel):
    """A length as a formula; negative goes the other way."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    formula: str = Field(max_length=500)


class PlaneRef(BaseModel):
    """Where a sketch lies: a base plane (XY, XZ, YZ) or a planar face of a body, shifted along
    its normal by `offset` when there is one."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    base: str | None = "XY"
    face: Pick | None = None
    offset: Offset | None = None


class Brought(BaseModel):
    """Geometry a sketch takes from a body: the picked edge, the outline of a face, a corner."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: str = Field(min_length=1, max_length=12, pattern=r"^[a-z][a-z0-9]*$")
    pick: Pick


class RegionPick(BaseModel):
    """A region of a sketch by its id, with where it was (mm) for proposing a repair."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: str = Field(max_length=40)
    at: tuple[float, float] = (0.0, 0.0)
    area: float = 0.0


def _meta(kind: str, label: str, **more: Any) -> dict[str, Any]:
    return {"vireo": {"type": kind, "label": label, **more}}


def quantity(
    dimension: str,
    label: str,
    default: str,
    *,
    least: float | None = None,
    above: float | None = None,
    most: float | None = None,
    when: dict[str, list[str]] | None = None,
    key: str = "",
) -> Any:
    """A formula of one dimension. Limits in mm, degrees or plain numbers; `above` excludes.

    `when` shows (and uses) the field only for those values of another field; `key` is the
    short word quick entry and cards put before the number.
    """
    if dimension not in DIMENSIONS:
        raise ValueError(f"no dimension {dimension}")
    meta = _meta(
        "quantity", label, dimension=dimension, least=least, above=above, most=most, when=when,
        key=key,
    )  # fmt: skip
    return Field(default=default, max_length=500, json_schema_extra=meta)


def length(label: str, default: str, **limits: Any) -> Any:
    return quantity("length", label, default, **limits)


def choice(label: str, default: str, words: dict[str, str], **more: Any) -> Any:
    """One of several; `words` are what the buttons say."""
    return Field(default=default, json_schema_extra=_meta("choice", label, words=words, **more))


def toggle(label: str, default: bool = False, **more: Any) -> Any:
    return Field(default=default, json_schema_extra=_meta("toggle", label, **more))


def sketch(label: str = "Sketch") -> Any:
    """The id of an earlier sketch step."""
    return Field(max_length=24, json_schema_extra=_meta("sketch", label))


def regions(of: str, label: str = "Regions") -> Any:
    """Regions of the sketch named in field `of`; none chosen means all but the holes."""
    meta = _meta("regions", label, of=of)
    return Field(default=(), max_length=500, json_schema_extra=meta)


def points(of: str, label: str = "Points") -> Any:
    """Loose points of the sketch named in field `of`; none chosen means all of them."""
    meta = _meta("points", label, of=of)
    return Field(default=(), max_length=500, json_schema_extra=meta)


def picks(label: str, accepts: str, hint: str) -> Any:
    """Picked faces, edges or vertices."""
    meta = _meta("picks", label, accepts=accepts, hint=hint)
    return Field(min_length=1, max_length=2000, json_schema_extra=meta)


def bodies(label: str = "Into", **more: Any) -> Any:
    """Ids of bodies the step works on; none means those it meets."""
    return Field(default=(), max_length=100, json_schema_extra=_meta("bodies", label, **more))


def hidden(kind: str, default: Any = ..., **more: Any) -> Any:
    """A field with an editor of its own (a drawing, a plane, a stored file)."""
    return Field(default=default, json_schema_extra=_meta(kind, "", **more))
