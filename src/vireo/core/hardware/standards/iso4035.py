"""ISO 4035: hexagon thin nuts, chamfered. Width across flats, largest height."""

from __future__ import annotations

from typing import ClassVar

from vireo.core.hardware.kind import Sizes, register
from vireo.core.hardware.standards.iso4032 import Nut


@register
class ThinNut(Nut):
    standard = "ISO 4035"
    label = "Thin nut"
    order = 60
    sizes: ClassVar[Sizes] = {
        "M1.6": (3.2, 1.0), "M2": (4.0, 1.2), "M2.5": (5.0, 1.6), "M3": (5.5, 1.8),
        "M4": (7.0, 2.2), "M5": (8.0, 2.7), "M6": (10.0, 3.2), "M8": (13.0, 4.0),
        "M10": (16.0, 5.0), "M12": (18.0, 6.0), "M16": (24.0, 8.0), "M20": (30.0, 10.0),
        "M24": (36.0, 12.0),
    }  # fmt: skip
