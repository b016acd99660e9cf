"""ASME B18.2.2: hex nuts of the inch series. Width across flats and height, in inches."""

from __future__ import annotations

from typing import ClassVar

from vireo.core.hardware.kind import Sizes, register
from vireo.core.hardware.standards.iso4032 import Nut

_IN = 25.4


@register
class InchNut(Nut):
    standard = "ASME B18.2.2"
    label = "Hexagon nut"
    system = "inch"
    order = 130
    sizes: ClassVar[Sizes] = {
        "1/4-20 UNC": (7 / 16 * _IN, 7 / 32 * _IN), "5/16-18 UNC": (1 / 2 * _IN, 17 / 64 * _IN),
        "3/8-16 UNC": (9 / 16 * _IN, 21 / 64 * _IN), "1/2-13 UNC": (3 / 4 * _IN, 7 / 16 * _IN),
    }  # fmt: skip
