"""Open edges of surfaces."""

from vireo.core.checks.kind import Ask, CheckKind, register
from vireo.core.documents import Check
from vireo.core.quantity import NUMBER, Quantity


@register
class OpenEdgesCheck(CheckKind):
    kind, label = "open_edges", "Open edges"
    documents = ("part",)
    dimension = NUMBER
    limit = "0"
    line = "How many edges of its surfaces bound one face only: none when they close"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        return Quantity(ask.task("gauge", {"gauge": "open", "asked": {}}) or 0.0, NUMBER)
