"""Forms in the panels of a sheet: put there, parted by a fold, looked at for what they run into."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import shapely

from vireo.core.curves import Pair
from vireo.core.kernel.stamp import taken
from vireo.core.panels.forms import Form, Pressing
from vireo.core.panels.loops import SAME, Loop, Motion2, extent, moved_loop
from vireo.core.panels.model import Panel, Sheet
from vireo.core.sheet.blanks import polygon
from vireo.core.trouble import BadInput

#: Between a form and what it may not run into there is this much flat sheet at least (mm).
_LAND = 1e-3


def pressed(sheet: Sheet, panel: str, forms: Sequence[Form]) -> Sheet:
    """The sheet with forms set into a panel."""
    own = sheet.panels[panel]
    return sheet.with_(replace(own, forms=(*own.forms, *forms)))


def amiss(panel: Panel) -> tuple[Form, str, Pair] | None:
    """A form of a panel that is not all in flat sheet, what is wrong with it, and where; None where all are."""
    if not panel.forms:
        return None
    around = polygon(panel.loops)
    shapes = [polygon([_outward(lp) for lp in taken(f)]) for f in panel.forms]
    for form, shape in zip(panel.forms, shapes, strict=True):
        if not around.contains(shape.buffer(_LAND)):
            beyond = shape.buffer(_LAND).difference(around)
            at = beyond.representative_point()
            what = "is where no sheet is left" if shape.disjoint(around) else (
                "runs over an edge, a cut or a bend of its flat piece"
            )  # fmt: skip
            return form, what, (at.x, at.y)
    tree = shapely.STRtree(shapes)
    for i, j in zip(*tree.query(shapes, predicate="dwithin", distance=_LAND), strict=True):
        if i < j:
            at = shapely.shortest_line(shapes[i], shapes[j]).centroid
            return panel.forms[j], f"runs into another {panel.forms[i].pressing.kind}", (at.x, at.y)
    return None


def _outward(loop: Loop) -> Loop:
    return tuple(s.turned for s in reversed(loop))


def parted(
    forms: Sequence[Form], into: Motion2, allowance: float
) -> tuple[tuple[Form, ...], tuple[Form, ...]]:
    """Forms of a panel that is folded: those that stay, and those that turn with what lies beyond the bend. `into`
    takes the line of the fold, y = 0 where it begins, into the panel. Raises BadInput for one in its way."""
    stay, turn = [], []
    for form in forms:
        low, high = heights(form, into.inverse)
        if high <= SAME:
            stay.append(form)
        elif low >= allowance - SAME:
            turn.append(form)
        else:
            raise BadInput(
                f"the fold runs through a {form.pressing.kind}: fold elsewhere, or press it after the fold"
            )
    return tuple(stay), tuple(turn)


def heights(form: Form, seen: Motion2) -> Pair:
    """Between which y a form is as it is seen."""
    _, low, _, high = extent([s for lp in taken(form) for s in moved_loop(lp, seen)])
    return low, high


def piloted(pressing: Pressing) -> Pressing:
    """A collar with the hole its blank has: the sheet round a bore and the collar drawn from it have one volume.
    Raises BadInput where the sheet in its place is less than the collar takes."""
    left = -4.0 * pressing.gains / (math.pi * pressing.thickness)
    if left <= 0.0:
        raise BadInput(
            f"a collar {pressing.section.rise:.4g} mm high takes more sheet than there is in its place: make it lower, "
            "its wall thinner, or the bore wider"
        )
    return replace(pressing, pilot=math.sqrt(left))
