"""Where a sheet runs into itself: no check of the kernel sees that, its faces are sound all the same."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from vireo.core.geometry import Triple
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.overlap import common
from vireo.core.kernel.shape import Body
from vireo.core.kernel.weave import woven
from vireo.core.panels.joints import Patch, patches
from vireo.core.panels.loops import extent
from vireo.core.panels.model import Panel
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
    boxes = {
        id: box_round(part, at[id], sheet.panels.get(id))
        for id, part in parts.items()
        if part.loops
    }
    solids: dict[str, Body] = {}

    def solid(id: str) -> Body:
        if id not in solids:
            alone = {id: replace(parts[id], joints={})}
            solids[id] = woven(sheet, bent, stand, known=alone)
        return solids[id]

    # What stands out of a panel may run into a bend of it.
    joined = {
        frozenset((b.id, p)) for b in sheet.bends.values() for p in (b.parent, b.child)
        if not sheet.panels[p].forms
    }  # fmt: skip
    for a, b in _near(boxes):
        if among is not None and a not in among and b not in among:
            continue
        if frozenset((a, b)) in joined or boxes[a].apart(boxes[b]):
            continue
        try:
            found = common(solid(a), solid(b), np.eye(3), np.zeros(3), closely=False)
        except KernelTrouble as trouble:
            raise Trouble("whether the sheet runs into itself cannot be told") from trouble
        if found is not None and found.volume > LEAST:
            yield Clash(a, b, found.volume, found.at)


@dataclass(frozen=True)
class Box:
    """A box that stands any way: its middle, its axes as rows, half its sizes."""

    middle: Floats
    axes: Floats
    half: Floats

    def apart(self, other: Box) -> bool:
        """Whether a plane keeps two boxes apart (separating axes: Gottschalk, Lin, Manocha 1996)."""
        off = other.middle - self.middle
        across = np.cross(self.axes[:, None], other.axes[None]).reshape(-1, 3)
        size = np.linalg.norm(across, axis=1)
        ways = np.concatenate(
            [self.axes, other.axes, across[size > 1e-6] / size[size > 1e-6, None]]
        )
        reach = np.abs(ways @ self.axes.T) @ self.half + np.abs(ways @ other.axes.T) @ other.half
        # What only touches is apart.
        return bool((np.abs(ways @ off) > reach - 1e-7).any())


def _near(boxes: Mapping[str, Box]) -> Iterator[tuple[str, str]]:
    """Pairs of boxes whose own boxes along the axes of space meet."""
    ids = list(boxes)
    reach = np.array([np.abs(b.axes.T) @ b.half for b in boxes.values()])
    middle = np.array([b.middle for b in boxes.values()])
    low, high = middle - reach, middle + reach
    for k, id in enumerate(ids):
        meet = ((low[k] <= high[k + 1 :]) & (low[k + 1 :] <= high[k])).all(axis=1)
        for m in np.flatnonzero(meet):
            yield id, ids[k + 1 + int(m)]


#: A rolled zone is looked at in so many places along its turn.
_LOOKS = 9


def box_round(part: Patch, place: Place, panel: Panel | None = None) -> Box:
    """The box of a patch along its own axes, with what is pressed into it."""
    forms = panel.forms if panel is not None else ()
    low, high = (max((f.spans[k] for f in forms), default=0.0) for k in (0, 1))
    x0, y0, x1, y1 = extent([s for loop in part.loops for s in loop])
    ys = np.linspace(y0, y1, _LOOKS if place.rolled else 2)
    points = np.array([
        place.at((x, float(y)), h) for x in (x0, x1) for y in ys for h in (-low, place.thickness + high)
    ])  # fmt: skip
    axes = np.stack([place.x, place.y, place.z])
    local = points @ axes.T
    least, most = local.min(axis=0), local.max(axis=0)
    if place.rolled:
        # Between two looks the roll is further out than their chord by no more than this.
        step = place.turned(y1 - y0) / (_LOOKS - 1)
        sag = (place.radius + place.thickness) * (1.0 - math.cos(0.5 * step))
        least, most = least - sag, most + sag
    return Box(0.5 * (least + most) @ axes, axes, 0.5 * (most - least))
