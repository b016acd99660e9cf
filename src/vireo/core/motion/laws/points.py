"""Through values at given times, smoothly."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

from scipy.interpolate import CubicSpline

from vireo.core.documents.kinds.assembly import Driver
from vireo.core.motion.law import Going, LawKind, Led, add
from vireo.core.motion.slots import Slot
from vireo.core.quantity.units import TIME
from vireo.core.trouble import BadInput


def going(driver: Driver, led: Led) -> Callable[[float], Going]:
    """By a cubic spline at rest at both ends; before and after its points it stands still."""
    if len(driver.points) < 2:
        raise BadInput("a motion through points needs two of them or more")
    times = [
        led.quantity(t, TIME, f"time {k} of its points")
        for k, (t, _) in enumerate(driver.points, 1)
    ]
    values = [
        led.quantity(v, led.dimension, f"value {k} of its points")
        for k, (_, v) in enumerate(driver.points, 1)
    ]
    for k, (a, b) in enumerate(pairwise(times), 2):
        if b <= a:
            raise BadInput(f"time {k} of its points, {b:g} s, does not come after {a:g} s")
    curve = CubicSpline(times, values, bc_type="clamped")

    def at(t: float) -> Going:
        if t < times[0]:
            return values[0], 0.0, 0.0
        if t > times[-1]:
            return values[-1], 0.0, 0.0
        return float(curve(t)), float(curve(t, 1)), float(curve(t, 2))

    return at


add(
    LawKind(
        "points", "Through points", "Through values at given times, smoothly, at rest at both ends",
        (Slot("points", "Times and values", "points"),),
        going, order=30,
    )
)  # fmt: skip
