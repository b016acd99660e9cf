"""A turn about a common axis and a slide along it."""

from vireo.core.declared.joint import PARALLEL, JointKind, Slide, Turn, add

add(
    JointKind(
        "cylindrical", "Cylindrical", "cylindrical", "Turn about a common axis and slide along it",
        (("along", "x"), ("along", "y"), *PARALLEL), (Turn("turn", "Angle"), Slide("slide", "Travel")),
        order=40, about="axis", best=("axis axis", "axis circle", "axis line", "circle line"),
    )
)  # fmt: skip
