"""Sketches: entities, constraints, the solver, and what is still free or clashes."""

from vireo.core.sketch.model import Drawing
from vireo.core.sketch.solved import Solved, curves_of, solve_drawing

__all__ = ["Drawing", "Solved", "curves_of", "solve_drawing"]
