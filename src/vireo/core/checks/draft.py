"""Least draft against a pull."""

from typing import Any

from vireo.core.checks.kind import Ask, GaugeCheck, register
from vireo.core.documents import Check
from vireo.core.quantity import ANGLE


@register
class DraftCheck(GaugeCheck):
    """Its field ``axis`` says along which axis the mould opens."""

    kind, label = "draft", "Draft"
    dimension, unit = ANGLE, "deg"
    asks = ("axis",)
    relation, limit = "at_least", "1 deg"
    line = "Least lean of the skin against a pull; less than nothing where it is undercut"
    gauge, none = "draft", "there is no solid to draw from a mould"

    def asked(self, check: Check, ask: Ask) -> dict[str, Any]:
        return {"axis": "xyz"[self.axis(check)]}
