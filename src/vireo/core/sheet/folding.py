"""A panel folded along a straight line: it is parted in what stays, the bend and what turns; the blank keeps its
size."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from vireo.core.curves import Pair
from vireo.core.kernel.region import combined
from vireo.core.panels.loops import SAME, Loop, Motion2, box, moved_loop, ring
from vireo.core.panels.model import Bend, Panel, Sheet
from vireo.core.sheet.allowance import Rule
from vireo.core.sheet.flange import LEAST_ALLOWANCE
from vireo.core.sheet.forming import parted
from vireo.core.sheet.sharp import eased
from vireo.core.trouble import BadInput

#: Which line of the bend in the flat the line drawn is.
Place = Literal["middle", "start", "end"]


@dataclass(frozen=True)
class Fold:
    """`bend` and `panel` are what it makes; the line runs from `p` along the unit direction `d` in the panel,
    what lies left of it turns by `angle` (rad, positive towards the top) about an inner `radius` (mm)."""

    bend: str
    panel: str
    p: Pair
    d: Pair
    angle: float
    radius: float
    place: Place = "middle"


def folded(sheet: Sheet, panel: str, fold: Fold, rule: Rule) -> Sheet:
    """The sheet with a panel folded. Raises BadInput for a line that misses the panel, or runs across another
    bend of it."""
    if not SAME < abs(fold.angle) < 2.0 * math.pi:
        raise BadInput("a fold turns by more than nothing and less than all round")
    if fold.radius < 0.0:
        raise BadInput("the inner radius of a bend is not less than nothing")
    allowance = max(rule.allowance(abs(fold.angle), fold.radius, sheet.thickness), LEAST_ALLOWANCE)
    off = {"middle": -0.5 * allowance, "start": 0.0, "end": -allowance}[fold.place]
    # s along the line, y to the left of it, nothing where the bend begins.
    into = Motion2(y=off).then(Motion2.along(fold.p, fold.d))
    whole = sheet.panels[panel].loops
    seen = [moved_loop(lp, into.inverse) for lp in whole]
    low_s, low_y, high_s, high_y = box([s for lp in seen for s in lp])
    if low_y > -SAME or high_y < allowance + SAME:
        raise BadInput(
            f"the fold takes {allowance:.4g} mm of the sheet, and here it does not have sheet on both sides"
        )

    def strip(low: float, high: float, names: Sequence[str]) -> tuple[Loop, ...]:
        a, b = low_s - 1.0, high_s + 1.0
        tool = ring([(a, low), (b, low), (b, high), (a, high)], list(names))
        return combined("common", seen, (tool,), fold.bend)

    # A joint's piece is called so on both sides of it.
    mark = fold.bend.replace("/", ".")
    stays = strip(low_y - 1.0, 0.0, ["x", "x", f"{mark}.j", "x"])
    zone = strip(0.0, allowance, ["in", "x", "out", "x"])
    turns = strip(allowance, high_y + 1.0, ["in", "x", "x", "x"])
    if not (stays and zone and turns):
        raise BadInput("the fold does not meet the sheet here")
    far = Motion2(y=-allowance)
    bends = []
    for b in sheet.bends.values():
        if b.parent != panel:
            continue
        ends = [into.inverse((b.p[0] + b.d[0] * s, b.p[1] + b.d[1] * s))[1] for s in _ends(b)]
        if max(ends) < SAME:
            continue
        if min(ends) < allowance - SAME:
            raise BadInput(
                "the fold runs across another bend of this panel: fold before that one is made"
            )
        m = into.inverse.then(far)
        bends.append(replace(b, parent=fold.panel, p=m(b.p), d=m.way(b.d)))
    forms, gone = parted(sheet.panels[panel].forms, into, allowance)
    back = into.inverse.then(far)
    return eased(sheet.with_(
        Panel(panel, tuple(moved_loop(lp, into) for lp in stays), forms),
        Bend(
            fold.bend, panel, fold.panel, into((0.0, 0.0)), fold.d, fold.angle, fold.radius, allowance, zone
        ),
        Panel(fold.panel, tuple(moved_loop(lp, far) for lp in turns), tuple(f.moved(back) for f in gone)),
        *bends,
    ))  # fmt: skip


def _ends(bend: Bend) -> tuple[float, float]:
    s = [x for loop in bend.loops for seg in loop for x, y in (seg.a, seg.b) if abs(y) < SAME]
    return (min(s), max(s)) if s else (0.0, 0.0)
