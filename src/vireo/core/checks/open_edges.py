"""Open edges of surfaces."""

from vireo.core.checks.kind import GaugeCheck, register
from vireo.core.quantity import NUMBER


@register
class OpenEdgesCheck(GaugeCheck):
    kind, label = "open_edges", "Open edges"
    dimension = NUMBER
    limit = "0"
    line = "How many edges of its surfaces bound one face only: none when they close"
    gauge = "open"
