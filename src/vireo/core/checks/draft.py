"""Least draft against a pull."""

from vireo.core.checks.kind import Ask, CheckKind, CheckTrouble, register
from vireo.core.documents import Check
from vireo.core.quantity import ANGLE, Quantity


@register
class DraftCheck(CheckKind):
    """Its field ``axis`` says along which axis the mould opens."""

    kind, label = "draft", "Draft"
    documents = ("part",)
    dimension, unit = ANGLE, "deg"
    asks = ("axis",)
    relation, limit = "at_least", "1 deg"
    line = "Least lean of the skin against a pull; less than nothing where it is undercut"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        asked = {"axis": "xyz"[self.axis(check)]}
        found = ask.task("gauge", {"gauge": "draft", "asked": asked})
        if found is None:
            raise CheckTrouble("there is no solid to draw from a mould")
        return Quantity(found, ANGLE)
