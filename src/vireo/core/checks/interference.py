"""Overlap volume of an assembly."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import Quantity
from vireo.core.quantity.units import VOLUME


@register
class InterferenceCheck(CheckKind):
    kind, label = "interference", "Interference"
    documents = ("assembly",)
    dimension = VOLUME
    limit = "0 mm**3"
    line = "Volume in which components overlap"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        found = ask.job("interference")
        left = len(found["left"])
        if left:
            told = "a body here is a surface" if left == 1 else f"{left} bodies here are surfaces"
            raise CheckTrouble(
                f"overlaps are looked for in solids only, and {told}: thicken what has to be clear, "
                "or leave it out of the assembly"
            )
        return Quantity(found["volume"], VOLUME)
