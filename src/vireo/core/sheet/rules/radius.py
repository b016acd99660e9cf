"""Radii so small that the outside cracks.

Outer fibres of a bend are stretched by t / (2 r + t), the neutral line taken half-way (textbooks of forming, as Lange,
Umformtechnik 3). From how much on a sheet cracks depends on it: half its length is beyond what most stand. Along the
way it was rolled a sheet stands less: shops ask for a radius of its thickness there.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

from vireo.core.panels.flat import laid
from vireo.core.sheet.blanks import middle
from vireo.core.sheet.rules.kind import Fault, Made, MakingRule, register

_MOST = 0.5
#: A bend that leans by less than this (rad) from the grain runs along it.
_ALONG = math.radians(30.0)
#: Hems are flattened beyond what any radius would say.
_HEM = math.radians(140.0)


@register
class Radius(MakingRule):
    kind = "radius"
    label = "Radius that may crack"

    def faults(self, made: Made) -> Iterator[Fault]:
        t, grain = made.t, made.body.grain
        at = laid(made.sheet)
        for bend in made.sheet.bends.values():
            if abs(bend.angle) > _HEM:
                continue
            lines = middle(bend)
            if not lines:
                continue
            (a, b) = lines[0]
            place = (0.5 * (a[0] + b[0]), 0.5 * (a[1] + b[1]))
            stretched = t / (2.0 * bend.radius + t)
            if stretched > _MOST + 1e-9:
                yield Fault(
                    self.kind, bend.id, place,
                    f"a radius of {bend.radius:.3g} mm in {t:.3g} mm stretches the outside by {100 * stretched:.0f} %",
                    f"take {0.5 * t:.3g} mm or more, or a sheet that stands it",
                )  # fmt: skip
            elif grain is not None and bend.radius < t - 1e-9:
                lean = abs((at[bend.id].turn - grain + 0.5 * math.pi) % math.pi - 0.5 * math.pi)
                if lean < _ALONG:
                    yield Fault(
                        self.kind, bend.id, place,
                        f"this bend runs along the grain, {math.degrees(lean):.0f}° from it, with a radius below the "
                        "thickness",
                        f"take {t:.3g} mm or more, or turn the grain across it",
                    )  # fmt: skip
