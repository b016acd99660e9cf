"""Units, dimension-checked values, formulas, parameters and their limits."""

from vireo.core.quantity.formula import FormulaError, evaluate, names_in, rename_in
from vireo.core.quantity.marked import Formula, formulas_in, with_formulas
from vireo.core.quantity.parameters import Evaluated, Limits, Parameter, evaluate_parameters
from vireo.core.quantity.units import (
    ANGLE,
    DIMENSIONS,
    LENGTH,
    NUMBER,
    UNITS,
    Dimension,
    Quantity,
    format_quantity,
)

__all__ = [
    "ANGLE",
    "DIMENSIONS",
    "LENGTH",
    "NUMBER",
    "UNITS",
    "Dimension",
    "Evaluated",
    "Formula",
    "FormulaError",
    "Limits",
    "Parameter",
    "Quantity",
    "evaluate",
    "evaluate_parameters",
    "format_quantity",
    "formulas_in",
    "names_in",
    "rename_in",
    "with_formulas",
]
