"""A sheet as steps hand it on: its tree, where it stands, what its bends are made by."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Any

import numpy as np
from pydantic import Field, TypeAdapter

from vireo.core.geometry import Frame, triple
from vireo.core.kernel.shape import Body
from vireo.core.kernel.weave import woven
from vireo.core.panels.flat import laid
from vireo.core.panels.model import Sheet
from vireo.core.panels.places import Bent, Floats, Place, places
from vireo.core.sheet.allowance import Din6935, KFactor, Rule, Table
from vireo.core.sheet.combine import rerooted
from vireo.core.sheet.flange import Relief

Json = dict[str, Any]
_RULE: TypeAdapter[KFactor | Din6935 | Table] = TypeAdapter(
    Annotated[KFactor | Din6935 | Table, Field(discriminator="kind")]
)


@dataclass(frozen=True)
class SheetBody:
    """`frame` is where the root panel lies, its bottom at z = 0. `radius`, `rule`, `relief` and `gap` of mitred
    corners (mm) are what later steps go by; `opened` are bends that lie flat for now. `grain` is which way it was
    rolled (rad, from x of the root panel), where that is said."""

    sheet: Sheet
    frame: Frame
    radius: float
    rule: Rule
    relief: Relief
    gap: float
    opened: tuple[str, ...] = ()
    grain: float | None = None

    def with_(self, sheet: Sheet) -> SheetBody:
        return replace(self, sheet=sheet)

    @property
    def state(self) -> dict[str, Bent]:
        """What bends are open."""
        return dict.fromkeys(self.opened, (0.0, 0.0))

    @property
    def stand(self) -> tuple[Floats, Floats, Floats, Floats]:
        f = self.frame
        return np.array(f.origin), np.array(f.x), np.array(f.y), np.array(f.z)

    def places(self, state: dict[str, Bent] | None = None) -> dict[str, Place]:
        """Where panels and zones are; as it stands where no state is given."""
        return places(self.sheet, self.state if state is None else state, self.stand)

    def body(self, state: dict[str, Bent] | None = None) -> Body:
        """The solid. Raises KernelTrouble."""
        return woven(self.sheet, self.state if state is None else state, self.stand)

    def rooted(self, panel: str) -> SheetBody:
        """Hung on another panel, where it stands."""
        at = self.places()[panel]
        frame = Frame(triple(at.o), triple(at.x), triple(at.z))
        grain = self.grain
        if grain is not None:
            grain -= laid(self.sheet)[panel].turn
        return replace(self, sheet=rerooted(self.sheet, panel), frame=frame, grain=grain)

    def to_json(self) -> Json:
        f = self.frame
        rule = _RULE.dump_python(self.rule, mode="json")  # type: ignore[arg-type]
        return {
            "sheet": self.sheet.to_json(), "frame": [f.origin, f.x, f.z], "radius": self.radius,
            "rule": rule, "relief": self.relief, "gap": self.gap, "opened": self.opened,
            "grain": self.grain,
        }  # fmt: skip

    @staticmethod
    def of(data: Json) -> SheetBody:
        origin, x, z = (tuple(v) for v in data["frame"])
        return SheetBody(
            Sheet.of(data["sheet"]), Frame(origin, x, z), data["radius"],
            _RULE.validate_python(data["rule"]), Relief(*data["relief"]), data["gap"], tuple(data["opened"]),
            data.get("grain"),
        )  # fmt: skip
