"""Components, joints, and the solver that puts them in place. Pure mathematics, no kernel."""

from vireo.core.assembly.mechanism import Mechanism, Member, Pair
from vireo.core.assembly.solver import Solution, drag, solve

__all__ = ["Mechanism", "Member", "Pair", "Solution", "drag", "solve"]
