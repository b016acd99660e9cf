"""A slide along a common axis."""

from vireo.core.declared.joint import CLOCKED, PARALLEL, JointKind, Slide, add

add(
    JointKind(
        "prismatic", "Prismatic", "slider", "Slide along a common axis",
        (("along", "x"), ("along", "y"), *PARALLEL, *CLOCKED), (Slide("slide", "Travel"),),
        order=30, best=("line line",),
    )
)  # fmt: skip
