"""ISO 7045: pan head screws with a cross recess, threaded up to the head. Head diameter and height.

The recess is drawn as two crossed slots of a fifth of the head's width: its true form (ISO 4757) is
no matter of fit.
"""

from __future__ import annotations

from typing import ClassVar

from vireo.core.hardware.kind import (
    Form,
    Prism,
    Sizes,
    Standard,
    Turned,
    register,
    shank,
    threaded,
)
from vireo.core.screws import SCREWS


@register
class PanHead(Standard):
    standard = "ISO 7045"
    label = "Pan head screw"
    role = "screw"
    order = 30
    made = (3, 4, 5, 6, 8, 10, 12, 16, 20, 25, 30, 35, 40, 45, 50, 60)
    #: dk, k, shortest and longest.
    sizes: ClassVar[Sizes] = {
        "M1.6": (3.2, 1.3, 3, 16), "M2": (4.0, 1.6, 3, 20), "M2.5": (5.0, 2.1, 3, 25),
        "M3": (5.6, 2.4, 4, 30), "M4": (8.0, 3.1, 5, 40), "M5": (9.5, 3.7, 6, 45),
        "M6": (12.0, 4.6, 8, 60), "M8": (16.0, 6.0, 10, 60), "M10": (20.0, 7.5, 12, 60),
    }  # fmt: skip

    def height(self, size: str) -> float:
        return self.sizes[size][1]

    def form(self, size: str, length: float) -> Form:
        dk, k, *_ = self.sizes[size]
        screw = SCREWS[size]
        v = 0.35 * k
        outline = (
            *shank(screw, length, length), (screw.diameter / 2, 0.0, "seat"),
            (dk / 2, 0.0, "head"), (dk / 2, k - v, "rim"), (dk / 2 - v, k, "top"), (0.0, k, "axis"),
        )  # fmt: skip
        w, a = dk / 10, 0.28 * dk
        cross = (
            (w, w), (w, a), (-w, a), (-w, w), (-a, w), (-a, -w), (-w, -w), (-w, -a), (w, -a),
            (w, -w), (a, -w), (a, w),
        )  # fmt: skip
        return Form(
            Turned(outline),
            cut=(Prism(cross, 0.45 * k, k + 1.0, "recess"),),
            thread=threaded(screw, length, length),
        )
