"""Slides in a common plane and a turn in it."""

from vireo.core.declared.joint import PARALLEL, JointKind, Slide, Turn, add

add(
    JointKind(
        "planar", "Planar", "planar", "Slide and turn in a common plane", (("along", "z"), *PARALLEL),
        (Slide("x", "Along X", "x"), Slide("y", "Along Y", "y"), Turn("turn", "Angle")), order=50,
        about="plane", best=("plane plane", "circle plane"),
    )
)  # fmt: skip
