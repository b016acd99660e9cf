"""A turn that drives a slide: a pinion on its rack, a drum with its cable."""

from vireo.core.declared.joint import Factor, JointKind, add

add(
    JointKind(
        "rack", "Rack", "rack", "A component that slides as another turns",
        order=220, family="Drive", couples="slide", factor=Factor("Travel for one turn", "length", "20 mm"),
        hint="The axis of the one that turns, then an edge or face of the one that slides",
    )
)  # fmt: skip
