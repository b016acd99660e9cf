"""What a sketch can take from elsewhere and follow: one file per way, entered by importing it."""

from vireo.core.part.links import axis, crossing, cut, layout, seen, silhouette, sketched
from vireo.core.part.links.base import WAYS, LinkWay, Place, brought_curves

__all__ = [
    "WAYS", "LinkWay", "Place", "axis", "brought_curves", "crossing", "cut", "layout", "seen",
    "silhouette", "sketched",
]  # fmt: skip
