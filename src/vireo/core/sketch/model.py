"""What a sketch is made of, as stored. Knows nothing of solving."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, ClassVar

from pydantic import BaseModel, ConfigDict, Field, model_validator

from vireo.core.quantity import Formula
from vireo.core.sketch.entities.base import Id, Number
from vireo.core.sketch.entities.circle import Arc, Circle
from vireo.core.sketch.entities.ellipse import Ellipse, EllipticArc
from vireo.core.sketch.entities.line import Line
from vireo.core.sketch.entities.parallel import Parallel
from vireo.core.sketch.entities.point import Point
from vireo.core.sketch.entities.spline import Conic, ControlSpline, Spline
from vireo.core.sketch.entities.text import Text
from vireo.core.sketch.seats import ANCHORS, ORIGIN, X_AXIS, Y_AXIS
from vireo.core.trouble import BadInput

#: A new kind of entity is its file and its name here.
Entity = Annotated[
    Point
    | Line
    | Circle
    | Arc
    | Ellipse
    | EllipticArc
    | Spline
    | ControlSpline
    | Conic
    | Parallel
    | Text,
    Field(discriminator="type"),
]


class Constraint(BaseModel):
    """A condition on entities. Dimensions carry a formula; `reference` ones only read out.

    `sense` is the side or direction chosen when it was made; it keeps the solution on its
    branch and is never worked out again. `at` is where the label of a dimension stands.
    `linked` names the link it belongs to: such constraints come in bundles and may say a thing
    twice without harm.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: Id
    type: str = Field(max_length=24)
    on: tuple[Id, ...] = Field(min_length=1, max_length=4)
    formula: Formula | None = None
    reference: bool = False
    sense: tuple[int, ...] = ()
    at: tuple[Number, Number] | None = None
    linked: Id | None = None


class Typed(BaseModel):
    """What was typed for one of a tool's sizes."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    name: str = Field(max_length=24)
    formula: Formula


class Link(BaseModel):
    """Copies that follow what they were made from: `tool` on `on`, with its formulas.

    The k-th copy of entity e is called ``<e>_<link>_<k>``; those in `skips` are left out.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: Id
    tool: str = Field(max_length=24)
    on: tuple[Id, ...] = Field(min_length=1, max_length=2000)
    about: Id
    texts: tuple[Typed, ...] = Field(default=(), max_length=20)
    skips: tuple[int, ...] = ()

    #: Sizes of tools that link which hold words and lists, and no formulas.
    PLAIN: ClassVar[frozenset[str]] = frozenset({"back", "skips"})

    def with_formulas(self, change: Callable[[str], str]) -> Link:
        """The link with its formulas put through a function."""
        texts = tuple(
            t if t.name in self.PLAIN else t.model_copy(update={"formula": change(t.formula)})
            for t in self.texts
        )
        return self if texts == self.texts else self.model_copy(update={"texts": texts})


class Drawing(BaseModel):
    """Entities and constraints of one sketch, in mm in the sketch's own plane."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    entities: tuple[Entity, ...] = Field(default=(), max_length=20_000)
    constraints: tuple[Constraint, ...] = Field(default=(), max_length=20_000)
    links: tuple[Link, ...] = Field(default=(), max_length=500)

    @model_validator(mode="after")
    def _consistent(self) -> Drawing:
        points = {e.id for e in self.entities if e.form == "point"} | {ORIGIN}
        forms = {e.id: e.form for e in self.entities}
        ids = [e.id for e in self.entities] + [c.id for c in self.constraints]
        known = set(ids) | set(ANCHORS)
        if len(set(ids)) != len(ids) or set(ids) & set(ANCHORS):
            twice = next(i for i in ids if ids.count(i) > 1 or i in ANCHORS)
            raise BadInput(f"the id {twice} is used twice in the sketch")
        for e in self.entities:
            for ref in e.stands_on():
                if ref not in points:
                    raise BadInput(f"{e.id} needs the point {ref}, which is not in the sketch")
            for ref in e.leans_on():
                if forms.get(ref) not in ("spline", "ellipse"):
                    raise BadInput(f"{e.id} follows {ref}, which is no free curve of the sketch")
        for c in self.constraints:
            for ref in c.on:
                if ref not in known:
                    raise BadInput(f"{c.type} {c.id} needs {ref}, which is not in the sketch")
        return self


__all__ = [
    "ANCHORS", "ORIGIN", "X_AXIS", "Y_AXIS", "Arc", "Circle", "Conic", "Constraint",
    "ControlSpline", "Drawing", "Ellipse", "EllipticArc", "Entity", "Line", "Link", "Parallel", "Point", "Spline",
    "Text",
]  # fmt: skip
