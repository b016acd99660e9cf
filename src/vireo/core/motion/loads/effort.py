"""A torque about the axis of a joint, or a force along it."""

from __future__ import annotations

from vireo.core.documents.kinds.assembly import RunLoad
from vireo.core.motion.load import Acting, Around, Does, LoadKind, add
from vireo.core.motion.slots import Slot
from vireo.core.quantity import ANGLE
from vireo.core.quantity.units import ENERGY, FORCE


def made(load: RunLoad, around: Around) -> Does:
    key, dimension, _ = around.key(load)
    size = around.number(
        load.value, [ENERGY, ENERGY / ANGLE] if dimension == ANGLE else [FORCE], "its effort"
    )
    return lambda now: Acting(efforts={key: size(now.time)})


add(
    LoadKind(
        "effort", "Effort in a joint", "A torque about its axis or a force along it",
        (
            Slot("joint", "Joint", "joint"),
            Slot("value", "Effort", "number", "100 N*mm"),
        ),
        made, order=40,
    )
)  # fmt: skip
