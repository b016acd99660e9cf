"""ASME B18.3: hexagon socket head cap screws of the inch series. Head diameter, width of the socket,
its least depth; the head is as high as the diameter. Threaded over 2 d + 1/2 in, shorter ones up to
the head. Tables in inches."""

from __future__ import annotations

from typing import ClassVar

from vireo.core.hardware.kind import Form, Sizes, Standard, register
from vireo.core.hardware.standards.iso4762 import socket_form
from vireo.core.screws import SCREWS

INCH = 25.4
#: Lengths in inches.
MADE = (0.25, 0.375, 0.5, 0.625, 0.75, 0.875, 1.0, 1.25, 1.5, 1.75, 2.0, 2.25, 2.5, 2.75, 3.0)


@register
class InchSocketHead(Standard):
    standard = "ASME B18.3"
    label = "Socket head screw"
    role = "screw"
    system = "inch"
    order = 110
    made, unit = MADE, INCH
    #: A, J, T, shortest and longest: inches.
    sizes: ClassVar[Sizes] = {
        "#4-40 UNC": (0.183, 3 / 32, 0.051, 0.25, 1.0), "#6-32 UNC": (0.226, 7 / 64, 0.064, 0.25, 1.5),
        "#8-32 UNC": (0.270, 9 / 64, 0.077, 0.25, 2.0), "#10-24 UNC": (0.312, 5 / 32, 0.090, 0.375, 2.0),
        "#10-32 UNF": (0.312, 5 / 32, 0.090, 0.375, 2.0),
        "1/4-20 UNC": (0.375, 3 / 16, 0.120, 0.5, 3.0), "5/16-18 UNC": (0.469, 1 / 4, 0.151, 0.5, 3.0),
        "3/8-16 UNC": (0.562, 5 / 16, 0.182, 0.625, 3.0), "1/2-13 UNC": (0.750, 3 / 8, 0.245, 0.75, 3.0),
    }  # fmt: skip

    def height(self, size: str) -> float:
        return SCREWS[size].diameter

    def form(self, size: str, length: float) -> Form:
        a, j, t, *_ = (INCH * v for v in self.sizes[size])
        d = SCREWS[size].diameter
        return socket_form(size, a, d, j, t, length, 2 * d + 0.5 * INCH)

    def title(self, size: str, length: float) -> str:
        return f"{self.standard} {size} x {length / INCH:g} in"
