"""Sheets as they stand in space: their mirror images, and two put together where flat pieces meet."""

from __future__ import annotations

import math
from dataclasses import replace

from vireo.core.geometry import Frame, Triple
from vireo.core.kernel.transform import Move
from vireo.core.panels.loops import Motion2
from vireo.core.panels.places import Place
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.combine import mirrored, renamed, united
from vireo.core.trouble import BadInput

#: How far (mm) two flat pieces in one plane may be off it.
_OFF = 1e-5


def carried_sheet(body: SheetBody, move: Move, mark: str = "") -> SheetBody | None:
    """A sheet carried elsewhere, or its mirror image, its panels and bends called behind `mark` where there is one;
    None for a motion that scales."""
    f = body.frame
    place, x, z = move.place(f.origin), move.way(f.x), move.way(f.z)
    sheet, grain = body.sheet, body.grain
    if move.mirrors:
        # The tree is mirrored in its own x; the frame's x is turned, so that it stays right-handed.
        sheet, x = mirrored(sheet), (-x[0], -x[1], -x[2])
        grain = None if grain is None else math.pi - grain
    elif not move.rigid:
        return None
    if mark:
        sheet = renamed(sheet, lambda id: f"{mark}/{id}")
    opened = tuple(f"{mark}/{b}" if mark else b for b in body.opened)
    return replace(body, sheet=sheet, frame=Frame(place, x, z), opened=opened, grain=grain)


def image(body: SheetBody, at: Triple, normal: Triple, mark: str) -> SheetBody:
    """The mirror image in a plane of space; its panels and bends are called behind `mark`."""
    found = carried_sheet(body, Move.mirror(at, normal), mark)
    assert found is not None
    return found


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
