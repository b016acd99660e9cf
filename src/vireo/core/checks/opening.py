"""How far two picks are apart where a joint goes no further."""

from vireo.core.checks.kind import Ask, CheckKind, reached, register
from vireo.core.documents import Check
from vireo.core.quantity import LENGTH, Quantity


@register
class OpeningCheck(CheckKind):
    """Its fields ``joint`` and ``coordinate`` name what is moved, ``side`` (``up`` or ``back``) which way."""

    kind, label = "opening", "Opening"
    documents = ("assembly",)
    cost = 2
    dimension, unit = LENGTH, "mm"
    picks = 2
    asks = ("coordinate", "side")
    relation, limit = "at_least", "50 mm"
    line = "How far two faces, edges or corners are apart where a joint goes no further"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        _, end = reached(check, ask, picks=self.taken(check))
        return Quantity(end["between"], LENGTH)
