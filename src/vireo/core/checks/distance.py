"""Least distance between two picks of a part."""

from vireo.core.checks.kind import CheckKind, add
from vireo.core.quantity.units import LENGTH

add(
    CheckKind(
        "distance", "Distance", ("part", "assembly"), LENGTH, "mm", picks=2, relation="at_least",
        limit="2 mm", line="Least distance between two faces, edges or corners",
    )
)  # fmt: skip
