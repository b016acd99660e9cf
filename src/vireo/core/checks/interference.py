"""Overlap volume of an assembly."""

from vireo.core.checks.kind import Ask, CheckKind, register
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
        return Quantity(ask.job("interference")["volume"], VOLUME)
