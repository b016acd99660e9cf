"""Gauges: a number read off the shape of a body, folded over the bodies of a part."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vireo.core.geometry import triple
from vireo.core.kernel.curvature import bends
from vireo.core.kernel.holes import round_holes
from vireo.core.kernel.locate import ahead, foot_on
from vireo.core.kernel.measure import open_edges, sharp_inner_edges
from vireo.core.kernel.mesh import tessellate
from vireo.core.kernel.shape import Body
from vireo.core.maps.kind import Floats
from vireo.core.maps.sampling import Samples, sampled
from vireo.core.maps.thickness import thickness
from vireo.core.maps.undercut import NEITHER, undercut

#: Raise when a body would be read otherwise.
VERSION = 2
#: On how many places of a face an undercut is looked for again, and how far off the skin (mm).
_TRIED = 12
_OFF = 1e-4


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
    nothing. Nothing where a round face turns from one half to the other."""
    pull = np.eye(3)["xyz".index(asked["axis"])]
    skin = sampled(tessellate(body))
    along = skin.normals @ pull
    lean = np.abs(np.arcsin(np.clip(along, -1.0, 1.0)))
    told = undercut(body, triple(pull)).values[:, 0] == NEITHER
    shut = _shut(body, skin, np.flatnonzero(told), lean, pull)
    if shut is not None:
        return -max(shut, math.radians(0.01))
    turns = along[skin.triangles]
    if ((turns.min(axis=1) < -1e-9) & (turns.max(axis=1) > 1e-9)).any():
        return 0.0
    least = float(lean.min())
    return least if least > 1e-7 else 0.0


def _shut(
    body: Body, skin: Samples, told: NDArray[np.intp], lean: Floats, pull: Floats
) -> float | None:
    """The largest lean of what is undercut; None where nothing is. What the mesh tells is tried again
    on the true faces: where a round face turns away from the pull its chords shade it."""
    faces, places = skin.face_of_point(), skin.inset()
    tried: Counter[int] = Counter()
    for i in told[np.argsort(-lean[told])]:
        face = int(faces[i])
        if tried[face] >= _TRIED:
            continue
        tried[face] += 1
        at, n = foot_on(body.faces[face], triple(places[i]))
        along = float(np.array(n) @ pull)
        start = triple(np.array(at) + _OFF * np.array(n))
        free = (
            sign * along > -1e-9 and ahead(body.shape, start, triple(sign * pull)) is None
            for sign in (1.0, -1.0)
        )  # fmt: skip
        if not any(free):
            return abs(math.asin(max(-1.0, min(1.0, along))))
    return None


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
