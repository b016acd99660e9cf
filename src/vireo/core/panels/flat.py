"""The sheet laid flat: where each patch lies, the outline of the blank, where bends are in it."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Collection, Mapping
from dataclasses import dataclass

from vireo.core.curves import Pair
from vireo.core.panels.joints import Patch, patches
from vireo.core.panels.loops import SAME, Loop, Motion2, Seg, area, extent, joined, length, moved
from vireo.core.panels.model import Bend, Sheet
from vireo.core.trouble import Trouble


@dataclass(frozen=True)
class Blank:
    """The outline of a sheet laid flat, outer loop first."""

    loops: tuple[Loop, ...]

    @property
    def area(self) -> float:
        """In mm2."""
        return area(self.loops)

    @property
    def cut(self) -> float:
        """Length of all that is cut (mm)."""
        return length(self.loops)

    @property
    def pierces(self) -> int:
        """How often a cut begins."""
        return len(self.loops)

    @property
    def size(self) -> tuple[float, float]:
        """Along x and y (mm), as it lies."""
        x0, y0, x1, y1 = extent(self.loops[0])
        return x1 - x0, y1 - y0


def laid(
    sheet: Sheet, start: str | None = None, through: Collection[str] | None = None
) -> dict[str, Motion2]:
    """How every panel and zone lies in the plane of the panel `start` (the root), unfolded `through` some
    bends (all): what is not reached so is left out."""
    near: dict[str, list[Bend]] = defaultdict(list)
    for bend in sheet.bends.values():
        if through is None or bend.id in through:
            near[bend.parent].append(bend)
            near[bend.child].append(bend)
    found = {start or sheet.root: Motion2()}
    waiting = list(found)
    while waiting:
        id = waiting.pop()
        for bend in near[id]:
            zone, child = Motion2.along(bend.p, bend.d), Motion2(y=bend.allowance)
            if bend.parent == id and bend.child not in found:
                found[bend.id] = zone.then(found[id])
                found[bend.child] = child.then(found[bend.id])
                waiting.append(bend.child)
            elif bend.child == id and bend.parent not in found:
                found[bend.id] = child.inverse.then(found[id])
                found[bend.parent] = zone.inverse.then(found[bend.id])
                waiting.append(bend.parent)
    return found


def blank(sheet: Sheet, known: Mapping[str, Patch] | None = None) -> Blank:
    """The outline of all that is no joint, pieces of one line or circle joined; exact curves. Raises Trouble
    where the outline does not close."""
    at = laid(sheet)
    walls = [
        moved(seg, at[patch.id], f"{patch.id}/{seg.name}")
        for patch in (known or patches(sheet)).values()
        for n, loop in enumerate(patch.loops)
        for i, seg in enumerate(loop)
        if (n, i) not in patch.joints
    ]
    loops = [joined(loop) for loop in _chained(walls)]
    return Blank(tuple(sorted(loops, key=lambda loop: -abs(area([loop])))))


def _chained(segs: list[Seg]) -> list[list[Seg]]:
    """Pieces put one after the other into closed loops."""
    grid: dict[tuple[int, int], list[int]] = defaultdict(list)

    def cell(p: Pair) -> tuple[int, int]:
        return round(p[0] / (10 * SAME)), round(p[1] / (10 * SAME))

    for number, seg in enumerate(segs):
        grid[cell(seg.a)].append(number)
    left = dict.fromkeys(range(len(segs)))

    def after(p: Pair) -> int | None:
        x, y = cell(p)
        near = (
            n for i in (x, x - 1, x + 1) for j in (y, y - 1, y + 1) for n in grid.get((i, j), ())
        )
        return next((n for n in near if n in left and math.dist(segs[n].a, p) < SAME), None)

    found: list[list[Seg]] = []
    while left:
        n: int | None = next(iter(left))
        loop: list[Seg] = []
        while not loop or math.dist(loop[-1].b, loop[0].a) > SAME:
            if n is None:
                x, y = loop[-1].b
                raise Trouble(
                    f"the outline of the flat sheet does not close at {x:.2f}, {y:.2f} mm"
                )
            del left[n]
            loop.append(segs[n])
            n = after(loop[-1].b)
        found.append(loop)
    return found
