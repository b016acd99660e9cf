"""Outlines drawn in a plane, carried into the panel of a sheet that lies in it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from vireo.core.geometry import Frame
from vireo.core.panels.loops import SAME, Loop, Motion2, box, inside, moved_loop
from vireo.core.panels.places import Place
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.combine import flipped

#: How far (mm) a plane may be off a face of the sheet, and by how much it may lean (1 - cosine).
_OFF, _LEANS = 1e-5, 1e-9
Carry = Callable[[Sequence[Loop]], tuple[Loop, ...]]


def carry(frame: Frame, place: Place) -> Carry:
    """What carries loops of a plane into a panel it is parallel to, square to both."""
    x = np.array(frame.x)
    off = np.array(frame.origin) - place.o
    turned = float(np.array(frame.z) @ place.z) < 0.0
    x = -x if turned else x
    m = Motion2(float(x @ place.x), float(x @ place.y), float(off @ place.x), float(off @ place.y))

    def carried(loops: Sequence[Loop]) -> tuple[Loop, ...]:
        seen = flipped(loops) if turned else loops
        return tuple(moved_loop(lp, m) for lp in seen)

    return carried


def parallel(frame: Frame, place: Place) -> bool:
    return 1.0 - abs(float(np.array(frame.z) @ place.z)) < _LEANS


def panels_parallel(body: SheetBody, frame: Frame) -> list[tuple[str, Carry, float]]:
    """Flat pieces of a sheet that a plane is parallel to, what carries outlines into each, and how far the
    plane is from the nearer of its faces (mm, less than nothing within the sheet)."""
    found = []
    for id, place in body.places().items():
        if id not in body.sheet.panels or not parallel(frame, place):
            continue
        height = float((np.array(frame.origin) - place.o) @ place.z)
        t = body.sheet.thickness
        found.append((id, carry(frame, place), max(-height, height - t)))
    return found


def panel_in_plane(
    body: SheetBody, frame: Frame, loops: Sequence[Loop] = ()
) -> tuple[str, Carry] | None:
    """The flat piece of a sheet whose top or bottom lies in a plane; of several the one that outlines in the
    plane touch."""
    near = [(id, way) for id, way, off in panels_parallel(body, frame) if abs(off) < _OFF]
    if len(near) > 1 and loops:
        touched = [n for n in near if _touch(body.sheet.panels[n[0]].loops, n[1](loops))]
        near = touched or near
    return near[0] if near else None


def _touch(panel: Sequence[Loop], loops: Sequence[Loop]) -> bool:
    a, b = (box([s for lp in each for s in lp]) for each in (panel, loops))
    if a[0] > b[2] + SAME or b[0] > a[2] + SAME or a[1] > b[3] + SAME or b[1] > a[3] + SAME:
        return False
    return any(inside(s.a, panel) for lp in loops for s in lp) or any(
        inside(s.a, loops) for lp in panel for s in lp
    ) or _meet_in_a_line(panel, loops)  # fmt: skip


def _meet_in_a_line(a: Sequence[Loop], b: Sequence[Loop]) -> bool:
    """Whether boxes of two pieces meet."""
    boxes = [box([s]) for lp in b for s in lp]
    return any(
        o[0] <= m[2] and m[0] <= o[2] and o[1] <= m[3] and m[1] <= o[3]
        for lp in a for s in lp for o in [box([s])] for m in boxes
    )  # fmt: skip
