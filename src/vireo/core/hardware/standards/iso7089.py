"""ISO 7089: plain washers, product grade A. Hole, outer diameter, thickness."""

from __future__ import annotations

from typing import ClassVar

from vireo.core.hardware.kind import Form, Sizes, Standard, Turned, register


class Washer(Standard):
    """A flat ring by hole, outer diameter and thickness."""

    role = "washer"

    def height(self, size: str) -> float:
        return self.sizes[size][2]

    def form(self, size: str, length: float) -> Form:
        hole, outer, h = self.sizes[size]
        outline = (
            (hole / 2, 0.0, "seat"), (outer / 2, 0.0, "rim"), (outer / 2, h, "top"),
            (hole / 2, h, "hole"),
        )  # fmt: skip
        return Form(Turned(outline))


@register
class PlainWasher(Washer):
    standard = "ISO 7089"
    label = "Plain washer"
    order = 40
    sizes: ClassVar[Sizes] = {
        "M1.6": (1.7, 4.0, 0.3), "M2": (2.2, 5.0, 0.3), "M2.5": (2.7, 6.0, 0.5),
        "M3": (3.2, 7.0, 0.5), "M4": (4.3, 9.0, 0.8), "M5": (5.3, 10.0, 1.0),
        "M6": (6.4, 12.0, 1.6), "M8": (8.4, 16.0, 1.6), "M10": (10.5, 20.0, 2.0),
        "M12": (13.0, 24.0, 2.5), "M16": (17.0, 30.0, 3.0), "M20": (21.0, 37.0, 3.0),
        "M24": (25.0, 44.0, 4.0),
    }  # fmt: skip
