"""ASME B18.21.1: plain washers of the inch series, narrow. Hole, outer diameter, thickness, in
inches."""

from __future__ import annotations

from typing import ClassVar

from vireo.core.hardware.kind import Sizes, register
from vireo.core.hardware.standards.iso7089 import Washer

_IN = 25.4


@register
class InchWasher(Washer):
    standard = "ASME B18.21.1"
    label = "Plain washer"
    system = "inch"
    order = 140
    sizes: ClassVar[Sizes] = {
        size: (hole * _IN, outer * _IN, h * _IN)
        for size, (hole, outer, h) in {
            "#6-32 UNC": (0.156, 0.375, 0.049), "#8-32 UNC": (0.188, 0.438, 0.049),
            "#10-24 UNC": (0.219, 0.500, 0.049), "#10-32 UNF": (0.219, 0.500, 0.049),
            "1/4-20 UNC": (0.281, 0.625, 0.065), "5/16-18 UNC": (0.344, 0.688, 0.065),
            "3/8-16 UNC": (0.406, 0.812, 0.065), "1/2-13 UNC": (0.531, 1.062, 0.095),
        }.items()
    }  # fmt: skip
