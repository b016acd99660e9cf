"""Mass of a part or an assembly."""

from vireo.core.checks.kind import Ask, CheckKind, register
from vireo.core.documents import Check
from vireo.core.quantity import Quantity
from vireo.core.quantity.units import MASS


@register
class MassCheck(CheckKind):
    kind, label = "mass", "Mass"
    documents = ("part", "assembly")
    dimension, unit = MASS, "g"
    limit = "500 g"
    line = "Mass of everything, from volumes and materials"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        return Quantity(ask.built()["mass"] * 1e-3, MASS)
