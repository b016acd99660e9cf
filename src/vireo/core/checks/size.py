"""Size along an axis."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import LENGTH, Quantity


@register
class SizeCheck(CheckKind):
    """Its field ``axis`` says along which axis."""

    kind, label = "size", "Size"
    documents = ("part", "assembly")
    dimension, unit = LENGTH, "mm"
    asks = ("axis",)
    limit = "200 mm"
    line = "How long it is along X, Y or Z, everything together"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        found = ask.task("size", {})
        if found is None:
            raise CheckTrouble("there is nothing to measure yet")
        return Quantity(found[self.axis(check)], LENGTH)
