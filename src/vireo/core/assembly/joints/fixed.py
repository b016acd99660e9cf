"""Nothing moves."""

from vireo.core.declared.joint import CLOCKED, PARALLEL, POINT, JointKind, add

add(
    JointKind(
        "fixed", "Fixed", "rigid", "Hold two components together", (*POINT, *PARALLEL, *CLOCKED),
        order=10,
    )
)  # fmt: skip
