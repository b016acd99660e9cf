"""The contract of an entity kind."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Self

from pydantic import BaseModel, ConfigDict, Field

from vireo.core.curves import Curve2
from vireo.core.sketch.residuals import Array
from vireo.core.sketch.seats import Equations, Pair, Seats

Id = Annotated[str, Field(min_length=1, max_length=24, pattern=r"^[a-z][a-z0-9_]*$")]
#: Sketches end here (mm).
FARTHEST = 1e6
Number = Annotated[float, Field(allow_inf_nan=False, ge=-FARTHEST, le=FARTHEST)]
Size = Annotated[float, Field(allow_inf_nan=False, gt=0, le=FARTHEST)]


#: Fields that hold words, not ids.
_WORDS = frozenset({"type", "construction", "source", "text", "font"})


class EntityBase(BaseModel):
    """One entity as stored. `form` is what constraints see it as: circles and arcs are alike."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    form: ClassVar[str]
    #: Whether it is just one curve: what trims, offsets and the like can work on.
    one_curve: ClassVar[bool] = True
    id: Id
    construction: bool = False
    #: The link that brought it from elsewhere: it stays where its source is.
    source: Id | None = None

    def stands_on(self) -> tuple[str, ...]:
        """Ids of the points it is made of."""
        return ()

    def leans_on(self) -> tuple[str, ...]:
        """Ids of the curves it follows."""
        return ()

    def enter(self, seats: Seats) -> None:
        """Put its variables into the seats."""

    def inner(self, seats: Seats) -> Equations:
        """What always holds inside it (the ends of an arc lie on its circle)."""
        return Equations()

    def moved(self, seats: Seats, p: Array) -> Self:
        """Itself with the numbers (mm) a solution gives it."""
        return self

    def curve(self, at: Mapping[str, Pair]) -> Curve2 | None:
        """Its curve with its points at given places; None for a point."""
        return None

    def curves(self, at: Mapping[str, Pair]) -> list[tuple[str, Curve2]]:
        """All its curves, each with the suffix that names it within the entity."""
        curve = self.curve(at)
        return [] if curve is None else [("", curve)]

    def grown(self, factor: float) -> Self:
        """Itself with its own sizes times a factor; its points go where they go."""
        return self

    def renamed(self, names: Mapping[str, str]) -> Self:
        """A copy standing on other points, under another id."""

        def put(value: Any) -> Any:
            if isinstance(value, str):
                return names.get(value, value)
            return [put(v) for v in value] if isinstance(value, tuple | list) else value

        data = self.model_dump()
        own = {k: v if k in _WORDS else put(v) for k, v in data.items()}
        return type(self).model_validate(own)
