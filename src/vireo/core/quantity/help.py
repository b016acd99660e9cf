"""What formulas know, told to people: every function, unit and sign with an example."""

from __future__ import annotations

from dataclasses import dataclass

from vireo.core.quantity.formula import CONSTANTS, FUNCTIONS
from vireo.core.quantity.units import UNITS


@dataclass(frozen=True)
class Word:
    """Something a formula can hold. `example` works as it stands; `gives` is what it gives."""

    word: str
    kind: str
    line: str
    example: str
    gives: str


_FUNCTIONS: dict[str, tuple[str, str, str]] = {
    "sin": ("sine of an angle", "sin(30 deg)", "0.5"),
    "cos": ("cosine of an angle", "cos(60 deg)", "0.5"),
    "tan": ("tangent of an angle", "20 mm*tan(45 deg)", "20 mm"),
    "asin": ("angle with this sine", "asin(0.5)", "30 deg"),
    "acos": ("angle with this cosine", "acos(0.5)", "60 deg"),
    "atan": ("angle with this slope", "atan(1)", "45 deg"),
    "atan2": ("angle of a rise over a run", "atan2(3 mm, 3 mm)", "45 deg"),
    "sqrt": ("square root, also of areas", "sqrt(16 mm*1 mm)", "4 mm"),
    "hypot": ("length of a diagonal", "hypot(3 mm, 4 mm)", "5 mm"),
    "min": ("the least of several", "min(4 mm, 6 mm)", "4 mm"),
    "max": ("the largest of several", "max(4 mm, 6 mm)", "6 mm"),
    "abs": ("without its sign", "abs(-3 mm)", "3 mm"),
    "round": ("to the nearest step", "round(7.3 mm, 0.5 mm)", "7.5 mm"),
    "floor": ("down to a step", "floor(7.3 mm, 1 mm)", "7 mm"),
    "ceil": ("up to a step", "ceil(7.3 mm, 1 mm)", "8 mm"),
}
_UNITS: dict[str, str] = {
    "mm": "millimetres", "cm": "centimetres", "m": "metres", "um": "micrometres", "in": "inches",
    "ft": "feet", "deg": "degrees", "rad": "radians", "g": "grams", "kg": "kilograms",
    "lb": "pounds", "N": "newtons", "kN": "kilonewtons", "lbf": "pounds of force",
    "Pa": "pascals", "MPa": "megapascals, N/mm²", "GPa": "gigapascals",
    "psi": "pounds of force to the square inch", "s": "seconds", "Hz": "hertz",
    "rpm": "turns to the minute", "oz": "ounces", "ksi": "thousand psi", "J": "joules",
    "W": "watts", "kW": "kilowatts", "K": "kelvins",
}  # fmt: skip
_SIGNS: tuple[tuple[str, str, str, str], ...] = (
    ("+ - * /", "the four ways of reckoning; units go along", "2*3 mm + 0.5 mm", "6.5 mm"),
    ("**", "to a power", "(2 mm)**3", "8 mm³"),
    ("if else", "one of two", "14 mm if 3 > 2 else 10 mm", "14 mm"),
    ("1 1/4 in", "inches in fractions; 5'-3 1/2\" in feet and inches", "1 1/4 in", "31.75 mm"),
    ("N/mm2", "units of units, as they are written: g/cm3, lb/in**3", "2 N/mm2*3 mm2", "6 N"),
    ("and or not", "conditions together", "1 if 2 < 3 and 3 < 4 else 0", "1"),
)


def words() -> list[Word]:
    """Functions, constants, signs and units, in this order."""
    functions = [Word(n, "function", *_FUNCTIONS[n]) for n in FUNCTIONS]
    constants = [
        Word(n, "constant", "half the turn in radians", "2*pi", "6.2832") for n in CONSTANTS
    ]
    signs = [Word(w, "sign", line, example, gives) for w, line, example, gives in _SIGNS]
    units = [
        Word(n, "unit", f"{_UNITS[n]} ({d.name})", f"1 {n}", f"1 {n}")
        for n, (_, d) in UNITS.items()
    ]
    return [*functions, *constants, *signs, *units]
