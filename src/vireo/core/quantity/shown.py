"""The units a document shows and reads: how values of the core are told to a person in theirs.

Values stay in the core's own units (mm, g, N, MPa, rad) and formulas as they were typed.
"""

from __future__ import annotations

import math
import re
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from vireo.core.quantity.units import (
    ANGLE,
    AREA,
    FORCE,
    LENGTH,
    MASS,
    PRESSURE,
    UNITS,
    VOLUME,
    Dimension,
    Quantity,
    format_quantity,
)

Length = Literal["mm", "cm", "m", "in", "ft"]
Mass = Literal["g", "kg", "oz", "lb"]
Force = Literal["N", "kN", "lbf"]
Stress = Literal["MPa", "psi", "ksi"]
Angle = Literal["deg", "rad"]


class Units(BaseModel):
    """Units of a document, and how many places are shown.

    `rounding` counts decimals or significant places. `fractions` shows inches (and feet and
    inches) to the nearest of so many parts, 0 as decimals.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    length: Length = "mm"
    mass: Mass = "g"
    force: Force = "N"
    stress: Stress = "MPa"
    angle: Angle = "deg"
    rounding: Literal["decimals", "significant"] = "decimals"
    places: int = Field(default=3, ge=0, le=8)
    fractions: Literal[0, 2, 4, 8, 16, 32, 64] = 0


PLAIN = Units()
#: The core's unit of each kind, as it stands in texts.
_OWN = {"length": "mm", "mass": "g", "force": "N", "stress": "MPa"}


def rounded(value: float, units: Units) -> str:
    """A number with the places of a document, zeros at its end cut.

    >>> rounded(2.5, PLAIN)
    '2.5'
    """
    if not math.isfinite(value):
        return str(value)
    if units.rounding == "significant" and value:
        places = max(0, units.places - 1 - math.floor(math.log10(abs(value))))
        text = f"{value:.{min(places, 12)}f}"
    else:
        text = f"{value:.{units.places}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text in ("-0", "") else text


def length(mm: float, units: Units) -> str:
    """A length with its unit.

    >>> length(38.1, Units(length="in", fractions=8))
    '1 1/2 in'
    >>> length(1612.9, Units(length="ft", fractions=2))
    '5\\'-3 1/2"'
    """
    inches = mm / 25.4
    if units.length == "ft" and units.fractions:
        return _feet(inches, units.fractions)
    if units.length == "in" and units.fractions:
        return f"{_fraction(inches, units.fractions)} in"
    return f"{rounded(mm / UNITS[units.length][0], units)} {units.length}"


def _fraction(inches: float, parts: int) -> str:
    sign = "-" if inches < 0 else ""
    whole, rest = divmod(round(abs(inches) * parts), parts)
    if not rest:
        return f"{sign}{whole}"
    common = math.gcd(rest, parts)
    part = f"{rest // common}/{parts // common}"
    return f"{sign}{whole} {part}" if whole else f"{sign}{part}"


def _feet(inches: float, parts: int) -> str:
    sign = "-" if inches < 0 else ""
    steps = round(abs(inches) * parts)
    feet, rest = divmod(steps, 12 * parts)
    return f"{sign}{feet}'-{_fraction(rest / parts, parts)}\""


def in_kind(kind: str, value: float, units: Units, power: int = 1) -> str:
    """A value in the core's unit of a kind (length, mass, force, stress), to a power, as the
    document shows it."""
    if kind == "length" and power == 1:
        return length(value, units)
    unit = getattr(units, kind)
    if kind == "length" and unit == "ft" and units.fractions:
        unit = "in"
    factor = UNITS[unit][0] / UNITS[_OWN[kind]][0]
    sign = {1: "", 2: "²", 3: "³"}[power]
    return f"{rounded(value / factor**power, units)} {unit}{sign}"


#: How quantities are told: the kind of unit, its power, and the core's working unit in it.
_TOLD: dict[Dimension, tuple[str, int, float]] = {
    LENGTH: ("length", 1, 1.0), AREA: ("length", 2, 1.0), VOLUME: ("length", 3, 1.0),
    MASS: ("mass", 1, 1e3), FORCE: ("force", 1, 1.0), PRESSURE: ("stress", 1, 1.0),
}  # fmt: skip


def shown_in(quantity: Quantity, units: Units, unit: str | None = None) -> str:
    """A quantity as a document shows it; in a unit of its own where one was chosen.

    >>> shown_in(Quantity(25.4, LENGTH), Units(length="in"))
    '1 in'
    """
    if unit is None and quantity.dimension == ANGLE and units.angle == "deg":
        return f"{rounded(math.degrees(quantity.value), units)} deg"
    if unit is not None or quantity.dimension not in _TOLD:
        return format_quantity(quantity, unit)
    kind, power, factor = _TOLD[quantity.dimension]
    return in_kind(kind, quantity.working * factor, units, power)


_VALUE = re.compile(r"(?<![\w.])(-?\d+(?:\.\d+)?(?:e-?\d+)?) (mm³|mm²|mm|MPa|N|g)(?![\w/·*²³^-])")
_PLACE = re.compile(r"near \((-?[\d.]+), (-?[\d.]+), (-?[\d.]+)\)")
_KINDS = {"mm": ("length", 1), "mm²": ("length", 2), "mm³": ("length", 3), "MPa": ("stress", 1),
          "N": ("force", 1), "g": ("mass", 1)}  # fmt: skip


def told(text: str, units: Units) -> str:
    """A message of the core with its values in the units of a document.

    >>> told("the largest that works is 12.7 mm", Units(length="in"))
    'the largest that works is 0.5 in'
    """
    if units == PLAIN or (units.length, units.mass, units.force, units.stress) == (
        "mm", "g", "N", "MPa",
    ):  # fmt: skip
        return text

    def value(found: re.Match[str]) -> str:
        kind, power = _KINDS[found[2]]
        return in_kind(kind, float(found[1]), units, power)

    def place(found: re.Match[str]) -> str:
        return f"near ({', '.join(length(float(found[k]), units) for k in (1, 2, 3))})"

    return _VALUE.sub(value, _PLACE.sub(place, text))


def localised(data: Any, units: Units) -> Any:
    """The same JSON with the words of reports and offers in the units of a document."""
    if isinstance(data, dict):
        made = {k: localised(v, units) for k, v in data.items()}
        if isinstance(data.get("text"), str):
            made["text"] = told(data["text"], units)
        if isinstance(data.get("label"), str) and ("commands" in data or "fields" in data):
            made["label"] = told(data["label"], units)
        return made
    return [localised(v, units) for v in data] if isinstance(data, list) else data
