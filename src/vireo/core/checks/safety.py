"""Least safety factor of a strength study."""

from vireo.core.checks.kind import Ask, CheckKind, register
from vireo.core.documents import Check
from vireo.core.quantity import Quantity
from vireo.core.quantity.units import NUMBER


@register
class SafetyCheck(CheckKind):
    kind, label = "safety", "Safety factor"
    documents = ("study",)
    cost = 2
    dimension = NUMBER
    relation, limit = "at_least", "2"
    line = "Yield strength over the largest von Mises stress"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        return Quantity(ask.job("strength")["answer"]["safety"], NUMBER)
