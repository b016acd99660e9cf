"""A check: what a ballast weighs, found by a job."""

from vireo.core.checks.kind import Ask, CheckKind, register
from vireo.core.documents import Check
from vireo.core.quantity import Quantity
from vireo.core.quantity.units import MASS


@register
class Heaviness(CheckKind):
    kind, label = "heaviness", "Weight of ballast"
    documents = ("ballast",)
    dimension, unit = MASS, "g"
    limit = "1 kg"
    line = "All weights together"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        return Quantity(ask.job("weigh")["total"] * 1e-3, MASS)
