"""A steady speed from where the coordinate stands, taken up over a while."""

from __future__ import annotations

from collections.abc import Callable

from vireo.core.documents.kinds.assembly import Driver
from vireo.core.motion.law import Going, LawKind, Led, add
from vireo.core.motion.slots import Slot
from vireo.core.quantity.units import TIME
from vireo.core.trouble import BadInput


def going(driver: Driver, led: Led) -> Callable[[float], Going]:
    speed = led.quantity(driver.value, led.speed, "its speed")
    ramp = (
        led.quantity(driver.over, TIME, "the time it takes to come up to speed")
        if driver.over
        else 0
    )
    if ramp < 0:
        raise BadInput("it comes up to speed in no less than no time")

    def at(t: float) -> Going:
        if t >= ramp:
            return led.now + speed * (t - 0.5 * ramp), speed, 0.0
        # The speed grows as 3x² - 2x³, without a jerk at either end.
        x = t / ramp
        return (
            led.now + speed * ramp * (x**3 - 0.5 * x**4),
            speed * (3 * x**2 - 2 * x**3),
            speed / ramp * 6 * x * (1 - x),
        )

    return at


add(
    LawKind(
        "speed", "At a speed", "From where it stands at a steady speed",
        (
            Slot("value", "Speed", "speed", "60 rpm"),
            Slot("over", "Up to speed in", "time", "", "at once"),
        ),
        going, order=10,
    )
)  # fmt: skip
