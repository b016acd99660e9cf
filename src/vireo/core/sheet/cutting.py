"""Cuts: made in the flat, where a tool is carried into every patch it meets, or from space by a solid."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace

import numpy as np

from vireo.core.kernel.measure import box_of
from vireo.core.kernel.region import combined
from vireo.core.kernel.shadow import shadow
from vireo.core.kernel.shape import Body
from vireo.core.panels.flat import laid
from vireo.core.panels.joints import in_pieces, patches
from vireo.core.panels.loops import Loop, moved_loop
from vireo.core.panels.model import Sheet
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.clash import box_round
from vireo.core.sheet.sharp import eased
from vireo.core.trouble import BadInput


def cut_flat(
    sheet: Sheet,
    panel: str,
    tool: Sequence[Loop],
    name: str,
    through: Collection[str] | None = None,
) -> Sheet:
    """The sheet without what lies under loops in the plane of a panel, with some bends (all) laid flat. Raises
    BadInput where nothing is met, nothing of the sheet's root is left, or the sheet falls apart."""
    found = sheet
    for id, lies in laid(sheet, panel, through).items():
        patch = sheet.panels.get(id) or sheet.bends[id]
        mine = [moved_loop(loop, lies.inverse) for loop in tool]
        loops = combined("cut", patch.loops, mine, name)
        if loops != patch.loops:
            found = found.with_(replace(patch, loops=loops))
    return _whole(found, sheet)


def cut_square(body: SheetBody, tool: Body, name: Callable[[str], str]) -> Sheet:
    """The sheet without what a solid takes of it where it stands, walls square to the sheet: of what either face of
    it loses, both do. Raises BadInput as `cut_flat` does."""
    low, high = (np.array(v) for v in box_of(tool.shape))
    found = body.sheet
    places = body.places()
    for id, part in patches(body.sheet).items():
        patch = body.sheet.panels.get(id) or body.sheet.bends[id]
        if not patch.loops:
            continue
        around = box_round(part, places[id])
        spread = np.abs(around.axes.T) @ around.half
        if (around.middle - spread > high).any() or (around.middle + spread < low).any():
            continue
        reach = (
            float(np.linalg.norm(around.middle - places[id].o) + np.linalg.norm(around.half)) + 1.0
        )
        covered = shadow(places[id], tool, reach, name)
        loops = combined("cut", patch.loops, covered, name("")) if covered else patch.loops
        if loops != patch.loops:
            found = found.with_(replace(patch, loops=loops))
    return _whole(found, body.sheet)


def _whole(found: Sheet, before: Sheet) -> Sheet:
    """A sheet that was cut, if it still is one."""
    if found is before:
        raise BadInput("the cut meets nothing of the sheet")
    if not found.panels[found.root].loops:
        raise BadInput("the cut leaves nothing of the panel the sheet hangs on")
    parts = patches(found)
    pieces = in_pieces(parts)
    if pieces > 1:
        raise BadInput(f"the cut parts the sheet into {pieces} pieces: leave a bridge between them")
    return eased(found, parts)
