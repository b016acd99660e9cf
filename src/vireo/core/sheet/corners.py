"""Corners of a panel's outline rounded or bevelled in the plane of the sheet."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from vireo.core.curves import Arc2, Line2, Pair
from vireo.core.panels.loops import SAME, Loop, Seg, line
from vireo.core.trouble import BadInput

Form = Literal["round", "bevel"]


def eased_corner(loop: Loop, i: int, size: float, form: Form, name: str) -> Loop:
    """The loop with the corner at the end of its i-th piece rounded by a radius, or bevelled by a length along both
    sides (mm). Raises BadInput where its sides are curved or too short."""
    k = (i + 1) % len(loop)
    before, after = loop[i], loop[k]
    if not (isinstance(before.curve, Line2) and isinstance(after.curve, Line2)):
        raise BadInput("a corner is rounded or bevelled between two straight walls")
    p = np.array(before.b)
    u, v = np.array(before.a) - p, np.array(after.b) - p
    sides = float(np.hypot(*u)), float(np.hypot(*v))
    u, v = u / sides[0], v / sides[1]
    turn = math.atan2(float(v[0] * -u[1] - v[1] * -u[0]), float(-u @ v))
    # What the loop turns by at the corner, to the left where it is convex.
    turn = -turn
    if abs(math.sin(turn)) < 1e-9:
        raise BadInput("these two walls lie in one line: there is no corner between them")
    back = size * abs(math.tan(turn / 2.0)) if form == "round" else size
    if back >= min(sides) - SAME:
        what = "a radius" if form == "round" else "a bevel"
        raise BadInput(
            f"{what} of {size:.4g} mm takes {back:.4g} mm of both walls, and one is only {min(sides):.4g} mm long"
        )
    a, b = _pair(p + u * back), _pair(p + v * back)
    if form == "bevel":
        put = line(a, b, name)
    else:
        left = turn > 0.0
        normal = np.array([u[1], -u[0]]) * (1.0 if left else -1.0)  # left of the way -u, or right
        centre = np.array(a) + normal * size
        start = math.atan2(*(np.array(a) - centre)[::-1])
        end = start + turn
        arc = Arc2(_pair(centre), size, *((start, end) if left else (end, start)))
        put = Seg(arc, name, not left)
    found = list(loop)
    found[i] = line(before.a, a, before.name)
    found[k] = line(b, after.b, after.name)
    found.insert(i + 1, put)
    return tuple(found)


def _pair(p: np.ndarray) -> Pair:
    return float(p[0]), float(p[1])
