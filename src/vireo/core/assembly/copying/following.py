"""A copy at everything alike: all holes of a pattern, all ends of a row of pins."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from vireo.core.declared.copying import Asked, CopyKind, Move, register
from vireo.core.declared.joint import EndTrouble


@register
class Following(CopyKind):
    kind = "following"
    label = "At all alike"
    icon = "hole"
    line = "One at every hole, boss or edge of the same size and direction; follows their number"
    order = 40
    takes = ("axis",)
    hint = "The hole, round face or round edge the original stands at"
    axis = False
    counted = False
    alike = True

    def moves(self, asked: Asked) -> Mapping[int, Move]:
        if not asked.alike:
            raise EndTrouble("there is no other hole or round face alike to the picked one")
        found = {}
        for k, other in enumerate(asked.alike, start=2):
            turn = other.axes @ asked.of.axes.T
            matrix = np.eye(4)
            matrix[:3, :3] = turn
            matrix[:3, 3] = other.origin - turn @ asked.of.origin
            found[k] = Move(matrix)
        return found
