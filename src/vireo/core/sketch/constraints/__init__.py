"""Kinds of constraint. Importing this room fills the registry."""

from vireo.core.sketch.constraints import direction, linked, place, size, touch  # noqa: F401
from vireo.core.sketch.constraints.base import KINDS, ConstraintKind, kind_of

__all__ = ["KINDS", "ConstraintKind", "kind_of"]
