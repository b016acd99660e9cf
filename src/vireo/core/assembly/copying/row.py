"""Copies in a row."""

from __future__ import annotations

from collections.abc import Mapping

from vireo.core.declared.copying import Asked, CopyKind, Move, Spacing, register, shifted
from vireo.core.quantity import LENGTH


@register
class Row(CopyKind):
    kind = "row"
    label = "In a row"
    icon = "copies"
    line = "One after the other along an edge, an axis or across a face"
    order = 10
    hint = "An edge, an axis, or a face to go across"
    spacing = Spacing("Spacing", LENGTH, "mm", "20 mm")

    def moves(self, asked: Asked) -> Mapping[int, Move]:
        way = asked.of.axes[:, 2]
        return {k + 1: Move(shifted(k * asked.spacing * way)) for k in range(1, asked.count)}
