"""Threads of holes and shafts: which screw, marked or modelled, how loose."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from vireo.core.geometry import Frame
from vireo.core.kernel.shape import Body
from vireo.core.kernel.thread import Form, inner_form, outer_form, room_beyond, tool
from vireo.core.part.datum import Mark
from vireo.core.part.trouble import StepTrouble
from vireo.core.screws import SCREWS, Screw
from vireo.core.thread_classes import INNER, OUTER, Zone, classes_of, sizes, zone
from vireo.core.trouble import Offer

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


@dataclass(frozen=True)
class Match:
    """The screw a face is taken to be for, and how far its diameter is off that (mm)."""

    screw: Screw
    off: float

    @property
    def words(self) -> str:
        if abs(self.off) < 5e-4:
            return self.screw.name
        return (
            f"{self.screw.name} ({abs(self.off):.3f} mm {'wider' if self.off > 0 else 'narrower'})"
        )


def nearest(diameter: float, inside: bool) -> list[Match]:
    """Screws by how near a shaft, or a tapping drill, of this diameter is to theirs; coarse
    metric ones first among those as near."""

    def rank(m: Match) -> tuple[float, bool, float]:
        coarse = m.screw.name.startswith("M") and "x" not in m.screw.name
        return (round(abs(m.off), 3), not coarse, m.screw.pitch)

    found = [Match(s, diameter - (s.drill if inside else s.diameter)) for s in SCREWS.values()]
    return sorted(found, key=rank)


def matching(diameter: float, inside: bool) -> tuple[Match, list[Match]] | None:
    """What a shaft or a bore is taken to be for, and what else is near; None when nothing is
    within a third of its pitch.

    A coarse metric screw goes before others as long as it is within a tenth of its pitch.
    """
    near = [m for m in nearest(diameter, inside) if abs(m.off) < 0.35 * m.screw.pitch]
    if not near:
        return None
    coarse = [
        m for m in near
        if m.screw.name.startswith("M") and "x" not in m.screw.name
        and abs(m.off) <= 0.1 * m.screw.pitch
    ]  # fmt: skip
    best = coarse[0] if coarse else near[0]
    return best, [m for m in near if m is not best][:3]


#: How a thread is placed within its tolerance.
Class = Literal["", "6H", "6G", "6g", "1B", "2B", "3B", "1A", "2A", "3A"]
CLASS_WORDS: dict[str, str] = {
    "": "Basic (H, or g at its largest)", **{c: c for c in (*INNER, *OUTER)},
}  # fmt: skip


def class_zone(name: str, screw: Screw | None, inside: bool, field: str) -> Zone | None:
    """The zone of a chosen class, None for none. Raises StepTrouble for one that does not go
    with the screw, or with the side."""
    if not name:
        return None
    if screw is None:
        raise StepTrouble("a class needs a screw of the tables", [f"field:{field}"])
    known = classes_of(screw, inside)
    if name not in known:
        side = "a bore" if inside else "a shaft"
        raise StepTrouble(
            f"class {name} is not for {side} with {screw.name}: take {', '.join(known)}",
            [f"field:{field}"],
            [Offer(label=f"Use {c}", fields={field: c}) for c in known],
        )
    return zone(name, screw)


def listed(name: str, screw: Screw) -> str:
    """The diameters of a class as they stand in a table."""
    s = sizes(name, screw)
    said = [
        f"{word} Ø {_range(pair)}"
        for word, pair in (("major", s.major), ("pitch", s.pitch), ("minor", s.minor))
    ]
    return f"{screw.name} {name}: {', '.join(said)} mm"


def _range(pair: tuple[float | None, float | None]) -> str:
    low, high = pair
    if low is None:
        return f"≤ {high:.3f}"
    return f"≥ {low:.3f}" if high is None else f"{low:.3f} to {high:.3f}"


def form_for(
    diameter: float, pitch: float, bore: float | None, loose: float, left: bool,
    shaft: float | None = None, within: Zone | None = None,
) -> Form:  # fmt: skip
    """A thread of nominal diameter; `bore` is that of the hole it is cut into, None on a shaft.

    `loose` is the play put on top of the class's own, mm on the diameter; `within` a class, in
    the middle of whose pitch tolerance it is made.
    """
    if bore is None:
        off = within.middle if within is not None else allowance(pitch)
        return outer_form(diameter, pitch, off + loose, left, shaft)
    off = within.middle if within is not None else 0.0
    return inner_form(diameter, bore + 2 * _HAIR, pitch, off + loose, left)


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
