"""Solids taken for sheets: only what the sheet that was read weaves again is believed."""

from __future__ import annotations

from vireo.core.geometry import Frame, triple
from vireo.core.kernel.gate import checked
from vireo.core.kernel.measure import box_of, volume_of
from vireo.core.kernel.shape import Body
from vireo.core.kernel.sheetread import NoSheet, may_hold_forms, read_sheet
from vireo.core.kernel.trouble import KernelTrouble
from vireo.core.sheet.allowance import Rule
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.combine import renamed
from vireo.core.sheet.flange import LEAST_ALLOWANCE, Relief
from vireo.core.sheet.sharp import eased

#: By what share of its volume, and how far (mm), the sheet may be off the solid it was read from.
_VOLUME, _BOX = 1e-6, 1e-4
#: How much deeper than the bend reliefs are (mm).
_DEEPER = 1.0


def sheet_read(
    solid: Body, rule: Rule, step: str, gap: float, root: int | None = None, ripped: bool = False
) -> SheetBody:  # fmt: skip
    """The sheet a solid is, its panels and bends called behind a step; later bends get its most usual radius and
    reliefs as wide as it is thick. What stands out of its flat pieces is taken for forms where it is no sheet
    without. Raises NoSheet, BadInput."""
    try:
        return _read(solid, rule, step, gap, root, ripped, False)
    except NoSheet as trouble:
        if not may_hold_forms(solid):
            raise
        try:
            return _read(solid, rule, step, gap, root, ripped, True)
        except NoSheet:
            raise trouble from None


def _read(
    solid: Body, rule: Rule, step: str, gap: float, root: int | None, ripped: bool, forms: bool
) -> SheetBody:
    def allowance(turn: float, radius: float, t: float) -> float:
        return max(rule.allowance(turn, radius, t), LEAST_ALLOWANCE)

    found = read_sheet(solid, allowance, root, ripped, forms)
    sheet = eased(renamed(found.sheet, lambda id: f"{step}/{id}"))
    frame = Frame(triple(found.origin), triple(found.x), triple(found.z))
    relief = Relief(sheet.thickness, _DEEPER)
    made = SheetBody(sheet, frame, found.radius, rule, relief, gap)
    try:
        body = made.body()
        checked("the sheet that was read", body.shape)
    except KernelTrouble as trouble:
        raise NoSheet(
            "flat pieces and bends were found, but no sound sheet comes of them: cuts in its bends are too odd"
        ) from trouble
    volume, told = volume_of(solid.shape), volume_of(body.shape)
    if abs(volume - told) > _VOLUME * volume:
        raise NoSheet(
            f"what was read makes {told:.6g} mm3 and the solid has {volume:.6g}: something of it is no flat piece, "
            "no bend and no cut square to the sheet (a form, a rounded rim, a wall that tapers)"
        )
    corners = zip(box_of(solid.shape), box_of(body.shape), strict=True)
    if any(abs(a - b) > _BOX for one, two in corners for a, b in zip(one, two, strict=True)):
        raise NoSheet("what was read does not lie where the solid does")
    return made
