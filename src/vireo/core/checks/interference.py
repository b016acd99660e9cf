"""Overlap volume of an assembly."""

from vireo.core.checks.kind import CheckKind, add
from vireo.core.quantity.units import VOLUME

add(
    CheckKind(
        "interference", "Interference", ("assembly",), VOLUME, "", job="interference",
        limit="0 mm**3", line="Volume in which components overlap",
    )
)  # fmt: skip
