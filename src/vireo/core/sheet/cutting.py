"""Cuts made in the flat: a tool is carried into every patch it meets, panel or bend."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

from vireo.core.kernel.region import combined
from vireo.core.panels.flat import laid
from vireo.core.panels.joints import in_pieces, patches
from vireo.core.panels.loops import Loop, moved_loop
from vireo.core.panels.model import Sheet
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
    if found is sheet:
        raise BadInput("the cut meets nothing of the sheet")
    if not found.panels[found.root].loops:
        raise BadInput("the cut leaves nothing of the panel the sheet hangs on")
    parts = patches(found)
    pieces = in_pieces(parts)
    if pieces > 1:
        raise BadInput(f"the cut parts the sheet into {pieces} pieces: leave a bridge between them")
    return eased(found, parts)
