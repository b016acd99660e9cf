"""Help with a sketch: what is open, what could settle it, what still moves, how far a size goes."""

from vireo.core.sketch.advice.gaps import Gap, gaps
from vireo.core.sketch.advice.reach import reachable
from vireo.core.sketch.advice.settle import Proposal, proposals
from vireo.core.sketch.advice.wiggle import Motion, motions

__all__ = ["Gap", "Motion", "Proposal", "gaps", "motions", "proposals", "reachable"]
