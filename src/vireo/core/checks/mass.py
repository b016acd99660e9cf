"""Mass of a part or an assembly."""

from vireo.core.checks.kind import CheckKind, add
from vireo.core.quantity.units import MASS

add(
    CheckKind(
        "mass", "Mass", ("part", "assembly"), MASS, "g", limit="500 g",
        line="Mass of everything, from volumes and materials",
    )
)  # fmt: skip
