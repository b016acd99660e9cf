"""A force at a place, along an axis of the space."""

from __future__ import annotations

import numpy as np

from vireo.core.documents.kinds.assembly import RunLoad
from vireo.core.motion.load import Acting, Around, Does, LoadKind, Now, Push, add
from vireo.core.motion.slots import Slot
from vireo.core.motion.ways import axis_of
from vireo.core.quantity.units import FORCE


def made(load: RunLoad, around: Around) -> Does:
    place, _ = around.place(load, "a")
    size, way = around.number(load.value, [FORCE], "its force"), axis_of(load.along)

    def does(now: Now) -> Acting:
        at, _ = now.at(place)
        return Acting([Push(place[0], at, size(now.time) * way, np.zeros(3))])

    return does


add(
    LoadKind(
        "force", "Force", "At a place, along an axis; a formula of t where it changes",
        (
            Slot("a", "At", "place"), Slot("along", "Along", "way", "-Z"),
            Slot("value", "Force", "number", "10 N"),
        ),
        made, order=30,
    )
)  # fmt: skip
