"""The contract of a law, by which a coordinate is driven over time, and the registry they enter by being
read. A law is one file in `vireo.core.motion.laws`."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from vireo.core.documents.kinds.assembly import Driver
from vireo.core.motion.slots import Slot
from vireo.core.quantity import Dimension, FormulaError, Quantity, evaluate
from vireo.core.quantity.units import TIME
from vireo.core.registry import Registry
from vireo.core.trouble import BadInput

Names = Mapping[str, Quantity]
#: Where a coordinate is at a time, how fast it goes and how that changes: rad or mm, and seconds.
Going = tuple[float, float, float]


@dataclass(frozen=True)
class Led:
    """What a law starts from: the coordinate's dimension, where it stands (rad or mm), how long the run
    takes (s), and the numbers formulas know."""

    dimension: Dimension
    now: float
    duration: float
    names: Names

    def quantity(self, formula: str, dimension: Dimension, what: str) -> float:
        """The value of a formula (mm, kg, s, rad). Raises BadInput where it is none of what is asked."""
        try:
            found = evaluate(formula, self.names)
        except FormulaError as error:
            raise BadInput(f"{what}: {error.text}") from error
        if found.dimension != dimension:
            raise BadInput(
                f"{what} “{formula}” is {found.dimension.name}, but {dimension.name} is asked"
            )
        return found.value

    @property
    def speed(self) -> Dimension:
        return self.dimension / TIME


@dataclass(frozen=True)
class LawKind:
    """`going` gives what a driver does with its coordinate, or None where that is let go."""

    kind: str
    label: str
    line: str
    slots: tuple[Slot, ...]
    going: Callable[[Driver, Led], Callable[[float], Going] | None]
    order: int = 50


LAWS: Registry[LawKind] = Registry("law of motion", "vireo.core.motion.laws")


def add(kind: LawKind) -> None:
    LAWS.add(kind.kind, kind)
