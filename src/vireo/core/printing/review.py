"""What would go wrong when bodies are printed as they lie."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from vireo.core.exchange.printed import Printed, read_size
from vireo.core.geometry import Triple
from vireo.core.kernel.overlap import common
from vireo.core.kernel.shape import Body
from vireo.core.maps.thickness import thickness
from vireo.core.triangles.meeting import meetings, welded

#: How far from the bed a place still rests on it (mm).
_RESTS = 0.02


@dataclass(frozen=True)
class Trouble:
    """Something to look at before printing, with its place (mm, as it lies)."""

    text: str
    at: Triple | None = None


@dataclass(frozen=True)
class Review:
    """Triangles, extent (mm), volume (mm3), area resting on the bed and area that overhangs
    (mm2), and what is wrong."""

    triangles: int
    size: Triple
    volume: float
    rests: float
    overhangs: float
    troubles: tuple[Trouble, ...]


def review(bodies: Sequence[Printed], bed: Triple, steepest: float) -> Review:
    """Bodies as laid, against a bed of a size (mm); faces that lean further over than `steepest`
    from upright (rad) overhang, unless they rest on the bed."""
    troubles: list[Trouble] = []
    size = read_size(bodies)
    over = [f"{s:.1f} mm in {k} against {b:g}" for s, b, k in zip(size, bed, "XYZ", strict=True)
            if s > b + 1e-6]  # fmt: skip
    if over:
        troubles.append(Trouble(f"too large for the bed: {', '.join(over)}"))
    volume = rests = overhangs = 0.0
    for b in bodies:
        t = b.points[b.triangles]
        n = np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])
        area = 0.5 * np.linalg.norm(n, axis=1)
        volume += float(np.einsum("ij,ij->", t[:, 0], n)) / 6.0
        down = -n[:, 2] / np.where(area > 0, 2 * area, 1.0)
        bottom = (t[:, :, 2].max(axis=1) < _RESTS) & (down > 0.999)
        # A face that looks straight down leans over by a quarter turn.
        hangs = (down > math.sin(steepest) + 1e-9) & ~bottom
        rests += float(area[bottom].sum())
        overhangs += float(area[hangs].sum())
        if loose := _open_edges(b):
            troubles.append(
                Trouble(f"{b.name} is not closed: {loose} edges bound one triangle only")
            )
        if hangs.any():
            k = int(np.argmax(np.where(hangs, area, 0)))
            at = t[k].mean(axis=0)
            troubles.append(
                Trouble(
                    f"{b.name} overhangs with {area[hangs].sum():.0f} mm²: print it another way up, or "
                    "with supports",
                    (float(at[0]), float(at[1]), float(at[2])),
                )
            )
    troubles += met(bodies)
    if rests < 1.0:
        troubles.append(Trouble("hardly anything rests on the bed: lay a flat face down"))
    return Review(
        sum(len(b.triangles) for b in bodies), size, volume, rests, overhangs, tuple(troubles)
    )


def met(bodies: Sequence[Printed]) -> list[Trouble]:
    """Bodies whose skin goes through itself, or lies in itself although both are material."""
    troubles = []
    for b in bodies:
        for m in meetings(*welded(b.points, b.triangles.astype(np.int32)), most=1):
            how = "passes through itself" if m.how == "through" else "has one skin inside another"
            troubles.append(Trouble(f"{b.name} {how}: a slicer may fill or leave out that", m.at))
    return troubles


def overlaps(bodies: Sequence[tuple[str, Body]]) -> list[Trouble]:
    """Pairs of bodies that lie in each other, by their true faces, with a place in their own
    coordinates."""
    troubles = []
    for (name, a), (other, b) in itertools.combinations(bodies, 2):
        found = common(a, b, np.eye(3), np.zeros(3))
        if found is not None and found.volume > 1e-6:
            words = f"{name} and {other} lie in each other by {found.volume:.3g} mm³: join them, " \
                "or move them apart"  # fmt: skip
            troubles.append(Trouble(words, found.at))
    return troubles


def thin_walls(name: str, body: Body, least: float) -> list[Trouble]:
    """Walls of a body thinner than `least` (mm), the thinnest first, with their places in the
    body's own coordinates."""
    found = thickness(body)
    return [
        Trouble(f"{name} has a wall of {p.value:.2g} mm, below {least:g} mm", p.at)
        for p in found.places
        if p.value < least * (1.0 - 1e-6)
    ]


def _open_edges(b: Printed) -> int:
    """Edges that do not bound exactly two triangles."""
    t = b.triangles
    pairs = np.sort(np.concatenate([t[:, [0, 1]], t[:, [1, 2]], t[:, [2, 0]]]), axis=1)
    _, count = np.unique(pairs, axis=0, return_counts=True)
    return int((count != 2).sum())
