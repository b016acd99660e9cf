"""DIN 471: retaining rings for shafts, by shaft diameter. Thickness, diameter of the groove, width of
the ring. Drawn as fitted: its bore lies on the bottom of the groove; ears are left out."""

from __future__ import annotations

from typing import ClassVar

from vireo.core.hardware.kind import Form, Prism, Sizes, Standard, Turned, register


@register
class ShaftRing(Standard):
    standard = "DIN 471"
    label = "Retaining ring for a shaft"
    role = "ring"
    order = 80
    #: d1, s, d2, b.
    sizes: ClassVar[Sizes] = {
        "10": (10.0, 1.0, 9.6, 1.8), "12": (12.0, 1.0, 11.5, 1.8), "14": (14.0, 1.0, 13.4, 2.1),
        "15": (15.0, 1.0, 14.3, 2.2), "16": (16.0, 1.0, 15.2, 2.2), "17": (17.0, 1.0, 16.2, 2.3),
        "18": (18.0, 1.2, 17.0, 2.4), "20": (20.0, 1.2, 19.0, 2.6), "22": (22.0, 1.2, 21.0, 2.8),
        "25": (25.0, 1.2, 23.9, 3.0), "28": (28.0, 1.5, 26.6, 3.2), "30": (30.0, 1.5, 28.6, 3.5),
        "35": (35.0, 1.5, 33.0, 3.9), "40": (40.0, 1.75, 37.5, 4.4),
    }  # fmt: skip

    def nominal(self, size: str) -> float:
        return self.sizes[size][0]

    def height(self, size: str) -> float:
        return self.sizes[size][1]

    def form(self, size: str, length: float) -> Form:
        _, s, d2, b = self.sizes[size]
        inner, outer = d2 / 2, d2 / 2 + b
        outline = (
            (inner, 0.0, "seat"), (outer, 0.0, "rim"), (outer, s, "top"), (inner, s, "bore"),
        )  # fmt: skip
        w = 0.15 * d2
        gap = ((0.0, -w), (outer + 1, -w), (outer + 1, w), (0.0, w))
        return Form(Turned(outline), cut=(Prism(gap, -1.0, s + 1.0, "gap"),))
