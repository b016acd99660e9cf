"""Where a sheet runs into itself: no check of the kernel sees that, its faces are sound all the same."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from vireo.core.geometry import Triple
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.overlap import common
from vireo.core.kernel.shape import Body
from vireo.core.kernel.weave import woven
from vireo.core.panels.joints import Patch, patches
from vireo.core.panels.places import Bent, Floats, Place, places
from vireo.core.sheet.body import SheetBody
from vireo.core.trouble import Trouble

#: Less than this (mm3) is no overlap: what two walls that touch have in common by rounding.
LEAST = 1e-6


@dataclass(frozen=True)
class Clash:
    """Two patches that share a volume (mm3), and where."""

    a: str
    b: str
    volume: float
    at: Triple


def clashes(
    body: SheetBody, among: Collection[str] | None = None, state: Mapping[str, Bent] | None = None
) -> Iterator[Clash]:
    """Pairs of patches that run into each other, at least one `among` those named. Raises Trouble where the
    kernel cannot tell."""
    sheet = body.sheet
    stand = body.stand
    bent = body.state if state is None else dict(state)
    parts = patches(sheet)
    at = places(sheet, bent, stand)
    boxes = {id: _box(part, at, sheet.thickness) for id, part in parts.items()}
    solids: dict[str, Body] = {}

    def solid(id: str) -> Body:
        if id not in solids:
            alone = {id: replace(parts[id], joints={})}
            solids[id] = woven(sheet, bent, stand, known=alone)
        return solids[id]

    joined = {frozenset((b.id, p)) for b in sheet.bends.values() for p in (b.parent, b.child)}
    for a, b in itertools.combinations(parts, 2):
        if among is not None and a not in among and b not in among:
            continue
        if frozenset((a, b)) in joined or not _meet(boxes[a], boxes[b]):
            continue
        try:
            found = common(solid(a), solid(b), np.eye(3), np.zeros(3), closely=False)
        except KernelTrouble as trouble:
            raise Trouble("whether the sheet runs into itself cannot be told") from trouble
        if found is not None and found.volume > LEAST:
            yield Clash(a, b, found.volume, found.at)


def _box(part: Patch, at: Mapping[str, Place], t: float) -> tuple[Floats, Floats]:
    place = at[part.id]
    points = np.array([
        place.at(p, h) for loop in part.loops for s in loop for p in s.points() for h in (0.0, t)
    ])  # fmt: skip
    # Chords of rolled zones lie inside them by less than this.
    hair = 1e-3 + 0.01 * float(np.ptp(points, axis=0).max())
    return points.min(axis=0) - hair, points.max(axis=0) + hair


def _meet(a: tuple[Floats, Floats], b: tuple[Floats, Floats]) -> bool:
    return bool((a[0] <= b[1]).all() and (b[0] <= a[1]).all())
