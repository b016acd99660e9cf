"""Two axes in one line; the turn about it free, or held at an angle."""

from vireo.core.declared.joint import ON_AXIS, PARALLEL, JointKind, Slide, Turn, add

add(
    JointKind(
        "coaxial", "Coaxial", "coaxial", "Two axes in one line", (*ON_AXIS, *PARALLEL),
        (Turn("turn", "Angle"), Slide("slide", "Travel")), order=120, about="axis", family="Condition",
    )
)  # fmt: skip
