"""How far a joint goes before something is met."""

import math

from vireo.core.checks.kind import Ask, CheckKind, reached, register
from vireo.core.documents import Check
from vireo.core.quantity import ANGLE, LENGTH, Quantity


@register
class ReachCheck(CheckKind):
    """Its fields ``joint`` and ``coordinate`` name what is moved, ``side`` (``up`` or ``back``) which way."""

    kind, label = "reach", "Reach of a joint"
    documents = ("assembly",)
    cost = 2
    dimension = ANGLE
    asks = ("coordinate", "side")
    relation, limit = "at_least", "90 deg"
    line = "How far a joint goes before anything is met or a limit is reached"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        found, end = reached(check, ask)
        if found["unit"] == "mm":
            return Quantity(end["value"], LENGTH)
        return Quantity(math.radians(end["value"]), ANGLE)
