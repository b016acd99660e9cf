"""Bends as they are struck, seen along the bend: the sheet between punch and die, to be played step by step."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from vireo.core.curves import Pair
from vireo.core.kernel.stamp import taken
from vireo.core.panels.joints import patches
from vireo.core.panels.loops import extent
from vireo.core.panels.model import Sheet
from vireo.core.panels.places import Floats, Place, places
from vireo.core.sheet.brake import (
    FURTHEST,
    PUNCHES,
    Strike,
    along,
    die_profile,
    drop,
    struck,
    struck_state,
)
from vireo.core.sheet.rules.leg import die_width

#: A roll is drawn by pieces that turn by this (rad).
_STEP = 0.15


@dataclass(frozen=True)
class Seen:
    """A strike at a share of its angle: outlines of patches, of the punch and the die; x across the bend, y up from
    the tip of the punch (mm)."""

    share: float
    patches: tuple[tuple[str, tuple[Pair, ...]], ...]
    punch: tuple[Pair, ...]
    die: tuple[Pair, ...]


def seen(sheet: Sheet, strike: Strike, done: Collection[str], share: float) -> Seen:
    """A bend struck to a share of its angle, those done before it bent."""
    bend, t = sheet.bends[strike.bend], sheet.thickness
    # What is flat still lies as it does when it is about to be struck.
    turn = max(min(abs(bend.angle), FURTHEST) * share, 1e-3)
    state, radius = struck_state(sheet, strike.bend, done, turn)
    stands = places(sheet, state)
    low, high = along(bend)
    sign = math.copysign(1.0, bend.angle)
    frame, at = struck(stands[strike.bend], 0.5 * (low + high), sign, turn, t, strike.round)
    v = die_width(t)
    by = drop(radius, turn, t, v)
    drawn = []
    for id, part in patches(sheet).items():
        if not part.loops:
            continue
        segs = [s for lp in part.loops for s in lp]
        if part.bend is None:
            corners = [p for s in segs for p in s.points(0.3)]
            for form in sheet.panels[id].forms:
                below, above = form.spans
                rim = [p for lp in taken(form) for s in lp for p in s.points(0.4)]
                drawn += [
                    (id, o)
                    for o in _outlines(stands[id], rim, (-below, t + above), frame, at, False)
                ]
        else:
            x0, y0, x1, y1 = extent(segs)
            count = (
                max(2, math.ceil(abs(stands[id].turned(y1 - y0)) / _STEP) + 1)
                if stands[id].rolled
                else 2
            )
            corners = [(x, float(y)) for y in np.linspace(y0, y1, count) for x in (x0, x1)]
        for outline in _outlines(stands[id], corners, (0.0, t), frame, at, part.bend is not None):
            drawn.append((id, outline))
    die = tuple((x, y + by) for x, y in die_profile(v).exterior.coords[:-1])
    return Seen(share, tuple(drawn), tuple(PUNCHES[strike.punch]), die)


def _outlines(
    place: Place, corners: Sequence[Pair], levels: Pair, frame: Floats, at: Floats, rolled: bool
) -> list[tuple[Pair, ...]]:
    """What is seen of a patch from the end of the bend: of a flat piece its hull, of a roll piece by piece."""
    rows = [corners[k : k + 4] for k in range(0, len(corners) - 3, 2)] if rolled else [corners]
    found = []
    for row in rows:
        points = np.array([frame @ (place.at(p, h) - at) for p in row for h in levels])[:, 1:]
        hull = shapely.convex_hull(shapely.MultiPoint(points))
        if isinstance(hull, shapely.Polygon):
            found.append(tuple((round(x, 3), round(y, 3)) for x, y in hull.exterior.coords[:-1]))
    return found
