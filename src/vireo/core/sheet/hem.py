"""Hems: edges turned back on themselves, as bends and what is flat behind them."""

from __future__ import annotations

import math
from typing import Literal

from scipy.optimize import brentq

from vireo.core.panels.loops import SAME
from vireo.core.sheet.flange import Run
from vireo.core.trouble import BadInput

Form = Literal["closed", "open", "teardrop", "rolled"]
#: The inner radius, in thicknesses, of a hem that is pressed shut: none at all lies on itself, and no file of it
#: can be read again.
SHUT = 0.02


def hem(form: Form, length: float, radius: float, gap: float, turn: float, t: float) -> Run:
    """The bend and lip of a hem. `length` (mm) is from its outermost line to the end of the lip, of a rolled one
    the straight end behind it; `gap` (mm) what is open of an open one, or at the end of the lip of a teardrop;
    `turn` (rad) how far a rolled one goes round. Raises BadInput."""
    if form == "closed":
        return _back(math.pi, SHUT * t, length, t)
    if form == "open":
        return _back(math.pi, 0.5 * gap, length, t)
    if form == "rolled":
        return Run(turn, radius, (length, length))
    return _teardrop(length, radius, gap, t)


def _back(turn: float, radius: float, length: float, t: float) -> Run:
    flat = length - (radius + t)
    if flat <= SAME:
        raise BadInput(
            f"a hem of {length:.4g} mm is all bend: with this it needs more than {radius + t:.4g} mm"
        )
    return Run(turn, radius, (flat, flat))


def _teardrop(length: float, radius: float, gap: float, t: float) -> Run:
    """Turned on past half a turn by b until the end of the lip is `gap` from the sheet it comes from: the lip
    begins r (1 + cos b) above that and falls by sin b along its length."""
    flat = length - (radius + t)
    if flat <= SAME or radius <= 0.0:
        raise BadInput(
            f"a teardrop of {length:.4g} mm is all bend: with this radius it needs more than {radius + t:.4g} mm"
        )
    if gap >= 2.0 * radius:
        raise BadInput(
            f"the gap of a teardrop is less than twice its radius, which makes {2 * radius:.4g} mm"
        )

    def over(b: float) -> float:
        return radius * (1.0 + math.cos(b)) - flat * math.sin(b) - gap

    if over(0.5 * math.pi) > 0.0:
        raise BadInput(
            f"the lip of a teardrop is too short to come back to the sheet: it needs {radius - gap:.4g} mm behind "
            "the bend"
        )
    b = float(brentq(over, 0.0, 0.5 * math.pi))
    return Run(math.pi + b, radius, (flat, flat))
