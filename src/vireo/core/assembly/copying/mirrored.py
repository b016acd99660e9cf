"""The same part on the other side of a plane."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from vireo.core.declared.copying import Asked, CopyKind, Move, about, register
from vireo.core.declared.joint import Floats


@register
class Mirrored(CopyKind):
    kind = "mirrored"
    label = "On the other side"
    icon = "symmetric"
    line = "The same part placed anew across a plane, turned so that it faces the other way"
    order = 30
    takes = ("plane",)
    hint = "A flat face that is the mirror"
    counted = False
    turns = False

    def moves(self, asked: Asked) -> Mapping[int, Move]:
        # A mirror image, made the part itself again by mirroring it in one of its own planes: that
        # which looks most the way of the mirror.
        n, own = asked.of.axes[:, 2], _own(asked)
        across = about(asked.of.origin, np.eye(3) - 2 * np.outer(n, n))
        back = about(asked.middle, np.eye(3) - 2 * np.outer(own, own))
        return {2: Move(across, back)}

    def note(self, asked: Asked, name: str, centre: Floats) -> str:
        if abs(float((centre - asked.middle) @ _own(asked))) < 1e-4:
            return ""
        return f"{name} is not symmetric: its copy is the same part, not its mirror image"


def _own(asked: Asked) -> Floats:
    return np.asarray(asked.axes[:, int(np.argmax(np.abs(asked.axes.T @ asked.of.axes[:, 2])))])
