"""Largest stress of a strength study."""

from vireo.core.checks.kind import Ask, CheckKind, register
from vireo.core.documents import Check
from vireo.core.quantity import Quantity
from vireo.core.quantity.units import PRESSURE


@register
class StressCheck(CheckKind):
    kind, label = "stress", "Stress"
    documents = ("study",)
    dimension, unit, cost = PRESSURE, "MPa", 2
    limit = "120 MPa"
    line = "Largest von Mises stress"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        # MPa: N/mm2, a newton being 1000 kg mm/s2.
        return Quantity(ask.job("strength")["answer"]["peak"] * 1e3, PRESSURE)
