"""Holes that keep off bends."""

from __future__ import annotations

from collections.abc import Iterator

import shapely

from vireo.core.panels.loops import area
from vireo.core.sheet.rules.kind import Fault, Made, MakingRule, register

#: How many thicknesses beyond its radius a hole keeps off where a bend begins: shops ask for two to three.
_THICKNESSES = 2.0


@register
class Hole(MakingRule):
    kind = "hole"
    label = "Hole near a bend"

    def faults(self, made: Made) -> Iterator[Fault]:
        for bend, panel in made.sides():
            lines = made.joints(panel, bend.id)
            if not lines:
                continue
            joint = shapely.MultiLineString(lines)
            need = _THICKNESSES * made.t + bend.radius
            for loop in made.sheet.panels[panel].loops:
                if area([loop]) > 0.0:
                    continue
                rim = shapely.LinearRing([p for s in loop for p in s.points(0.02)[:-1]])
                near = shapely.shortest_line(rim, joint)
                if near.length < need - 1e-6:
                    yield Fault(
                        self.kind, panel, tuple(near.coords[0]),
                        f"a hole {near.length:.3g} mm from where a bend begins is drawn out of shape by it",
                        f"keep it {need:.3g} mm off, or cut it through the bend",
                    )  # fmt: skip
