"""Where a port is along an axis."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import LENGTH, Quantity


@register
class PortPlaceCheck(CheckKind):
    """Its fields ``port`` (a step) and ``axis`` say what is looked at."""

    kind, label = "port_place", "Place of a port"
    documents = ("part",)
    dimension, unit = LENGTH, "mm"
    asks = ("port", "axis")
    limit = "50 mm"
    line = "Where a port stands along X, Y or Z"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        port = check.fields.get("port")
        if not port:
            raise CheckTrouble("this check looks at a port: add it again and choose one")
        return Quantity(ask.task("port_at", {"step": port})[self.axis(check)], LENGTH)
