"""A spring in a joint: about its axis or along it, with a damper."""

from __future__ import annotations

from vireo.core.documents.kinds.assembly import RunLoad
from vireo.core.motion.load import Acting, Around, Does, LoadKind, Now, add
from vireo.core.motion.slots import Slot
from vireo.core.quantity import ANGLE, LENGTH
from vireo.core.quantity.units import ENERGY, FORCE, TIME


def made(load: RunLoad, around: Around) -> Does:
    key, dimension, stands = around.key(load)
    effort = [ENERGY / ANGLE, ENERGY] if dimension == ANGLE else [FORCE / LENGTH]
    unit = "rad" if dimension == ANGLE else "mm"
    stiff = around.number(load.value, effort, "its stiffness")
    rest = around.number(load.rest or f"{stands!r} {unit}", [dimension], "where it is at rest")
    slow = "N*mm*s/rad" if dimension == ANGLE else "N*s/mm"
    damping = around.number(load.damping or f"0 {slow}", [e * TIME for e in effort], "its damping")

    def does(now: Now) -> Acting:
        value, speed, _ = now.coordinates[key]
        off = value - rest(now.time)
        back = -stiff(now.time) * off - damping(now.time) * speed
        return Acting(efforts={key: back}, stored=0.5 * stiff(now.time) * off**2)

    return does


add(
    LoadKind(
        "joint_spring", "Spring in a joint", "About its axis or along it, with a damper",
        (
            Slot("joint", "Joint", "joint"),
            Slot("value", "Stiffness", "number", "10 N*mm/rad"),
            Slot("rest", "At rest at", "number", "", "as it stands"),
            Slot("damping", "Damping", "number", "", "none"),
        ),
        made, order=20,
    )
)  # fmt: skip
