"""Materials: a small library with the source of each value, and the user's own.

Density kg/m3, E and strengths MPa. Values are typical figures of the named standard or of
common data sheets; a study that decides something takes the supplier's certificate instead.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

#: The colour of what has no material.
PLAIN = "#b9c2bb"

Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]


class Material(BaseModel):
    """`density` kg/m3, `young` MPa, `poisson` 1, `strength` MPa (yield, or 0.2 % proof)."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: str = Field(min_length=1, max_length=40)
    name: str = Field(min_length=1, max_length=80)
    density: Positive
    young: Positive
    poisson: Annotated[float, Field(ge=0, lt=0.5)]
    strength: Positive
    source: str = Field(default="", max_length=200)
    colour: str = Field(default=PLAIN, pattern=r"^#[0-9a-f]{6}$")

    def mass(self, volume: float) -> float:
        """kg of a volume in mm3."""
        return volume * 1e-9 * self.density


_EN = "EN 10025-2 (t ≤ 16 mm); E and density EN 1993-1-1"
_PRINT = "typical printed solid, along the layers; data sheets differ"
LIBRARY: tuple[Material, ...] = (
    Material(id="S235", name="Structural steel S235", density=7850, young=210000, poisson=0.3,
             strength=235, source=_EN, colour="#b4bdb8"),
    Material(id="S355", name="Structural steel S355", density=7850, young=210000, poisson=0.3,
             strength=355, source=_EN, colour="#a9b3b1"),
    Material(id="1.4301", name="Stainless steel 1.4301", density=7900, young=200000, poisson=0.3,
             strength=210, source="EN 10088-2, hot rolled plate", colour="#c3c9c9"),
    Material(id="6061-T6", name="Aluminium 6061-T6", density=2700, young=68900, poisson=0.33,
             strength=240, source="EN 755-2 extruded bar", colour="#cdd2d0"),
    Material(id="5754", name="Aluminium 5754-H111", density=2670, young=70000, poisson=0.33,
             strength=80, source="EN 485-2 sheet", colour="#c7cdca"),
    Material(id="brass", name="Brass CW614N", density=8470, young=97000, poisson=0.34,
             strength=160, source="EN 12164, R360", colour="#cdb879"),
    Material(id="copper", name="Copper alloy CuSn6 (CW452K)", density=8800, young=118000,
             poisson=0.34, strength=300, source="EN 1652, R420", colour="#c79a7d"),
    Material(id="PLA", name="PLA", density=1240, young=3300, poisson=0.36, strength=50,
             source=_PRINT, colour="#d9d6c4"),
    Material(id="PETG", name="PETG", density=1270, young=2000, poisson=0.38, strength=45,
             source=_PRINT, colour="#c9d3d6"),
    Material(id="ABS", name="ABS", density=1050, young=2200, poisson=0.37, strength=40,
             source=_PRINT, colour="#d8d2c6"),
    Material(id="PA12", name="PA12", density=1010, young=1700, poisson=0.4, strength=45,
             source="typical sintered, dry", colour="#dedcd4"),
    Material(id="HDPE", name="HDPE", density=955, young=1000, poisson=0.42, strength=25,
             source="ISO 17855 moulding grade", colour="#e4e4de"),
)  # fmt: skip
DEFAULT = "S235"


def find(id: str, own: tuple[Material, ...] = ()) -> Material | None:
    """The user's own material of that id, else the library's."""
    return next((m for m in (*own, *LIBRARY) if m.id == id), None)
