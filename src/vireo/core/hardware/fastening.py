"""What is put into a hole: the size that fits, what stands on what, the length from the grip.

Clearance: ISO 273, ASME B18.2.8 (as in `core.screws`). A screw in a tapped hole is held over one and
a half diameters where there is room; through a nut two threads stand out.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from vireo.core.hardware.kind import STANDARDS, Standard
from vireo.core.screws import SCREWS
from vireo.core.thread_classes import cut_into
from vireo.core.trouble import BadInput

#: How far a hole may be off the tables (mm).
_OFF = 0.06


@dataclass(frozen=True)
class Bore:
    """A stretch of a hole: diameter, where it begins and ends below its mouth (mm)."""

    diameter: float
    start: float
    end: float


@dataclass(frozen=True)
class Wish:
    """What is asked for; what is not said is chosen. `size` as the standard has it, `length` in mm."""

    standard: str = "ISO 4762"
    size: str = ""
    length: float = 0.0
    washer: bool = True
    nut: bool = True


@dataclass(frozen=True)
class Item:
    """One piece: where its seat is above the mouth it is at (mm), the near one or the far one."""

    standard: str
    size: str
    length: float
    far: bool
    height: float

    @property
    def title(self) -> str:
        return STANDARDS[self.standard].title(self.size, self.length)

    @property
    def name(self) -> str:
        standard = STANDARDS[self.standard]
        size = self.size if not self.size[:1].isdigit() or "-" in self.size else f"Ø{self.size}"
        return f"{standard.label} {size}"


@dataclass
class Stack:
    """What goes in, from the head on; sizes and lengths that could be, and what is to be known."""

    items: list[Item] = field(default_factory=list)
    sizes: list[str] = field(default_factory=list)
    lengths: tuple[float, ...] = ()
    grip: float = 0.0
    held: float = 0.0
    tapped: bool = False
    #: What the thread shares with the part it is cut into, drawn without one (mm3).
    bite: float = 0.0
    notes: list[str] = field(default_factory=list)

    def main(self, wish: Wish) -> Item:
        """The piece that was asked for, among what comes with it."""
        return next(i for i in self.items if i.standard == wish.standard)


def fitting(standard: Standard, diameter: float) -> list[str]:
    """Sizes of a standard that go into a hole, the one meant first: clearance holes from fine to
    coarse, pins and rings by their diameter, screws also in the drill for their thread."""
    if standard.role not in ("screw", "washer", "nut"):
        near = sorted(standard.sizes, key=lambda s: abs(standard.nominal(s) - diameter))
        return [s for s in near if abs(standard.nominal(s) - diameter) < 0.05]

    def off(size: str) -> tuple[int, float]:
        screw = SCREWS[size]
        fine, medium, coarse = screw.clear
        if fine - _OFF <= diameter <= coarse + _OFF:
            return 0, abs(diameter - medium)
        if cut_into(screw, diameter) or abs(diameter - screw.diameter) < _OFF:
            return 1, abs(diameter - screw.drill)
        return 2, 0.0

    return sorted((s for s in standard.sizes if off(s)[0] < 2), key=off)


def stacked(wish: Wish, bores: Sequence[Bore], through: bool, mouth: float) -> Stack:
    """What is put into a hole of bores one behind the other. Raises BadInput for a hole nothing of
    the standard goes into."""
    standard = STANDARDS.called(wish.standard)
    if standard.role in ("screw", "pin") and not bores:
        raise BadInput(
            f"there is no hole below that edge for a {standard.label.lower()}: pick the rim of one"
        )
    if standard.role == "screw":
        return _screwed(standard, wish, bores, through, mouth)
    found = Stack(sizes=fitting(standard, mouth))
    size = wish.size or (found.sizes[0] if found.sizes else "")
    if not size:
        raise BadInput(_none(standard, mouth))
    depth = bores[-1].end if bores else 0.0
    found.lengths, found.grip = standard.lengths(size), depth
    length = wish.length
    if found.lengths and not length:
        inside = [m for m in found.lengths if m <= depth + 1e-6]
        length = inside[-1] if inside else found.lengths[0]
    standard.checked(size, length)
    if found.lengths and depth and length > depth + 1e-6 and not through:
        found.notes.append(
            f"the hole is {depth:.4g} mm deep: it stands out by {length - depth:.4g} mm"
        )
    found.items = [
        Item(standard.standard, size, length, False, _out(standard, length, depth, through))
    ]
    return found


def _out(standard: Standard, length: float, depth: float, through: bool) -> float:
    """How far above the mouth the seat is: a pin that is too long for its hole stands out."""
    return max(length - depth, 0.0) if standard.role == "pin" and not through and depth else 0.0


def _none(standard: Standard, diameter: float) -> str:
    near = min(standard.sizes, key=lambda s: abs(standard.nominal(s) - diameter))
    return (
        f"no {standard.label.lower()} of {standard.standard} goes into a hole of "
        f"{diameter:.4g} mm; nearest is {near}"
    )


def _partner(role: str, standard: Standard, size: str) -> Standard | None:
    """The usual washer or nut to a screw."""
    fits = [s for s in STANDARDS.values() if s.role == role and s.system == standard.system
            and size in s.sizes]  # fmt: skip
    return min(fits, key=lambda s: s.order) if fits else None


def _screwed(
    standard: Standard, wish: Wish, bores: Sequence[Bore], through: bool, mouth: float
) -> Stack:
    found = Stack(sizes=fitting(standard, mouth))
    size = wish.size or (found.sizes[0] if found.sizes else "")
    if not size:
        raise BadInput(_none(standard, mouth))
    if size not in standard.sizes:
        standard.checked(size, 0.0)
    screw = SCREWS[size]
    # Clear as far as the thread passes; a bore it bites in is tapped.
    clear = [b for b in bores if b.diameter >= screw.diameter - 1e-6]
    first = next((b for b in bores if b.diameter < screw.diameter - 1e-6), None)
    if first is not None:
        clear = [b for b in clear if b.end <= first.start + 0.2]
    found.grip = clear[-1].end if clear else 0.0
    if first is not None and not cut_into(screw, first.diameter):
        raise BadInput(
            f"{size} does not go in: the hole is {first.diameter:.4g} mm wide {first.start:.4g} mm below "
            f"its mouth, and its thread is cut into one of {screw.drill:.4g} mm"
        )
    found.tapped = first is not None
    washer = _partner("washer", standard, size) if wish.washer else None
    under = washer.height(size) if washer else 0.0
    nut = _partner("nut", standard, size) if wish.nut and through and not found.tapped else None
    below = washer.height(size) if washer and nut else 0.0
    found.lengths = standard.lengths(size)
    found.notes += _missing(wish, size, washer, nut, through and not found.tapped)
    length = wish.length
    d, p = screw.diameter, screw.pitch
    if nut is not None:
        least = found.grip + under + below + nut.height(size) + 2 * p
        length = length or next((m for m in found.lengths if m >= least - 1e-6), found.lengths[-1])
        found.held = min(nut.height(size), length - found.grip - under - below)
        if length < least - 2 * p - 1e-6:
            found.notes.append(
                f"{length:g} mm is too short to fill the nut: {least:.4g} mm or more would do"
            )
    else:
        room = (first.end - first.start) if first else 0.0
        # To the bottom of a blind hole a pitch is left; through one the tip may come out a little.
        most = found.grip + under + (room + 2 * p if through else max(room - p, 0.0))
        wanted = found.grip + under + 1.5 * d
        if not length:
            fits = [m for m in found.lengths if m <= most + 1e-6]
            length = min(fits, key=lambda m: abs(m - wanted)) if fits else found.lengths[0]
        found.held = min(max(length - under - found.grip, 0.0), room)
        if first:
            found.bite = math.pi / 4 * (d * d - first.diameter**2) * found.held
        if first and found.held < d - 1e-6:
            found.notes.append(
                f"held over {found.held:.4g} mm only: one diameter ({d:g} mm) is the least that is usual"
            )
        if first and not through and length - under > found.grip + room + 1e-6:
            found.notes.append(
                f"the screw meets the bottom of the hole: {most:.4g} mm or less would not"
            )
        if first is None:
            found.notes.append("nothing holds it: the hole has no thread and no nut")
    standard.checked(size, length)
    top = [Item(washer.standard, size, 0.0, False, 0.0)] if washer else []
    found.items = [*top, Item(standard.standard, size, length, False, under)]
    if nut is not None:
        if washer:
            found.items.append(replace(top[0], far=True))
        found.items.append(Item(nut.standard, size, 0.0, True, below))
    return found


def _missing(
    wish: Wish, size: str, washer: Standard | None, nut: Standard | None, nutted: bool
) -> list[str]:
    found = []
    if wish.washer and washer is None:
        found.append(f"there is no washer for {size} in the tables")
    if wish.nut and nutted and nut is None:
        found.append(f"there is no nut for {size} in the tables")
    return found
