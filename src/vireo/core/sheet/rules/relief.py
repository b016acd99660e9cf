"""Reliefs beside bends that end inside an edge."""

from __future__ import annotations

from collections.abc import Iterator

from vireo.core.panels.loops import SAME, Seg
from vireo.core.sheet.rules.kind import Fault, Made, MakingRule, register


@register
class Relief(MakingRule):
    """Where a panel goes on beside a bend, along its line or outwards, for more than the thickness, the sheet
    tears unless it is cut free. The test is exact; that the thickness is the limit is practice."""

    kind = "relief"
    label = "Relief missing"

    def faults(self, made: Made) -> Iterator[Fault]:
        for panel in made.sheet.panels:
            part = made.parts[panel]
            for n, loop in enumerate(part.loops):
                for i, seg in enumerate(loop):
                    if (n, i) not in part.joints:
                        continue
                    for beside, at, turned in (
                        ((i + 1) % len(loop), seg.b, False), ((i - 1) % len(loop), seg.a, True)
                    ):  # fmt: skip
                        if (n, beside) in part.joints:
                            continue
                        if _tears(seg, loop[beside], turned, made.t):
                            yield Fault(
                                self.kind, panel, at,
                                "the sheet goes on beside the end of a bend without a relief: it would tear",
                                "give the sheet a relief, or have the flange take the whole edge",
                            )  # fmt: skip


def _tears(joint: Seg, beside: Seg, turned: bool, t: float) -> bool:
    """Whether a wall beside a joint leads along its line or outwards for more than the thickness. `turned` where
    it comes before the joint."""
    if beside.curve.length <= t + SAME:
        return False
    (ax, ay), (bx, by) = (joint.b, joint.a) if turned else (joint.a, joint.b)
    start, some = (beside.b, beside.at(0.9)) if turned else (beside.a, beside.at(0.1))
    u, w = (bx - ax, by - ay), (some[0] - start[0], some[1] - start[1])
    across = (u[0] * w[1] - u[1] * w[0]) * (-1.0 if turned else 1.0)
    along = u[0] * w[0] + u[1] * w[1]
    size = (u[0] ** 2 + u[1] ** 2) ** 0.5 * (w[0] ** 2 + w[1] ** 2) ** 0.5
    # The panel lies to the left of its loop: outwards is to the right.
    return across < -1e-6 * size or (abs(across) <= 1e-6 * size and along > 0.0)
