"""A turn about a common axis."""

from vireo.core.declared.joint import PARALLEL, POINT, JointKind, Turn, add

add(
    JointKind(
        "revolute", "Revolute", "revolute", "Turn about a common axis", (*POINT, *PARALLEL),
        (Turn("turn", "Angle"),), order=20, about="axis", best=("circle circle",),
    )
)  # fmt: skip
