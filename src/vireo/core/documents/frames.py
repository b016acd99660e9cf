"""Placements and joint ends as stored in documents."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, model_validator

from vireo.core.naming import Pick

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e6, le=1e6)]


class Placement(BaseModel):
    """Position in mm and turn as a unit quaternion (w, x, y, z)."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    p: tuple[Number, Number, Number] = (0.0, 0.0, 0.0)
    q: tuple[Number, Number, Number, Number] = (1.0, 0.0, 0.0, 0.0)


class JointEnd(BaseModel):
    """Where a joint holds a component: a picked face, edge or corner from which a frame is derived,
    or a port or another datum of the part, by the step that makes it.

    `component` names the component; in a sub-assembly `path` leads down to the part inside.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    component: str = Field(max_length=24)
    path: tuple[str, ...] = Field(default=(), max_length=16)
    pick: Pick | None = None
    datum: str = Field(default="", max_length=24)

    @model_validator(mode="after")
    def _holds_one(self) -> JointEnd:
        if (self.pick is None) == (not self.datum):
            raise ValueError("a joint end holds either a pick or a port")
        return self
