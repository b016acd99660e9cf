"""Profile flanges: a drawn profile as bends and what is flat between them."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

from vireo.core.curves import Line2, Pair
from vireo.core.panels.loops import SAME
from vireo.core.sheet.flange import Run
from vireo.core.trouble import BadInput

#: Lines that turn by less than this (rad) are one.
_STRAIGHT = 1e-6


def profile_runs(
    points: Sequence[Pair], top: bool, radius: float, t: float
) -> tuple[tuple[Run, ...], float]:
    """What a profile is bent from, and how far its first bend begins inside the edge (mm). `points` are its
    corners, x outward from the edge and y towards the top from the face it is drawn as: the bottom, or the `top`.
    Each corner becomes a bend of an inner `radius`; a line is shorter by what its bends take, more where its face
    lies outside. Raises BadInput."""
    turns: list[float] = []
    sizes: list[float] = []
    before = (1.0, 0.0)
    for a, b in itertools.pairwise(points):
        size = math.dist(a, b)
        if size <= SAME:
            continue
        way = ((b[0] - a[0]) / size, (b[1] - a[1]) / size)
        turn = math.atan2(
            before[0] * way[1] - before[1] * way[0], before[0] * way[0] + before[1] * way[1]
        )
        if abs(turn) < _STRAIGHT:
            if not sizes:
                raise BadInput(
                    "the first line of the profile goes on in the plane of the sheet: begin with one that is "
                    "bent away from it"
                )
            sizes[-1] += size
        else:
            if abs(turn) > math.pi - 1e-3:
                raise BadInput("two lines of the profile lie on each other: a hem does that")
            turns.append(turn)
            sizes.append(size)
        before = way
    if not turns:
        raise BadInput("the profile has no line that is bent away from the sheet")
    taken = [_taken(turn, top, radius, t) for turn in turns]
    runs = []
    for k, (turn, size) in enumerate(zip(turns, sizes, strict=True)):
        flat = size - taken[k] - (taken[k + 1] if k + 1 < len(taken) else 0.0)
        if flat <= SAME:
            raise BadInput(
                f"line {k + 1} of the profile, {size:.4g} mm, is all bend: with this radius its bends take "
                f"{size - flat:.4g} mm"
            )
        runs.append(Run(turn, radius, (flat, flat)))
    return tuple(runs), taken[0] - points[0][0]


def _taken(turn: float, top: bool, radius: float, t: float) -> float:
    """From the corner of a face to where its bend begins (mm): the bottom is outside where it bends to the top."""
    outside = (turn > 0.0) != top
    return (radius + (t if outside else 0.0)) * math.tan(abs(turn) / 2.0)


def chained(lines: Sequence[Line2], near: Pair) -> list[Pair]:
    """The corners of lines that form one open chain, from the end nearer to a place. Raises BadInput."""
    left = [(c.a, c.b) for c in lines]
    chain = list(left.pop(0))
    grown = True
    while left and grown:
        grown = False
        for k, (a, b) in enumerate(left):
            for end, at in ((0, chain[0]), (-1, chain[-1])):
                far = b if math.dist(a, at) < 1e-6 else a if math.dist(b, at) < 1e-6 else None
                if far is not None:
                    chain.insert(0, far) if end == 0 else chain.append(far)
                    left.pop(k)
                    grown = True
                    break
            if grown:
                break
    if left:
        raise BadInput("the profile is one chain of straight lines that meet end to end")
    if math.dist(chain[0], chain[-1]) < 1e-6:
        raise BadInput("the profile is open: this one comes back to where it begins")
    return chain if math.dist(chain[0], near) <= math.dist(chain[-1], near) else chain[::-1]
