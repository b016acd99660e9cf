"""A blank that lies on itself."""

from __future__ import annotations

from collections.abc import Iterator

from vireo.core.sheet.rules.kind import Fault, Made, MakingRule, register


@register
class LapRule(MakingRule):
    kind = "lap"
    label = "Blank lies on itself"

    def faults(self, made: Made) -> Iterator[Fault]:
        for lap in made.flat.laps:
            home = made.home(lap.at)
            if home is not None:
                yield Fault(
                    self.kind, *home,
                    f"two pieces lie on each other in the flat by {lap.area:.3g} mm2: it cannot be cut from one sheet",
                    "make a flange shorter, mitre it, or make the part of two sheets",
                )  # fmt: skip
