"""Dimensions, units and values that carry them. Knows nothing of formulas.

Values are held in the coherent system mm, kg, s, rad. `Quantity.to` converts to any unit of
the same dimension; the product's working units (N, MPa, kg, mm, rad, s) are `Dimension.unit`.
"""

from __future__ import annotations

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class Dimension:
    """Exponents of length, mass, time, angle and temperature.

    >>> (Dimension(1) * Dimension(1)) == Dimension(2)
    True
    """

    length: int = 0
    mass: int = 0
    time: int = 0
    angle: int = 0
    temperature: int = 0

    def __mul__(self, other: Dimension) -> Dimension:
        return Dimension(
            self.length + other.length,
            self.mass + other.mass,
            self.time + other.time,
            self.angle + other.angle,
            self.temperature + other.temperature,
        )

    def __truediv__(self, other: Dimension) -> Dimension:
        return self * other**-1

    def __pow__(self, power: int) -> Dimension:
        return Dimension(
            self.length * power, self.mass * power, self.time * power, self.angle * power,
            self.temperature * power,
        )  # fmt: skip

    @property
    def plain(self) -> bool:
        return self == NUMBER

    @property
    def name(self) -> str:
        """The word an engineer uses for it, else its exponents: ``length^2 time^-1``."""
        for word, dimension in DIMENSIONS.items():
            if dimension == self:
                return word
        parts = [
            f"{word}^{power}" if power != 1 else word
            for word, power in zip(
                ("length", "mass", "time", "angle", "temperature"),
                (self.length, self.mass, self.time, self.angle, self.temperature),
                strict=True,
            )
            if power
        ]
        return " ".join(parts)


NUMBER = Dimension()
LENGTH = Dimension(length=1)
AREA = Dimension(length=2)
VOLUME = Dimension(length=3)
MASS = Dimension(mass=1)
TIME = Dimension(time=1)
ANGLE = Dimension(angle=1)
FORCE = Dimension(length=1, mass=1, time=-2)
PRESSURE = Dimension(length=-1, mass=1, time=-2)
FREQUENCY = Dimension(time=-1)
SPIN = Dimension(angle=1, time=-1)
DENSITY = Dimension(length=-3, mass=1)
ACCELERATION = Dimension(length=1, time=-2)
TEMPERATURE = Dimension(temperature=1)
ENERGY = Dimension(length=2, mass=1, time=-2)
POWER = Dimension(length=2, mass=1, time=-3)
CONDUCTIVITY = Dimension(length=1, mass=1, time=-3, temperature=-1)

DIMENSIONS: dict[str, Dimension] = {
    "number": NUMBER,
    "length": LENGTH,
    "angle": ANGLE,
    "mass": MASS,
    "force": FORCE,
    "pressure": PRESSURE,
    "time": TIME,
    "frequency": FREQUENCY,
    "spin": SPIN,
    "area": AREA,
    "volume": VOLUME,
    "density": DENSITY,
    "acceleration": ACCELERATION,
    "temperature": TEMPERATURE,
    "energy": ENERGY,
    "power": POWER,
    "conductivity": CONDUCTIVITY,
}

# The inch and the pound are exact by the international yard and pound agreement of 1959;
# standard gravity 9.80665 m/s^2 (3rd CGPM, 1901) turns pound into pound-force.
_POUND = 0.45359237
_POUND_FORCE = _POUND * 9806.65
UNITS: dict[str, tuple[float, Dimension]] = {
    "mm": (1.0, LENGTH),
    "cm": (10.0, LENGTH),
    "m": (1000.0, LENGTH),
    "um": (1e-3, LENGTH),
    "in": (25.4, LENGTH),
    "ft": (304.8, LENGTH),
    "deg": (math.pi / 180.0, ANGLE),
    "rad": (1.0, ANGLE),
    "g": (1e-3, MASS),
    "kg": (1.0, MASS),
    "lb": (_POUND, MASS),
    "oz": (_POUND / 16.0, MASS),
    "N": (1e3, FORCE),
    "kN": (1e6, FORCE),
    "lbf": (_POUND_FORCE, FORCE),
    "Pa": (1e-3, PRESSURE),
    "MPa": (1e3, PRESSURE),
    "GPa": (1e6, PRESSURE),
    "psi": (_POUND_FORCE / 25.4**2, PRESSURE),
    "ksi": (1e3 * _POUND_FORCE / 25.4**2, PRESSURE),
    "s": (1.0, TIME),
    "Hz": (1.0, FREQUENCY),
    "rpm": (2.0 * math.pi / 60.0, SPIN),
    "J": (1e6, ENERGY),
    "W": (1e6, POWER),
    "kW": (1e9, POWER),
    "K": (1.0, TEMPERATURE),
}

#: The unit in which the rest of the core takes a value of this dimension.
WORKING_UNIT: dict[Dimension, str] = {
    LENGTH: "mm",
    ANGLE: "rad",
    MASS: "kg",
    FORCE: "N",
    PRESSURE: "MPa",
    TIME: "s",
    FREQUENCY: "Hz",
}

#: The unit in which a person reads a value of this dimension when none was chosen.
SHOWN_UNIT: dict[Dimension, str] = {**WORKING_UNIT, ANGLE: "deg", SPIN: "rpm"}


#: How values without a unit of their own are shown; they are held in these.
_SIGNS: dict[Dimension, str] = {AREA: "mm²", VOLUME: "mm³", ACCELERATION: "mm/s²"}


@dataclass(frozen=True)
class Quantity:
    """A number with its dimension; `value` in mm, kg, s, rad."""

    value: float
    dimension: Dimension = NUMBER

    def to(self, unit: str) -> float:
        """The number in `unit`. Raises ValueError when the dimensions differ."""
        factor, dimension = UNITS[unit]
        if dimension != self.dimension:
            raise ValueError(f"{self.dimension.name} cannot be read in {unit}")
        return self.value / factor

    @property
    def working(self) -> float:
        """The number in the core's working unit (mm, rad, kg, N, MPa, s)."""
        unit = WORKING_UNIT.get(self.dimension)
        return self.to(unit) if unit else self.value


def format_quantity(quantity: Quantity, unit: str | None = None, digits: int = 4) -> str:
    """A value as people read it: fixed decimals without trailing zeros, then its unit.

    >>> format_quantity(Quantity(26.0, LENGTH))
    '26 mm'
    """
    shown = unit if unit in UNITS else SHOWN_UNIT.get(quantity.dimension)
    number = quantity.value if shown is None else quantity.to(shown)
    text = f"{number:.{digits}f}".rstrip("0").rstrip(".")
    if text in ("-0", ""):
        text = "0"
    if shown is not None:
        return f"{text} {shown}"
    if quantity.dimension in _SIGNS:
        return f"{text} {_SIGNS[quantity.dimension]}"
    return text if quantity.dimension.plain else f"{text} ({quantity.dimension.name})"
