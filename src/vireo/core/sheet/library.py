"""Rules for sheets by material and thickness: what the step Plate can be set to in one go.

Radii are habits of shops that bend on air: as thick as the sheet, for soft aluminium too; K-factors are those usual
for bends of 90 degrees with such radii, and DIN 6935 where it holds (steel). A shop keeps its own.
"""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

#: Fields of the step and what they are set to, as typed.
Set = dict[str, str]


class SheetRule(BaseModel):
    """What a kind of sheet is made by; `sets` are fields of the step Plate."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    name: str = Field(min_length=1, max_length=80)
    sets: Set = Field(max_length=20)


def _made(name: str, t: float, radius: float, **more: str) -> SheetRule:
    sets = {
        "thickness": f"{t:g} mm", "radius": f"{radius:g} mm", "relief": "square", "relief_width": f"{max(t, 1.0):g} mm",
        "relief_depth": f"{max(0.5 * t, 0.5):g} mm", "gap": "0.2 mm", **more,
    }  # fmt: skip
    return SheetRule(name=f"{name} {t:g} mm", sets=sets)


LIBRARY: tuple[SheetRule, ...] = (
    *(_made("Steel S235", t, t, lengths="din") for t in (0.8, 1.0, 1.5, 2.0, 3.0, 4.0, 5.0)),
    *(_made("Stainless 1.4301", t, t, lengths="k", k="0.45") for t in (0.8, 1.0, 1.5, 2.0, 3.0)),
    *(_made("Aluminium 5754", t, t, lengths="k", k="0.42") for t in (1.0, 1.5, 2.0, 3.0)),
)
