"""Field types of step kinds. Each carries what the editor, quick entry and help need.

A field is declared once, in the step kind; its unit, limits, label and the geometry it accepts
travel in the JSON schema under ``vireo``.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from vireo.core.naming import Pick
from vireo.core.quantity import DIMENSIONS, Formula
from vireo.core.trouble import BadInput

#: What a plain number of a dimension is in.
_PLAIN_UNIT = {"length": " mm", "angle": " deg"}


class StepFields(BaseModel):
    """Base of the fields of a step kind."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    @model_validator(mode="before")
    @classmethod
    def _numbers_are_formulas(cls, data: Any) -> Any:
        """A number where a formula stands is in mm, degrees, or plain."""
        if not isinstance(data, dict):
            return data
        found = dict(data)
        for key, value in data.items():
            if isinstance(value, int | float) and not isinstance(value, bool):
                field = cls.model_fields.get(key)
                extra = field.json_schema_extra if field else None
                meta = extra.get("vireo", {}) if isinstance(extra, dict) else {}
                if isinstance(meta, dict) and meta.get("type") == "quantity":
                    found[key] = f"{value!r}{_PLAIN_UNIT.get(str(meta.get('dimension')), '')}"
        return found


class Offset(BaseModel):
    """A length as a formula; negative goes the other way."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    formula: Formula


class PlaneRef(BaseModel):
    """Where a sketch lies: a base plane (XY, XZ, YZ), a planar face of a body or a plane step,
    turned by `angle` about a straight edge, shifted along its normal by `offset` when there is
    one."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    base: str | None = "XY"
    face: Pick | None = None
    plane: str | None = Field(default=None, max_length=24)
    edge: Pick | None = None
    angle: Offset | None = None
    offset: Offset | None = None

    @model_validator(mode="before")
    @classmethod
    def _told_shortly(cls, data: Any) -> Any:
        """A base plane or the id of a plane step as a word, a picked face as it is."""
        if isinstance(data, str):
            # Ids of steps are a letter and a number; what is neither is told when it is built.
            step = data[:1] == "s" and data[1:].isdigit()
            return {"base": None, "plane": data} if step else {"base": data}
        if isinstance(data, dict) and data.get("kind") == "face":
            return {"base": None, "face": data}
        return data


class Spot(BaseModel):
    """A place on a face: X, Y, Z of the part as formulas, dropped onto the face."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: str = Field(min_length=1, max_length=12, pattern=r"^[a-z][a-z0-9]*$")
    face: Pick
    at: tuple[Offset, Offset, Offset]


class Sized(BaseModel):
    """Picks with a size of their own, as a formula."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    picks: tuple[Pick, ...] = Field(default=(), max_length=2000)
    size: Offset


class Varied(BaseModel):
    """A number of a copied step that grows by a formula from each copy to the next."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    step: str = Field(max_length=24)
    field: str = Field(max_length=40)
    by: Offset


class LayoutItem(BaseModel):
    """A curve of a 2D layout by its key, with what it looked like (mm, in the file)."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    key: str = Field(min_length=1, max_length=80)
    form: str = ""
    layer: str = ""
    at: tuple[float, float] = (0.0, 0.0)
    length: float = 0.0


class LayoutPick(BaseModel):
    """Curves taken from an underlay of the sketch."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    underlay: str = Field(max_length=12)
    items: tuple[LayoutItem, ...] = Field(min_length=1, max_length=2000)


class Brought(BaseModel):
    """Geometry a sketch takes from elsewhere and follows: `way` says what is taken of a pick on
    a body, of a whole body, of another sketch (all of it or some curves), or of a layout."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: str = Field(min_length=1, max_length=12, pattern=r"^[a-z][a-z0-9]*$")
    way: str = Field(default="seen", max_length=24)
    pick: Pick | None = None
    body: str | None = Field(default=None, max_length=40)
    sketch: str | None = Field(default=None, max_length=24)
    curves: tuple[str, ...] = Field(default=(), max_length=2000)
    layout: LayoutPick | None = None

    @model_validator(mode="after")
    def _one_source(self) -> Brought:
        given = [x for x in (self.pick, self.body, self.sketch, self.layout) if x is not None]
        if len(given) != 1:
            raise BadInput("a link takes from one place: a pick, a body, a sketch or a layout")
        return self

    @property
    def takes(self) -> str:
        """What it is taken from: face, edge, vertex, body, curve (of a sketch) or layout."""
        if self.pick is not None:
            return self.pick.kind
        return "body" if self.body else "curve" if self.sketch else "layout"


class Underlay(BaseModel):
    """A 2D file lying under a sketch: scaled, turned by `turn` (degrees), then shifted to `at`."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: str = Field(min_length=1, max_length=12, pattern=r"^[a-z][a-z0-9]*$")
    file: str = Field(max_length=80)
    source: str = Field(default="", max_length=160)
    at: tuple[float, float] = (0.0, 0.0)
    turn: float = Field(default=0.0, allow_inf_nan=False, ge=-360, le=360)
    scale: float = Field(default=1.0, allow_inf_nan=False, gt=1e-6, le=1e6)
    hidden: tuple[str, ...] = Field(default=(), max_length=2000)
    shown: bool = True


class RegionPick(BaseModel):
    """A region of a sketch by its id, with where it was (mm) for proposing a repair."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: str = Field(max_length=40)
    at: tuple[float, float] = (0.0, 0.0)
    area: float = 0.0
    #: The curves that bounded it: what they part off by themselves is what was picked.
    curves: tuple[str, ...] = Field(default=(), max_length=20_000)


def told_of(model: type[BaseModel]) -> dict[str, dict[str, Any]]:
    """What is told of each field of a step kind: its type, label, unit, limits and the like."""
    return _told(model)


@lru_cache(maxsize=1024)
def _told(model: Any) -> dict[str, dict[str, Any]]:
    found = {}
    for name, spec in model.model_fields.items():
        extra: Any = spec.json_schema_extra or {}
        found[name] = extra.get("vireo", {})
    return found


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


def name(label: str, default: str) -> Any:
    """A name as formulas use them."""
    return Field(
        default=default, max_length=40, pattern=r"^[A-Za-z_][A-Za-z0-9_]*$",
        json_schema_extra=_meta("name", label),
    )  # fmt: skip


def sketch(label: str = "Sketch") -> Any:
    """The id of an earlier sketch step."""
    return Field(max_length=24, json_schema_extra=_meta("sketch", label))


def later_sketch(label: str, **more: Any) -> Any:
    """The id of an earlier sketch step that is not always asked for."""
    return Field(default="", max_length=24, json_schema_extra=_meta("sketch", label, **more))


def sketches(label: str, hint: str, **more: Any) -> Any:
    """Ids of earlier sketch steps, in order."""
    meta = _meta("sketches", label, hint=hint, **more)
    return Field(default=(), max_length=100, json_schema_extra=meta)


def regions(of: str, label: str = "Regions", **more: Any) -> Any:
    """Regions of the sketch named in field `of`; none chosen means all but the holes."""
    meta = _meta("regions", label, of=of, **more)
    return Field(default=(), max_length=500, json_schema_extra=meta)


def curves(of: str, label: str, **more: Any) -> Any:
    """Curves of the sketch named in field `of`; none chosen means all of them."""
    meta = _meta("curves", label, of=of, **more)
    return Field(default=(), max_length=2000, json_schema_extra=meta)


def axis(of: str, label: str) -> Any:
    """A line of the sketch named in field `of`, or one of its axes."""
    return Field(default="y_axis", max_length=24, json_schema_extra=_meta("axis", label, of=of))


def points(of: str, label: str = "Points", **more: Any) -> Any:
    """Loose points of the sketch named in field `of`; none chosen means all of them."""
    meta = _meta("points", label, of=of, **more)
    return Field(default=(), max_length=500, json_schema_extra=meta)


def picks(label: str, accepts: str, hint: str, **more: Any) -> Any:
    """Picked faces, edges or vertices; at least one, unless the field is not always shown."""
    meta = _meta("picks", label, accepts=accepts, hint=hint, **more)
    if more.get("when") or more.get("free"):
        return Field(default=(), max_length=2000, json_schema_extra=meta)
    return Field(min_length=1, max_length=2000, json_schema_extra=meta)


def bodies(label: str = "Into", **more: Any) -> Any:
    """Ids of bodies the step works on; none means those it meets."""
    return Field(default=(), max_length=100, json_schema_extra=_meta("bodies", label, **more))


def steps(label: str, **more: Any) -> Any:
    """Ids of earlier steps that did something with a shape of their own."""
    return Field(default=(), max_length=100, json_schema_extra=_meta("steps", label, **more))


def any_steps(label: str, **more: Any) -> Any:
    """Ids of earlier steps of any kind that makes faces."""
    meta = _meta("steps", label, any=True, **more)
    return Field(default=(), max_length=100, json_schema_extra=meta)


def spots(label: str, hint: str, **more: Any) -> Any:
    """Places on faces, clicked or typed."""
    return Field(
        default=(), max_length=500, json_schema_extra=_meta("spots", label, hint=hint, **more)
    )


def sized(label: str, accepts: str, hint: str, **more: Any) -> Any:
    """Groups of picks, each with a length of its own."""
    meta = _meta("sized", label, accepts=accepts, hint=hint, dimension="length", **more)
    return Field(default=(), max_length=50, json_schema_extra=meta)


def varied(label: str, **more: Any) -> Any:
    """Numbers of the copied steps that grow along the copies."""
    return Field(default=(), max_length=20, json_schema_extra=_meta("varied", label, **more))


def numbers(label: str, **more: Any) -> Any:
    """Whole numbers, typed as a list."""
    return Field(default=(), max_length=500, json_schema_extra=_meta("numbers", label, **more))


#: What may become of a grown shape.
Result = Literal["new", "add", "cut", "overlap"]


def result(**more: Any) -> Any:
    """What becomes of the shape a step makes."""
    words = {"new": "New body", "add": "Add", "cut": "Cut", "overlap": "Overlap"}
    return choice("Result", "new", words, **more)


def into(when: dict[str, list[str]] | None = None) -> Any:
    """The bodies it is added to, cut from or overlapped with."""
    return bodies("Into", when={"result": ["add", "cut", "overlap"], **(when or {})})


def part(label: str) -> Any:
    """The document id of another part of the project."""
    return Field(max_length=40, json_schema_extra=_meta("part", label))


def member(label: str, of: str) -> Any:
    """Which member of the part named in field `of` is meant; none is what it is as drawn."""
    return Field(default=None, json_schema_extra=_meta("member", label, of=of))


def part_body(label: str, of: str) -> Any:
    """A body of the part named in field `of`; none means all of them."""
    return Field(default="", max_length=60, json_schema_extra=_meta("part_body", label, of=of))


def csv(label: str, hint: str, **more: Any) -> Any:
    """The text of a table, from a file."""
    return Field(
        default="", max_length=200_000, json_schema_extra=_meta("csv", label, hint=hint, **more)
    )


def stock(label: str, sets: tuple[str, ...], **more: Any) -> Any:
    """The name of what was taken from the library of sheet rules: taking it sets other fields, and these count."""
    return Field(
        default="", max_length=80, json_schema_extra=_meta("stock", label, sets=list(sets), **more)
    )


#: What each type of field holds, for declaring it again from what is told of it.
_HOLDS: dict[str, Any] = {
    "quantity": Formula, "toggle": bool, "name": str, "sketch": str, "axis": str, "part": str, "part_body": str,
    "csv": str, "stock": str,
    "sketches": tuple[str, ...], "steps": tuple[str, ...], "bodies": tuple[str, ...],
    "points": tuple[str, ...], "curves": tuple[str, ...], "regions": tuple[RegionPick, ...],
    "picks": tuple[Pick, ...], "spots": tuple[Spot, ...], "varied": tuple[Varied, ...],
    "sized": tuple[Sized, ...],
    "numbers": tuple[int, ...],
}  # fmt: skip


def redeclared(told: dict[str, Any]) -> tuple[Any, Any]:
    """Type and field of a pydantic model from the description of a field."""
    meta = {k: v for k, v in told.items() if k not in ("name", "default")}
    holds = _HOLDS.get(told["type"], Any)
    if told["type"] == "choice":
        holds = str if told.get("datums") else Literal[tuple(told["words"])]
    default = ... if told["default"] is None else told["default"]
    return holds, Field(default=default, json_schema_extra={"vireo": meta}, validate_default=False)


def frozen(label: str) -> Any:
    """What was taken from around the part in its assembly, as it was then."""
    return Field(default=(), max_length=200, json_schema_extra=_meta("frozen", label))


def hidden(kind: str, default: Any = ..., **more: Any) -> Any:
    """A field with an editor of its own (a drawing, a plane, a stored file)."""
    return Field(default=default, json_schema_extra=_meta(kind, "", **more))
