"""A turn about a common axis with a slide along it for each turn: a nut on its screw."""

from vireo.core.declared.joint import ON_AXIS, PARALLEL, Factor, JointKind, Winding, add

add(
    JointKind(
        "helical", "Helical", "helical", "Turn about a common axis and slide along it by the pitch",
        (*ON_AXIS, *PARALLEL, ("screw",)), (Winding("travel", "Travel"),), order=45,
        about="axis", factor=Factor("Pitch", "length", "2 mm"),
    )
)  # fmt: skip
