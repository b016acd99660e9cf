"""A copy wherever a step of the part copied what the original stands at."""

from __future__ import annotations

from collections.abc import Mapping

from vireo.core.declared.copying import Asked, CopyKind, Move, register


@register
class Stepped(CopyKind):
    kind = "stepped"
    label = "With a part's copies"
    icon = "copies"
    line = "One wherever a copies step of the part copied what is picked; follows its number"
    order = 35
    takes = ("plane", "axis", "point", "curve")
    hint = "A face, edge or corner the part has copies of, where the original stands"
    axis = False
    counted = False
    turns = False
    repeats = True

    def moves(self, asked: Asked) -> Mapping[int, Move]:
        return {k: Move(matrix) for k, matrix in asked.repeats.items()}
