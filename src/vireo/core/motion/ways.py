"""Axes of the space by their words."""

from __future__ import annotations

import numpy as np

from vireo.core.assembly.pose import Floats


def axis_of(word: str) -> Floats:
    """``X`` or ``-X`` as a direction."""
    sign = -1.0 if word.startswith("-") else 1.0
    return np.asarray(sign * np.eye(3)["XYZ".index(word[-1])])
