"""What a sketch is made of, as stored. Knows nothing of solving."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from vireo.core.trouble import BadInput

Id = Annotated[str, Field(min_length=1, max_length=24, pattern=r"^[a-z][a-z0-9_]*$")]
Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e6, le=1e6)]

#: Always there and never free: the sketch's anchor.
ORIGIN, X_AXIS, Y_AXIS = "origin", "x_axis", "y_axis"
ANCHORS = (ORIGIN, X_AXIS, Y_AXIS)


class _Entity(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")
    id: Id
    construction: bool = False


class Point(_Entity):
    type: Literal["point"] = "point"
    x: Number
    y: Number


class Line(_Entity):
    type: Literal["line"] = "line"
    a: Id
    b: Id


class Circle(_Entity):
    type: Literal["circle"] = "circle"
    centre: Id
    radius: Annotated[float, Field(allow_inf_nan=False, gt=0, le=1e6)]


class Arc(_Entity):
    """Counter-clockwise from `start` to `end` about `centre`."""

    type: Literal["arc"] = "arc"
    centre: Id
    start: Id
    end: Id


Entity = Annotated[Point | Line | Circle | Arc, Field(discriminator="type")]


class Constraint(BaseModel):
    """A condition on entities. Dimensions carry a formula; `reference` ones only read out.

    `sense` is the side or direction chosen when it was made; it keeps the solution on its
    branch and is never worked out again. `at` is where the label of a dimension stands.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: Id
    type: str = Field(max_length=24)
    on: tuple[Id, ...] = Field(min_length=1, max_length=4)
    formula: str | None = Field(default=None, max_length=500)
    reference: bool = False
    sense: tuple[int, ...] = ()
    at: tuple[Number, Number] | None = None


class Drawing(BaseModel):
    """Entities and constraints of one sketch, in mm in the sketch's own plane."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    entities: tuple[Entity, ...] = Field(default=(), max_length=20_000)
    constraints: tuple[Constraint, ...] = Field(default=(), max_length=20_000)

    @model_validator(mode="after")
    def _consistent(self) -> Drawing:
        points = {e.id for e in self.entities if isinstance(e, Point)} | {ORIGIN}
        ids = [e.id for e in self.entities] + [c.id for c in self.constraints]
        known = set(ids) | set(ANCHORS)
        if len(set(ids)) != len(ids) or set(ids) & set(ANCHORS):
            twice = next(i for i in ids if ids.count(i) > 1 or i in ANCHORS)
            raise BadInput(f"the id {twice} is used twice in the sketch")
        for e in self.entities:
            for role in ("a", "b", "centre", "start", "end"):
                ref = getattr(e, role, None)
                if ref is not None and ref not in points:
                    raise BadInput(f"{e.id} needs the point {ref}, which is not in the sketch")
        for c in self.constraints:
            for ref in c.on:
                if ref not in known:
                    raise BadInput(f"{c.type} {c.id} needs {ref}, which is not in the sketch")
        return self
