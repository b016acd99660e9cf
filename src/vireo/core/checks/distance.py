"""Least distance between two picks."""

from vireo.core.checks.kind import Ask, CheckKind, register
from vireo.core.documents import Check
from vireo.core.quantity import Quantity
from vireo.core.quantity.units import LENGTH


@register
class DistanceCheck(CheckKind):
    kind, label = "distance", "Distance"
    documents = ("part", "assembly")
    dimension, unit = LENGTH, "mm"
    picks = 2
    relation, limit = "at_least", "2 mm"
    line = "Least distance between two faces, edges or corners"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        found = ask.task("distance", {"picks": self.taken(check)})
        return Quantity(found["distance"], LENGTH)
