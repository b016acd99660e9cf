"""Copies along an edge, straight or bent, turning with it."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from vireo.core.declared.copying import Asked, CopyKind, Move, Spacing, Track, register
from vireo.core.declared.joint import EndTrouble
from vireo.core.quantity import LENGTH

#: Places a way is looked at to find where the original stands.
_LOOKS = 240


@register
class Along(CopyKind):
    kind = "along"
    label = "Along a curve"
    icon = "copiesCurve"
    line = "Along an edge of any form, turning with it; the original stands beside its start"
    order = 25
    takes = ("axis",)
    hint = "An edge to go along"
    axis = False
    along = True
    spreads = True
    spacing = Spacing("Spacing (0: over all of it)", LENGTH, "mm", "0 mm")

    def moves(self, asked: Asked) -> Mapping[int, Move]:
        way = asked.track
        if way is None:
            raise EndTrouble("pick an edge to go along")
        n = asked.count
        step = asked.spacing or way.length / (n if way.closed else max(n - 1, 1))
        if step < 0:
            raise EndTrouble("the spacing goes forward: turn it round to go the other way")
        if step * (n - (0 if way.closed else 1)) > way.length * (1 + 1e-9):
            room = int(way.length / step + 1e-9) + (0 if way.closed else 1)
            raise EndTrouble(
                f"{n} copies {step:g} mm apart are longer than the edge of {way.length:.4g} mm; "
                f"{room} fit"
            )
        start = _beside(way, asked) if way.closed else 0.0
        at = [start + k * step for k in range(n)]
        places = way.at([s % way.length if way.closed else min(s, way.length) for s in at])
        back = np.linalg.inv(places[0])
        return {k + 1: Move(place @ back) for k, place in enumerate(places) if k}


def _beside(way: Track, asked: Asked) -> float:
    """How far along a way that comes back the original stands."""
    marks = np.linspace(0.0, way.length, _LOOKS, endpoint=False)
    away = [float(np.linalg.norm(m[:3, 3] - asked.middle)) for m in way.at(marks.tolist())]
    return float(marks[int(np.argmin(away))])
