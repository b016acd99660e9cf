"""Largest displacement of a strength study."""

from vireo.core.checks.kind import Ask, CheckKind, register
from vireo.core.documents import Check
from vireo.core.quantity import LENGTH, Quantity


@register
class DeflectionCheck(CheckKind):
    kind, label = "deflection", "Deflection"
    documents = ("study",)
    dimension, unit, cost = LENGTH, "mm", 2
    limit = "0.5 mm"
    line = "Largest displacement under the loads"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        return Quantity(ask.job("strength")["answer"]["deflection"], LENGTH)
