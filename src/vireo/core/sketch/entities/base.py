"""The contract of an entity kind."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, ClassVar, Self

from pydantic import BaseModel, ConfigDict, Field

from vireo.core.curves import Curve2
from vireo.core.sketch.layout import Equations, Layout, Pair
from vireo.core.sketch.residuals import Array

Id = Annotated[str, Field(min_length=1, max_length=24, pattern=r"^[a-z][a-z0-9_]*$")]
Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e6, le=1e6)]
Size = Annotated[float, Field(allow_inf_nan=False, gt=0, le=1e6)]


class EntityBase(BaseModel):
    """One entity as stored. `form` is what constraints see it as: circles and arcs are alike."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    form: ClassVar[str]
    id: Id
    construction: bool = False
    #: The link that brought it from elsewhere: it stays where its source is.
    source: Id | None = None

    def stands_on(self) -> tuple[str, ...]:
        """Ids of the points it is made of."""
        return ()

    def enter(self, layout: Layout) -> None:
        """Put its variables into the layout."""

    def inner(self, layout: Layout) -> Equations:
        """What always holds inside it (the ends of an arc lie on its circle)."""
        return Equations()

    def moved(self, layout: Layout, p: Array) -> Self:
        """Itself with the numbers (mm) a solution gives it."""
        return self

    def curve(self, at: Mapping[str, Pair]) -> Curve2 | None:
        """Its curve with its points at given places; None for a point."""
        return None

    def renamed(self, names: Mapping[str, str]) -> Self:
        """A copy standing on other points, under another id."""
        data = self.model_dump()
        for key, value in data.items():
            if key in ("type", "construction", "source"):
                continue
            if isinstance(value, str):
                data[key] = names.get(value, value)
            elif isinstance(value, tuple | list):
                data[key] = [names.get(v, v) if isinstance(v, str) else v for v in value]
        return type(self).model_validate(data)
