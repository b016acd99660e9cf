"""Bends without an inner radius: they can be made a solid only where their zone is a plain rectangle."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from vireo.core.curves import Line2
from vireo.core.panels.joints import Patch, patches
from vireo.core.panels.loops import SAME
from vireo.core.panels.model import Sheet

#: The inner radius, in thicknesses, a sharp bend gets where it is not plain.
EASED = 0.01


def eased(sheet: Sheet, known: Mapping[str, Patch] | None = None) -> Sheet:
    """The sheet with a little radius in sharp bends that are cut, parted or mitred."""
    if all(b.radius > 0.0 for b in sheet.bends.values()):
        return sheet
    parts = known or patches(sheet)
    return sheet.with_(*(
        replace(b, radius=EASED * sheet.thickness) for b in sheet.bends.values()
        if b.radius == 0.0 and not _plain(parts[b.id])
    ))  # fmt: skip


def _plain(zone: Patch) -> bool:
    """Whether a zone is one rectangle with both joints whole."""
    if [len(lp) for lp in zone.loops] != [4] or len(zone.joints) != 2:
        return False
    return all(
        isinstance(s.curve, Line2) and (abs(s.a[0] - s.b[0]) < SAME or abs(s.a[1] - s.b[1]) < SAME)
        for s in zone.loops[0]
    )
