"""Two turns in a fixed ratio: gear wheels, pulleys, chain wheels."""

from vireo.core.declared.joint import Factor, JointKind, add

add(
    JointKind(
        "gear", "Gears", "gear", "Two components that turn in a fixed ratio",
        order=210, family="Drive", couples="turn",
        factor=Factor("Turns of the other for one of the first", "number", "1"),
        hint="An axis of each: both turn in joints of their own",
    )
)  # fmt: skip
