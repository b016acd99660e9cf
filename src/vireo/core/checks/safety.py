"""Least safety factor of a strength study."""

from vireo.core.checks.kind import CheckKind, add
from vireo.core.quantity.units import NUMBER

add(
    CheckKind(
        "safety", "Safety factor", ("study",), NUMBER, "", job="strength", relation="at_least",
        limit="2", line="Yield strength over the largest von Mises stress",
    )
)  # fmt: skip
