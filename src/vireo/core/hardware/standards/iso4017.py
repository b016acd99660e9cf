"""ISO 4017: hexagon head screws threaded up to the head. Width across flats, head height."""

from __future__ import annotations

from typing import ClassVar

from vireo.core.hardware.kind import (
    Form,
    Sizes,
    Standard,
    Turned,
    hex_outline,
    hexagon,
    register,
    shank,
    threaded,
)
from vireo.core.screws import SCREWS


@register
class HexHead(Standard):
    standard = "ISO 4017"
    label = "Hexagon head screw"
    role = "screw"
    order = 20
    made = (
        2, 3, 4, 5, 6, 8, 10, 12, 16, 20, 25, 30, 35, 40, 45, 50, 55, 60, 65, 70, 80, 90, 100, 110, 120,
        130, 140, 150,
    )  # fmt: skip
    #: s, k, shortest and longest.
    sizes: ClassVar[Sizes] = {
        "M3": (5.5, 2.0, 6, 30), "M4": (7.0, 2.8, 8, 40), "M5": (8.0, 3.5, 10, 50),
        "M6": (10.0, 4.0, 12, 60), "M8": (13.0, 5.3, 16, 80), "M10": (16.0, 6.4, 20, 100),
        "M12": (18.0, 7.5, 25, 120), "M16": (24.0, 10.0, 30, 150), "M20": (30.0, 12.5, 40, 150),
        "M24": (36.0, 15.0, 50, 150),
    }  # fmt: skip

    def height(self, size: str) -> float:
        return self.sizes[size][1]

    def form(self, size: str, length: float) -> Form:
        s, k, *_ = self.sizes[size]
        return hex_form(size, s, k, length, length)


def hex_form(size: str, s: float, k: float, length: float, thread: float) -> Form:
    screw = SCREWS[size]
    head = ((0.0, 0.0, "seat"), *hex_outline(s, 0.0, k, both=False), (0.0, k, "axis"))
    below = (*shank(screw, length, thread), (screw.diameter / 2, 0.0, "neck"), (0.0, 0.0, "axis"))
    return Form(
        Turned(head), within=hexagon(s, -1.0, k + 1.0, "flats"), added=Turned(below),
        thread=threaded(screw, length, thread),
    )  # fmt: skip
