"""ISO 4762: hexagon socket head cap screws. Head diameter (plain), head height, width of the socket,
its least depth; threaded over 2 d + 12 mm, shorter ones up to the head."""

from __future__ import annotations

from typing import ClassVar

from vireo.core.hardware.kind import (
    Form,
    Sizes,
    Standard,
    Turned,
    hexagon,
    register,
    shank,
    threaded,
)
from vireo.core.screws import SCREWS


@register
class SocketHead(Standard):
    standard = "ISO 4762"
    label = "Socket head screw"
    role = "screw"
    order = 10
    made = (
        2.5, 3, 4, 5, 6, 8, 10, 12, 16, 20, 25, 30, 35, 40, 45, 50, 55, 60, 65, 70, 80, 90, 100, 110, 120,
        130, 140, 150, 160, 180, 200,
    )  # fmt: skip
    #: dk, k, s, t, shortest and longest.
    sizes: ClassVar[Sizes] = {
        "M1.6": (3.0, 1.6, 1.5, 0.7, 2.5, 16), "M2": (3.8, 2.0, 1.5, 1.0, 3, 20),
        "M2.5": (4.5, 2.5, 2.0, 1.1, 4, 25), "M3": (5.5, 3.0, 2.5, 1.3, 5, 30),
        "M4": (7.0, 4.0, 3.0, 2.0, 6, 40), "M5": (8.5, 5.0, 4.0, 2.5, 8, 50),
        "M6": (10.0, 6.0, 5.0, 3.0, 10, 60), "M8": (13.0, 8.0, 6.0, 4.0, 12, 80),
        "M10": (16.0, 10.0, 8.0, 5.0, 16, 100), "M12": (18.0, 12.0, 10.0, 6.0, 20, 120),
        "M16": (24.0, 16.0, 14.0, 8.0, 25, 160), "M20": (30.0, 20.0, 17.0, 10.0, 30, 200),
        "M24": (36.0, 24.0, 19.0, 12.0, 40, 200),
    }  # fmt: skip

    def height(self, size: str) -> float:
        return self.sizes[size][1]

    def form(self, size: str, length: float) -> Form:
        dk, k, s, t, *_ = self.sizes[size]
        return socket_form(size, dk, k, s, t, length, _thread(size))


def _thread(size: str) -> float:
    short = {"M1.6": 15.0, "M2": 16.0, "M2.5": 17.0}
    return short.get(size, 2 * SCREWS[size].diameter + 12)


def socket_form(
    size: str, dk: float, k: float, s: float, t: float, length: float, thread: float
) -> Form:
    """A round head with a hexagon socket, its rim chamfered by a tenth of the diameter."""
    screw = SCREWS[size]
    v = screw.diameter / 10
    outline = (
        *shank(screw, length, thread), (screw.diameter / 2, 0.0, "seat"), (dk / 2, 0.0, "head"),
        (dk / 2, k - v, "rim"), (dk / 2 - v, k, "top"), (0.0, k, "axis"),
    )  # fmt: skip
    return Form(
        Turned(outline),
        cut=(hexagon(s, k - t, k + 1.0, "socket"),),
        thread=threaded(screw, length, thread),
    )
