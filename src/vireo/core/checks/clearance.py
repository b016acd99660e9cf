"""The least gap of watched components all through a run."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, ran, register
from vireo.core.documents import Check
from vireo.core.quantity import LENGTH, Quantity


@register
class ClearanceCheck(CheckKind):
    """Its field ``run`` names a run, whose watched gaps it looks at."""

    kind, label = "clearance", "Least clearance"
    documents = ("assembly",)
    cost = 2
    dimension, unit = LENGTH, "mm"
    asks = ("run",)
    relation, limit = "at_least", "1 mm"
    line = "Least gap of the components a run watches, all through it"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        watched = ran(check, ask)["watched"]
        if not watched:
            raise CheckTrouble("its run watches no gap: edit the run and choose what is watched")
        return Quantity(min(w["least"] for w in watched), LENGTH)
