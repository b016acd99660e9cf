"""Ends that meet nothing: why an outline does not close."""

from __future__ import annotations

import math
from dataclasses import dataclass

from vireo.core.curves import Pair
from vireo.core.sketch.model import Drawing
from vireo.core.sketch.solved import curves_of


@dataclass(frozen=True)
class Gap:
    """An open end of `curve`; `size` mm to the nearest other open end, None when it is alone."""

    curve: str
    at: Pair
    size: float | None
    to: Pair | None


def gaps(drawing: Drawing, join: float = 1e-6) -> list[Gap]:
    """Open ends of curves that are no construction, nearest pairs first."""
    curves = [(id, c) for id, c in curves_of(drawing) if math.dist(*c.ends) > join]
    ends = [(id, end) for id, c in curves for end in c.ends]
    everything = curves_of(drawing)
    lone = []
    for k, (id, at) in enumerate(ends):
        if any(math.dist(at, other) <= join for j, (_, other) in enumerate(ends) if j != k):
            continue
        # An end that lies on another curve closes there.
        on = (
            math.dist(c.at(min(max(c.parameter(at), c.range[0]), c.range[1])), at) <= join
            for other, c in everything
            if other != id
        )
        if not any(on):
            lone.append((id, at))
    found: list[Gap] = []
    for k, (id, at) in enumerate(lone):
        others = [p for j, (_, p) in enumerate(lone) if j != k]
        to = min(others, key=lambda p: math.dist(at, p)) if others else None
        if to is not None and any(g.at == to and g.to == at for g in found):
            continue  # told from the other side already
        found.append(Gap(id, at, math.dist(at, to) if to else None, to))
    return sorted(found, key=lambda g: g.size if g.size is not None else math.inf)
