"""Legs long enough to lie on the die."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator

import numpy as np
import shapely

from vireo.core.sheet.rules.kind import Fault, Made, MakingRule, register

#: Places along a joint that are looked at.
_LOOKS = 9


def die_width(t: float) -> float:
    """How wide the V of a die is (mm): 6 t below 3 mm, 8 t up to 10, then 12 t: common shop practice."""
    return t * (6.0 if t < 3.0 else 8.0 if t <= 10.0 else 12.0)


def least_leg(t: float, angle: float) -> float:
    """The least length of a leg measured outside (mm): it bears on the shoulder of the die until the bend is done,
    half its width along a leg that stands at half the angle, and a twentieth more. `angle` in rad; beyond a right
    angle the last of it is done otherwise."""
    return 1.05 * 0.5 * die_width(t) / math.cos(min(angle, math.pi / 2.0) / 2.0)


@register
class Leg(MakingRule):
    kind = "leg"
    label = "Leg too short"

    def faults(self, made: Made) -> Iterator[Fault]:
        for bend, panel in made.sides():
            need = least_leg(made.t, abs(bend.angle))
            outside = (bend.radius + made.t) * math.tan(min(abs(bend.angle), math.pi / 2.0) / 2.0)
            outline = made.outer(panel)
            legs = []
            for a, b in made.joints(panel, bend.id):
                p, q = np.array(a), np.array(b)
                size = float(np.hypot(*(q - p)))
                # The panel lies to the left of where its loop runs.
                inward = np.array([p[1] - q[1], q[0] - p[0]]) / size
                for share in (np.arange(_LOOKS) + 0.5) / _LOOKS:
                    at = p + (q - p) * share
                    legs.append(
                        (_far(outline, at, inward, 4.0 * need), (float(at[0]), float(at[1])))
                    )
            if not legs:
                continue
            # Ends that are cut off slanted are no matter.
            legs.sort()
            long, at = legs[len(legs) // 2]
            if long + outside < need - 1e-6:
                yield Fault(
                    self.kind, panel, at,
                    f"a leg of {long + outside:.3g} mm outside is too short for a die of {die_width(made.t):.3g} mm",
                    f"make it at least {need:.3g} mm",
                )  # fmt: skip


def _far(outline: shapely.Geometry, at: np.ndarray, way: np.ndarray, most: float) -> float:
    """How far the panel reaches from a place on its edge (mm), at the most `most`."""
    ray = shapely.LineString([at + 1e-6 * way, at + most * way])
    inside = shapely.intersection(outline, ray)
    pieces = getattr(inside, "geoms", [inside])
    first = min(
        (g for g in pieces if g.length > 0.0), key=lambda g: shapely.Point(at).distance(g), default=None
    )  # fmt: skip
    if first is None:
        return 0.0
    ends = list(first.coords)
    return max(math.dist(at, p) for p in itertools.chain(ends[:1], ends[-1:]))
