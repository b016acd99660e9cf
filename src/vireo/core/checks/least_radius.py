"""Least inner radius."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import LENGTH, Quantity


@register
class RadiusCheck(CheckKind):
    """Its field ``edges`` says whether sharp inner edges count (``all``), or only what is ``round``."""

    kind, label = "least_radius", "Least inner radius"
    documents = ("part",)
    dimension, unit = LENGTH, "mm"
    asks = ("edges",)
    relation, limit = "at_least", "3 mm"
    line = "Tightest hollow of the skin; nothing where there is a sharp inner edge"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        asked = {"edges": "round" if check.fields.get("edges") == "round" else "all"}
        found = ask.task("gauge", {"gauge": "radius", "asked": asked})
        if found is None:
            raise CheckTrouble("nothing of it is hollow")
        return Quantity(found, LENGTH)
