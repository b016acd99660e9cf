"""Copies round an axis."""

from __future__ import annotations

import math
from collections.abc import Mapping

from vireo.core.declared.copying import Asked, CopyKind, Move, Spacing, about, register, spun
from vireo.core.declared.joint import EndTrouble
from vireo.core.quantity import ANGLE


@register
class Round(CopyKind):
    kind = "round"
    label = "Round an axis"
    icon = "copies_round"
    line = "Spread over an angle about an axis or a round face"
    order = 20
    hint = "An axis, a round face or edge"
    spacing = Spacing("Spread over", ANGLE, "deg", "360 deg")

    def moves(self, asked: Asked) -> Mapping[int, Move]:
        angle = asked.spacing
        if abs(angle) > 2 * math.pi + 1e-9:
            raise EndTrouble("copies go round once at the most: spread them over 360 deg or less")
        # A whole turn ends where it began; of a part of one the last copy stands at its end.
        whole = abs(abs(angle) - 2 * math.pi) < 1e-9
        step = angle / (asked.count if whole else max(asked.count - 1, 1))
        axis, at = asked.of.axes[:, 2], asked.of.origin
        return {k + 1: Move(about(at, spun(axis, k * step))) for k in range(1, asked.count)}
