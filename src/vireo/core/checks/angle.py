"""Angle between two picks."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import ANGLE, Quantity


@register
class AngleCheck(CheckKind):
    kind, label = "angle", "Angle"
    documents = ("part", "assembly")
    dimension, unit = ANGLE, "deg"
    picks = 2
    limit = "90 deg"
    line = "Angle between two flat faces, axes or straight edges, at most 90°"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        found = ask.task("measure", {"picks": self.taken(check)})["readings"]
        angle = next((r["value"] for r in found if r["key"] == "angle"), None)
        if angle is None:
            raise CheckTrouble(
                "one of the two has no direction: pick flat faces, round faces or straight edges"
            )
        return Quantity(angle, ANGLE)
