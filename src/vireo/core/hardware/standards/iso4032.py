"""ISO 4032: hexagon regular nuts. Width across flats, largest height.

The bore is drawn at the thread's diameter, so that a screw in it touches and does not overlap.
"""

from __future__ import annotations

from typing import ClassVar

from vireo.core.hardware.kind import (
    Form,
    Sizes,
    Standard,
    Threaded,
    Turned,
    hex_outline,
    hexagon,
    register,
)
from vireo.core.screws import SCREWS


class Nut(Standard):
    """A hexagon with a threaded bore, by width across flats and height; chamfered at both ends."""

    role = "nut"

    def height(self, size: str) -> float:
        return self.sizes[size][1]

    def form(self, size: str, length: float) -> Form:
        s, m = self.sizes[size]
        screw = SCREWS[size]
        r = screw.diameter / 2
        outline = ((r, 0.0, "seat"), *hex_outline(s, 0.0, m, both=True), (r, m, "thread"))
        return Form(
            Turned(outline), within=hexagon(s, -1.0, m + 1.0, "flats"),
            thread=Threaded(screw, "thread", 0.0, m),
        )  # fmt: skip


@register
class RegularNut(Nut):
    standard = "ISO 4032"
    label = "Hexagon nut"
    order = 50
    sizes: ClassVar[Sizes] = {
        "M1.6": (3.2, 1.3), "M2": (4.0, 1.6), "M2.5": (5.0, 2.0), "M3": (5.5, 2.4),
        "M4": (7.0, 3.2), "M5": (8.0, 4.7), "M6": (10.0, 5.2), "M8": (13.0, 6.8),
        "M10": (16.0, 8.4), "M12": (18.0, 10.8), "M16": (24.0, 14.8), "M20": (30.0, 18.0),
        "M24": (36.0, 21.5),
    }  # fmt: skip
