"""ASME B18.2.1: hex cap screws of the inch series. Width across flats, head height; threaded over
2 d + 1/4 in. Tables in inches."""

from __future__ import annotations

from typing import ClassVar

from vireo.core.hardware.kind import Form, Sizes, Standard, register
from vireo.core.hardware.standards.asme_socket import INCH, MADE
from vireo.core.hardware.standards.iso4017 import hex_form
from vireo.core.screws import SCREWS


@register
class InchHexHead(Standard):
    standard = "ASME B18.2.1"
    label = "Hexagon head screw"
    role = "screw"
    system = "inch"
    order = 120
    made, unit = MADE, INCH
    #: s, k, shortest and longest: inches.
    sizes: ClassVar[Sizes] = {
        "1/4-20 UNC": (7 / 16, 5 / 32, 0.5, 3.0), "5/16-18 UNC": (1 / 2, 13 / 64, 0.5, 3.0),
        "3/8-16 UNC": (9 / 16, 15 / 64, 0.75, 3.0), "1/2-13 UNC": (3 / 4, 5 / 16, 1.0, 3.0),
    }  # fmt: skip

    def height(self, size: str) -> float:
        return INCH * self.sizes[size][1]

    def form(self, size: str, length: float) -> Form:
        s, k, *_ = (INCH * v for v in self.sizes[size])
        return hex_form(size, s, k, length, 2 * SCREWS[size].diameter + 0.25 * INCH)

    def title(self, size: str, length: float) -> str:
        return f"{self.standard} {size} x {length / INCH:g} in"
