"""From where the coordinate stands to a value, with rest at both ends."""

from __future__ import annotations

from collections.abc import Callable

from vireo.core.documents.kinds.assembly import Driver
from vireo.core.motion.law import Going, LawKind, Led, add
from vireo.core.motion.slots import Slot
from vireo.core.quantity.units import TIME
from vireo.core.trouble import BadInput


def going(driver: Driver, led: Led) -> Callable[[float], Going]:
    """By the polynomial 10x³ - 15x⁴ + 6x⁵: speed and acceleration are nothing at both ends."""
    way = led.quantity(driver.value, led.dimension, "where it goes to") - led.now
    over = led.duration
    if driver.over:
        over = led.quantity(driver.over, TIME, "the time it takes")
    if over <= 0:
        raise BadInput("the time it takes has to be more than none")

    def at(t: float) -> Going:
        x = min(max(t / over, 0.0), 1.0)
        return (
            led.now + way * (10 * x**3 - 15 * x**4 + 6 * x**5),
            way / over * 30 * x**2 * (1 - x) ** 2,
            way / over**2 * 60 * x * (1 - x) * (1 - 2 * x),
        )

    return at


add(
    LawKind(
        "go_to", "To a value", "From where it stands to a value, smoothly from rest to rest",
        (
            Slot("value", "To", "value"),
            Slot("over", "In", "time", "", "the whole run"),
        ),
        going, order=20,
    )
)  # fmt: skip
