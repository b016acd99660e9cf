"""Threads of holes and shafts: which screw, marked or modelled, how loose."""

from __future__ import annotations

import re
from typing import Literal

from vireo.core.geometry import Frame
from vireo.core.kernel.shape import Body
from vireo.core.kernel.thread import Form, inner_form, outer_form, room_beyond, tool
from vireo.core.part.context import StepTrouble
from vireo.core.part.datum import Mark
from vireo.core.screws import SCREWS, Screw

Shown = Literal["marked", "modelled"]

#: Clear of the wall of a bore, so that all of it is cut (mm).
_HAIR = 0.005


def allowance(pitch: float) -> float:
    """Fundamental deviation of a screw of class g, mm on the diameter: (15 + 11 P) um (ISO 965-1)."""
    return (15.0 + 11.0 * pitch) * 1e-3


def screw_called(name: str, field: str) -> Screw:
    """From the tables. Raises StepTrouble naming the nearest by size."""
    if name in SCREWS:
        return SCREWS[name]
    digits = re.sub(r"[^0-9.]", " ", name).split()
    family = [s for s in SCREWS.values() if s.name[0] == name[0]] if digits else []
    near = sorted(family, key=lambda s: abs(s.diameter - float(digits[0])))
    like = f"; near it: {', '.join(s.name for s in near[:3])}" if near else ""
    raise StepTrouble(f"there is no screw {name} in the tables{like}", [f"field:{field}"])


def matching(diameter: float, inside: bool) -> Screw | None:
    """The coarse screw a shaft or a tapping drill of this diameter is for, or None."""
    coarse = [s for n, s in SCREWS.items() if "x" not in n and n.startswith("M")]

    def off(s: Screw) -> float:
        return abs((s.drill if inside else s.diameter) - diameter) / s.pitch

    best = min(coarse, key=off)
    return best if off(best) < 0.35 else None


def form_for(
    diameter: float, pitch: float, bore: float | None, loose: float, left: bool,
    shaft: float | None = None,
) -> Form:  # fmt: skip
    """A thread of nominal diameter; `bore` is that of the hole it is cut into, None on a shaft.

    `loose` is the play put on top of the class's own, mm on the diameter.
    """
    if bore is None:
        return outer_form(diameter, pitch, allowance(pitch) + loose, left, shaft)
    return inner_form(diameter, bore + 2 * _HAIR, pitch, loose, left)


def cut_of(
    body: Body, form: Form, frame: Frame, low: float, high: float, name: str, ends: bool
) -> Body:
    """What cuts the thread between two heights: run out where it begins and, when its cylinder
    `ends` there too, at its end, as far as they lie free."""
    below = room_beyond(body, form, frame, low, -1.0)
    above = room_beyond(body, form, frame, high, 1.0) if ends else 0.0
    return tool(form, frame, low - below, high + above, name)


def mark_of(
    text: str, form: Form, surface: float, frame: Frame, low: float, high: float,
    faces: tuple[str, ...],
) -> Mark:  # fmt: skip
    """The thread as it is only drawn, on a cylinder of radius `surface`."""
    start = Frame(frame.out((0.0, 0.0, low)), frame.x, frame.z)
    return Mark(text, start, surface, high - low, form.pitch, form.left, faces)
