"""Help with a sketch: what is open, what could settle it, what still moves, how far a size goes,
what can be read off."""

from vireo.core.sketch.advice.gaps import Gap, gaps
from vireo.core.sketch.advice.measure import Reading, Readings, measured
from vireo.core.sketch.advice.reach import reachable
from vireo.core.sketch.advice.settle import Proposal, proposals
from vireo.core.sketch.advice.wiggle import Motion, motions

__all__ = [
    "Gap",
    "Motion",
    "Proposal",
    "Reading",
    "Readings",
    "gaps",
    "measured",
    "motions",
    "proposals",
    "reachable",
]
