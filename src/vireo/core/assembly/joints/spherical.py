"""Any turn about a common point."""

from vireo.core.declared.joint import POINT, JointKind, add

add(
    JointKind(
        "spherical", "Spherical", "spherical", "Turn any way about a common point", POINT,
        free_turn=True, order=60,
    )
)  # fmt: skip
