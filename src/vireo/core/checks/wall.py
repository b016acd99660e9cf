"""Least wall thickness."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import LENGTH, Quantity


@register
class WallCheck(CheckKind):
    kind, label = "wall", "Wall thickness"
    documents = ("part",)
    dimension, unit = LENGTH, "mm"
    relation, limit = "at_least", "2 mm"
    line = "Thinnest wall, straight through from face to face"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        found = ask.task("gauge", {"gauge": "wall", "asked": {}})
        if found is None:
            raise CheckTrouble("no two faces look away from each other across material")
        return Quantity(found, LENGTH)
