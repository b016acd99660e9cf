"""Where the centre of mass is along an axis."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import LENGTH, Quantity


@register
class CentreCheck(CheckKind):
    """Its field ``axis`` says along which axis."""

    kind, label = "centre", "Centre of mass"
    documents = ("part", "assembly")
    dimension, unit, cost = LENGTH, "mm", 0
    asks = ("axis",)
    limit = "50 mm"
    line = "Where the centre of mass is along X, Y or Z"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        axis, centre = self.axis(check), ask.built()["centre"]
        if centre is None:
            raise CheckTrouble("there is nothing that weighs anything yet")
        return Quantity(centre[axis], LENGTH)
