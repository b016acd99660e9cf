"""Sheets as they stand in space: their mirror images, and two put together where flat pieces meet."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from vireo.core.geometry import Frame, Triple, triple
from vireo.core.panels.loops import Motion2
from vireo.core.panels.places import Place
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.combine import mirrored, renamed, united
from vireo.core.trouble import BadInput

#: How far (mm) two flat pieces in one plane may be off it.
_OFF = 1e-5


def image(body: SheetBody, at: Triple, normal: Triple, mark: str) -> SheetBody:
    """The mirror image in a plane of space; its panels and bends are called behind `mark`."""
    n, p = np.array(normal), np.array(at)
    n = n / np.linalg.norm(n)

    def way(v: Triple) -> Triple:
        u = np.array(v)
        return triple(u - 2.0 * float(u @ n) * n)

    f = body.frame
    origin = np.array(f.origin)
    there = triple(origin - 2.0 * float((origin - p) @ n) * n)
    # The tree is mirrored in its own x; the frame's x is turned, so that it stays right-handed.
    x = way(f.x)
    frame = Frame(there, (-x[0], -x[1], -x[2]), way(f.z))
    sheet = renamed(mirrored(body.sheet), lambda id: f"{mark}/{id}")
    return replace(body, sheet=sheet, frame=frame, opened=tuple(f"{mark}/{b}" for b in body.opened))


def joined(one: SheetBody, other: SheetBody, mark: str) -> SheetBody:
    """Two sheets made one where a flat piece of each lies in one plane and they meet there. Raises BadInput."""
    mine, theirs = one.places(), other.places()
    refused: BadInput | None = None
    for a in one.sheet.panels:
        for b in other.sheet.panels:
            lies = _lies(mine[a], theirs[b])
            if lies is None:
                continue
            try:
                sheet = united(one.sheet, other.sheet, (a, b), lies, mark)
            except BadInput as trouble:
                refused = trouble
                continue
            return replace(one, sheet=sheet)
    raise refused or BadInput(
        "no flat piece of one sheet lies in the plane of one of the other, the same side up"
    )


def _lies(a: Place, b: Place) -> Motion2 | None:
    """What carries the second panel into the first, where both lie in one plane with the same side up."""
    off = b.o - a.o
    if 1.0 - float(a.z @ b.z) > 1e-9 or abs(float(off @ a.z)) > _OFF:
        return None
    return Motion2(float(b.x @ a.x), float(b.x @ a.y), float(off @ a.x), float(off @ a.y))
