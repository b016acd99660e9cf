"""Volume of a part."""

from vireo.core.checks.kind import Ask, CheckKind, register
from vireo.core.documents import Check
from vireo.core.quantity import Quantity
from vireo.core.quantity.units import VOLUME


@register
class VolumeCheck(CheckKind):
    kind, label = "volume", "Volume"
    documents = ("part",)
    dimension, unit, cost = VOLUME, "mm^3", 0
    limit = "100000 mm^3"
    line = "Volume of all solids the part hands over"

    def measure(self, check: Check, ask: Ask) -> Quantity:
        return Quantity(ask.built()["volume"], VOLUME)
