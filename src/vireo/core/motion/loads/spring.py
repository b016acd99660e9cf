"""A spring between two places, with a damper in it."""

from __future__ import annotations

import numpy as np

from vireo.core.documents.kinds.assembly import RunLoad
from vireo.core.motion.load import Acting, Around, Does, LoadKind, Now, Push, add
from vireo.core.motion.slots import Slot
from vireo.core.quantity import LENGTH
from vireo.core.quantity.units import FORCE, TIME
from vireo.core.trouble import BadInput


def made(load: RunLoad, around: Around) -> Does:
    """Pulls its two places together by stiffness times what it is longer than at rest, and by damping
    times how fast it grows."""
    (a, at_a), (b, at_b) = around.place(load, "a"), around.place(load, "b")
    stands = float(np.linalg.norm(at_b - at_a))
    stiff = around.number(load.value, [FORCE / LENGTH], "its stiffness")
    rest = around.number(load.rest or f"{stands!r} mm", [LENGTH], "its length at rest")
    damping = around.number(load.damping or "0 N*s/mm", [FORCE * TIME / LENGTH], "its damping")
    if a[0] == b[0]:
        raise BadInput("both ends of a spring are on one component")

    def does(now: Now) -> Acting:
        (p, v), (q, w) = now.at(a), now.at(b)
        between = q - p
        length = float(np.linalg.norm(between))
        if length < 1e-9:
            return Acting()
        way = between / length
        longer = length - rest(now.time)
        pull = stiff(now.time) * longer + damping(now.time) * float((w - v) @ way)
        none = np.zeros(3)
        return Acting(
            [Push(a[0], p, pull * way, none), Push(b[0], q, -pull * way, none)],
            stored=0.5 * stiff(now.time) * longer**2,
        )

    return does


add(
    LoadKind(
        "spring", "Spring", "Between two places, with a damper in it",
        (
            Slot("a", "From", "place"), Slot("b", "To", "place"),
            Slot("value", "Stiffness", "number", "1 N/mm"),
            Slot("rest", "Length at rest", "number", "", "as it stands"),
            Slot("damping", "Damping", "number", "", "none"),
        ),
        made, order=10,
    )
)  # fmt: skip
