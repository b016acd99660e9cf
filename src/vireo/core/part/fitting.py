"""Sizes that do not fit: the largest that works there, found by trying."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal, TypeVar

from vireo.core.kernel.blend import largest_that_fits
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.part.context import StepTrouble
from vireo.core.trouble import Offer

T = TypeVar("T")


def fitted(
    attempt: Callable[[float], T],
    size: float,
    field: str,
    what: str,
    unit: Literal["mm", "deg"] = "mm",
    advice: str = "",
) -> T:
    """The result of `attempt(size)`; sizes in mm or rad.

    When the kernel cannot, raises StepTrouble that says why, up to which size it works (tried,
    on the same side of zero), and offers that; `advice` is what to do when none does.
    """
    try:
        return attempt(size)
    except KernelTrouble as error:
        reason = error.text
    sign = math.copysign(1.0, size)

    def works(v: float) -> bool:
        try:
            attempt(sign * v)
        except KernelTrouble:
            return False
        return True

    largest = largest_that_fits(works, abs(size))

    def shown(v: float) -> str:
        return f"{math.degrees(v) if unit == 'deg' else v:.4g} {unit}"

    text = f"{what} {shown(size)} does not fit ({reason})"
    if largest is None:
        text += "; nothing smaller does either" + (f": {advice}" if advice else "")
        raise StepTrouble(text, [f"field:{field}"])
    use = shown(sign * largest)
    raise StepTrouble(
        f"{text}: the largest that works there is {use}",
        [f"field:{field}"],
        [Offer(label=f"Use {use}", fields={field: use})],
    )
