"""Least wall thickness."""

from vireo.core.checks.kind import GaugeCheck, register
from vireo.core.quantity import LENGTH


@register
class WallCheck(GaugeCheck):
    kind, label = "wall", "Wall thickness"
    dimension, unit = LENGTH, "mm"
    relation, limit = "at_least", "2 mm"
    line = "Thinnest wall, straight through from face to face"
    gauge, none = "wall", "no two faces look away from each other across material"
