"""Least gap between two components."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import LENGTH, Quantity


@register
class GapCheck(CheckKind):
    """Its picks say which two components."""

    kind, label = "gap", "Gap"
    documents = ("assembly",)
    dimension, unit = LENGTH, "mm"
    picks = 2
    relation, limit = "at_least", "1 mm"
    line = (
        "Least gap between two whole components as they stand; less than nothing where they overlap"
    )

    def measure(self, check: Check, ask: Ask) -> Quantity:
        components = [p["component"] for p in self.taken(check)]
        if components[0] == components[1]:
            raise CheckTrouble("both picks are on one component: pick two that stand apart")
        return Quantity(ask.task("gap", {"components": components}), LENGTH)
