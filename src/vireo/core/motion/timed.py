"""Formulas of the time."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from vireo.core.quantity import Dimension, FormulaError, Quantity, evaluate, names_in
from vireo.core.quantity.units import TIME
from vireo.core.trouble import BadInput

#: What a formula calls the time since the run began.
CLOCK = "t"


def of_time(
    formula: str, dimension: Dimension, names: Mapping[str, Quantity], what: str
) -> Callable[[float], float]:
    """A formula as a function of the time in seconds: its value in mm, kg, s, rad. Raises BadInput, at once
    or at a time it has no value for."""

    def at(t: float) -> float:
        try:
            found = evaluate(formula, {**names, CLOCK: Quantity(t, TIME)})
        except FormulaError as error:
            raise BadInput(f"{what} at t = {t:.4g} s: {error.text}") from error
        if found.dimension != dimension:
            raise BadInput(
                f"{what} “{formula}” is {found.dimension.name}, but {dimension.name} is asked"
            )
        return found.value

    first = at(0.0)
    try:
        steady = CLOCK not in names_in(formula)
    except FormulaError:
        steady = False
    return (lambda t: first) if steady else at
