"""Gauges: a number read off the shape of a body, folded over the bodies of a part."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from vireo.core.kernel.curvature import bends
from vireo.core.kernel.holes import round_holes
from vireo.core.kernel.measure import open_edges, sharp_inner_edges
from vireo.core.kernel.shape import Body
from vireo.core.maps.thickness import thickness
from vireo.core.maps.undercut import NEITHER, undercut

#: Raise when a body would be read otherwise.
VERSION = 1


@dataclass(frozen=True)
class Gauge:
    """`read` gives the number of one body (None: it has none), `fold` that of several; of bodies of
    one `form`."""

    read: Callable[[Body, dict[str, Any]], float | None]
    fold: Callable[[Sequence[float]], float]
    form: str = "solid"


def _wall(body: Body, asked: dict[str, Any]) -> float | None:
    """Least wall (mm), on the true faces."""
    least: float | None = thickness(body).told["least"]
    return least


def _radius(body: Body, asked: dict[str, Any]) -> float | None:
    """Least hollow radius (mm): the largest ball cutter that reaches every place; nothing where a
    sharp inner edge is, unless those are passed over."""
    if asked.get("edges") != "round" and sharp_inner_edges(body):
        return 0.0
    _, values = bends(body)
    hollow = float(np.nanmin(values[:, 1])) if len(values) else 0.0
    return -1.0 / hollow if hollow < -1e-9 else None


def _draft(body: Body, asked: dict[str, Any]) -> float | None:
    """Least lean (rad) of the skin against a pull; what neither half of the mould lets go counts below
    nothing."""
    pull = np.eye(3)["xyz".index(asked["axis"])]
    found = undercut(body, (float(pull[0]), float(pull[1]), float(pull[2])))
    lean = np.abs(np.arcsin(np.clip(found.normals @ pull, -1.0, 1.0)))
    lean[lean < 1e-7] = 0.0
    shut = found.values[:, 0] == NEITHER
    return float(np.where(shut, -np.maximum(lean, math.radians(0.01)), lean).min())


def _holes(body: Body, asked: dict[str, Any]) -> float | None:
    """How many round holes, or how many with a stretch of one diameter (mm)."""
    wide = asked.get("diameter")
    found = round_holes(body)
    if wide is not None:
        found = [h for h in found if any(abs(2 * r - wide) < 1e-4 for r in h)]
    return float(len(found))


def _open(body: Body, asked: dict[str, Any]) -> float | None:
    """How many edges of a surface only one face has."""
    return float(open_edges(body))


GAUGES = {
    "wall": Gauge(_wall, min),
    "radius": Gauge(_radius, min),
    "draft": Gauge(_draft, min),
    "holes": Gauge(_holes, sum),
    "open": Gauge(_open, sum, "surface"),
}
