"""ISO 8734: parallel pins of hardened steel (dowel pins), tolerance m6. Length of the chamfer of 15
degrees, drawn at both ends; the diameter is the nominal one."""

from __future__ import annotations

import math
from typing import ClassVar

from vireo.core.hardware.kind import Form, Sizes, Standard, Turned, register


@register
class DowelPin(Standard):
    standard = "ISO 8734"
    label = "Dowel pin"
    role = "pin"
    order = 70
    made = (
        3, 4, 5, 6, 8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 30, 32, 35, 40, 45, 50, 55, 60, 65, 70, 75,
        80, 85, 90, 95, 100,
    )  # fmt: skip
    #: d, c, shortest and longest.
    sizes: ClassVar[Sizes] = {
        "1": (1.0, 0.2, 3, 10), "1.5": (1.5, 0.3, 4, 16), "2": (2.0, 0.35, 5, 20),
        "2.5": (2.5, 0.4, 6, 24), "3": (3.0, 0.5, 8, 30), "4": (4.0, 0.63, 10, 40),
        "5": (5.0, 0.8, 12, 50), "6": (6.0, 1.2, 14, 60), "8": (8.0, 1.6, 18, 80),
        "10": (10.0, 2.0, 22, 100), "12": (12.0, 2.5, 26, 100), "16": (16.0, 3.0, 40, 100),
        "20": (20.0, 3.5, 50, 100),
    }  # fmt: skip

    def nominal(self, size: str) -> float:
        return self.sizes[size][0]

    def height(self, size: str) -> float:
        return 0.0

    def form(self, size: str, length: float) -> Form:
        d, c, *_ = self.sizes[size]
        r = d / 2
        inner = r - c * math.tan(math.radians(15))
        outline = (
            (0.0, -length, "tip"), (inner, -length, "chamfer"), (r, -length + c, "wall"),
            (r, -c, "chamfer on top"), (inner, 0.0, "top"), (0.0, 0.0, "axis"),
        )  # fmt: skip
        return Form(Turned(outline))
