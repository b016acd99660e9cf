"""Meshes for printers: 3MF and STL, laid on a bed, and what would go wrong."""

from vireo.core.exchange.printed import Printed, read_size, stl, threemf
from vireo.core.printing.lay import Laid, lay
from vireo.core.printing.review import Review, review

__all__ = ["Laid", "Printed", "Review", "lay", "read_size", "review", "stl", "threemf"]
