"""Least inner radius."""

from typing import Any

from vireo.core.checks.kind import Ask, GaugeCheck, register
from vireo.core.documents import Check
from vireo.core.quantity import LENGTH


@register
class RadiusCheck(GaugeCheck):
    """Its field ``edges`` says whether sharp inner edges count (``all``), or only what is ``round``."""

    kind, label = "least_radius", "Least inner radius"
    dimension, unit = LENGTH, "mm"
    asks = ("edges",)
    relation, limit = "at_least", "3 mm"
    line = "Tightest hollow of the skin; nothing where there is a sharp inner edge"
    gauge, none = "radius", "nothing of it is hollow"

    def asked(self, check: Check, ask: Ask) -> dict[str, Any]:
        return {"edges": "round" if check.fields.get("edges") == "round" else "all"}
