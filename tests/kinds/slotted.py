"""A joint: a pin that slides along a slot and turns in it."""

from vireo.core.declared.joint import PARALLEL, JointKind, Slide, Turn, add

add(
    JointKind(
        "slotted", "Pin in slot", "slider", "A pin that slides along a slot and turns in it",
        (("along", "y"), ("along", "z"), *PARALLEL),
        (Slide("along", "Along the slot", "x"), Turn("turn", "Turn")),
    )
)  # fmt: skip
