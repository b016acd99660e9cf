"""A formula of the time t."""

from __future__ import annotations

from collections.abc import Callable

from vireo.core.documents.kinds.assembly import Driver
from vireo.core.motion.law import Going, LawKind, Led, add
from vireo.core.motion.slots import Slot
from vireo.core.motion.timed import of_time


def going(driver: Driver, led: Led) -> Callable[[float], Going]:
    """Speed and acceleration by differences of fourth order over times that are small against the run."""
    value = of_time(driver.value, led.dimension, led.names, "its formula")
    h = 5e-4 * led.duration

    def at(t: float) -> Going:
        # A formula need not know times before the run.
        middle = max(t, 2 * h)
        q = [value(middle + k * h) for k in (-2, -1, 0, 1, 2)]
        speed = (q[0] - 8 * q[1] + 8 * q[3] - q[4]) / (12 * h)
        growth = (-q[0] + 16 * q[1] - 30 * q[2] + 16 * q[3] - q[4]) / (12 * h * h)
        jerk = (-q[0] + 2 * q[1] - 2 * q[3] + q[4]) / (2 * h**3)
        back = t - middle
        return value(t), speed + growth * back + 0.5 * jerk * back**2, growth + jerk * back

    return at


add(
    LawKind(
        "formula", "By a formula", "A formula of the time t, as 30 deg * sin(360 deg * t / 1 s)",
        (Slot("value", "Value over t", "formula"),),
        going, order=40,
    )
)  # fmt: skip
