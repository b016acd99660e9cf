"""The blank as it is drawn: outline, bends with what the shop needs to know of each, what it weighs and costs to
cut, where it lies on itself."""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import shapely

from vireo.core.curves import Circle2, Pair
from vireo.core.kernel.stamp import taken
from vireo.core.panels.flat import Blank, blank, laid
from vireo.core.panels.joints import patches
from vireo.core.panels.loops import SAME, Loop, Motion2, Seg, extent, moved, moved_loop
from vireo.core.panels.model import Bend, Sheet
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.combine import flip, flipped

Side = Literal["top", "bottom"]
#: Patches that share less than this in the flat (mm2) only touch.
_LEAST = 1e-3
#: To this grid (mm) overlaps are worked out: without one, patches with corners a rounding apart are said to lie on
#: each other whole.
_GRID = 1e-6


@dataclass(frozen=True)
class FlatBend:
    """A bend in the blank: `lines` are its middle, `up` whether it rises to who looks at the blank. Angle in
    deg, lengths in mm."""

    id: str
    number: int
    up: bool
    angle: float
    radius: float
    allowance: float
    deduction: float
    k: float
    lines: tuple[tuple[Pair, Pair], ...]

    @property
    def length(self) -> float:
        return sum(math.dist(a, b) for a, b in self.lines)


@dataclass(frozen=True)
class FlatPatch:
    """A panel or a bend's zone where it lies, and its walls with their names."""

    id: str
    bend: bool
    loops: tuple[Loop, ...]
    walls: tuple[tuple[str, Seg], ...]


@dataclass(frozen=True)
class FlatForm:
    """What is pressed into the blank: `loops` is what it takes of the flat, `up` whether it rises to who looks at
    the blank; `path` are lines along it. A `pilot` is cut beforehand (diameter)."""

    id: str
    kind: str
    up: bool
    height: float
    loops: tuple[Loop, ...]
    path: Loop
    at: Pair
    pilot: float


@dataclass(frozen=True)
class Lap:
    """Two patches that lie on each other in the flat: by how much (mm2) and where."""

    a: str
    b: str
    area: float
    at: Pair


@dataclass(frozen=True)
class Flat:
    """`side` is the one kept up, `turn` (deg) by what the blank is turned; the lower left of it is at 0, 0."""

    side: Side
    turn: float
    thickness: float
    outline: Blank
    bends: tuple[FlatBend, ...]
    patches: tuple[FlatPatch, ...]
    laps: tuple[Lap, ...]
    forms: tuple[FlatForm, ...]
    #: Which way the sheet was rolled, from x of the blank (rad), where that is said.
    grain: float | None
    #: Where a place of a patch lies in it.
    place: Callable[[str, Pair], Pair]

    @property
    def size(self) -> Pair:
        return self.outline.size


def flattened(body: SheetBody, side: Side = "top", turn: float = 0.0) -> Flat:
    """The blank of a sheet. Raises Trouble where its outline does not close."""
    sheet = body.sheet
    known = patches(sheet)
    at = laid(sheet)
    outline = blank(sheet, known)
    away = side == "bottom"
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    turned = Motion2(c, s)

    def loops(of: Sequence[Loop], m: Motion2) -> tuple[Loop, ...]:
        there = [moved_loop(lp, m) for lp in of]
        return tuple(moved_loop(lp, turned) for lp in (flipped(there) if away else there))

    first = loops(outline.loops, Motion2())
    x0, y0, _, _ = extent(first[0])
    home = turned.then(Motion2(x=-x0, y=-y0))

    def put(seg: Seg, m: Motion2) -> Seg:
        there = moved(seg, m)
        return moved(flip(there) if away else there, home)

    def point(p: Pair, m: Motion2) -> Pair:
        x, y = m(p)
        return home((-x if away else x, y))

    shift = Motion2(x=-x0, y=-y0)
    drawn = tuple(
        FlatPatch(
            part.id, part.bend is not None,
            tuple(moved_loop(lp, shift) for lp in loops(part.loops, at[part.id])),
            tuple((name, put(part.loops[n][i], at[part.id])) for (n, i), name in part.walls),
        )
        for part in known.values()
    )  # fmt: skip
    bends = tuple(
        _bend(sheet, sheet.bends[b.id], n, away, [
            (point(p, at[b.id]), point(q, at[b.id])) for p, q in middle(b)
        ])
        for n, b in enumerate((b for _, b in sheet.outward() if b is not None), 1)
    )  # fmt: skip
    forms = tuple(
        FlatForm(
            form.id, form.pressing.kind, form.up != away, form.pressing.rise,
            tuple(moved_loop(lp, shift) for lp in loops(taken(form), at[id])),
            tuple(put(moved(s, form.at), at[id]) for s in form.pressing.path),
            point((form.at.x, form.at.y), at[id]), form.pressing.pilot,
        )
        for id, panel in sheet.panels.items() for form in panel.forms
    )  # fmt: skip
    pilots = [(Seg(Circle2(f.at, 0.5 * f.pilot), f"{f.id}/pilot", True),) for f in forms if f.pilot]
    placed = Blank((*(moved_loop(lp, shift) for lp in first), *pilots))
    grain = body.grain
    if grain is not None:
        grain = (math.pi - grain if away else grain) + math.radians(turn)
    return Flat(
        side, turn, sheet.thickness, placed, bends, drawn, tuple(_laps(drawn)), forms, grain,
        lambda id, p: point(p, at[id]),
    )  # fmt: skip


def _bend(
    sheet: Sheet, bend: Bend, number: int, away: bool, lines: Sequence[tuple[Pair, Pair]]
) -> FlatBend:
    turn, t = abs(bend.angle), sheet.thickness
    setback = (bend.radius + t) * math.tan(min(turn, math.pi / 2.0) / 2.0)
    return FlatBend(
        bend.id, number, (bend.angle > 0.0) != away, math.degrees(turn), bend.radius, bend.allowance,
        2.0 * setback - bend.allowance, (bend.allowance / turn - bend.radius) / t, tuple(lines),
    )  # fmt: skip


def middle(bend: Bend) -> list[tuple[Pair, Pair]]:
    """The middle line of a zone where there is sheet, in its coordinates."""
    y = 0.5 * bend.allowance
    crossings = sorted(x for loop in bend.loops for seg in loop for x in _crossings(seg, y))
    return [
        ((a, y), (b, y))
        for a, b in zip(crossings[::2], crossings[1::2], strict=False)
        if b - a > SAME
    ]


def _crossings(seg: Seg, y: float) -> list[float]:
    """Where a piece goes through a height, ends counted where it rises above it."""
    count = 1 if seg.curve.form == "line" else 64
    shares = [k / count for k in range(count + 1)]
    found = []
    for a, b in itertools.pairwise(shares):
        low, high = seg.at(a)[1] - y, seg.at(b)[1] - y
        if (low > 0.0) == (high > 0.0):
            continue
        for _ in range(60):
            m = 0.5 * (a + b)
            if ((seg.at(m)[1] - y) > 0.0) == (low > 0.0):
                a = m
            else:
                b = m
        found.append(seg.at(0.5 * (a + b))[0])
    return found


def _laps(drawn: Sequence[FlatPatch]) -> list[Lap]:
    """Pairs of patches that lie on each other."""
    shapes = [polygon(p.loops) for p in drawn]
    tree = shapely.STRtree(shapes)
    found = []
    for i, j in zip(*tree.query(shapes, predicate="intersects"), strict=True):
        if i >= j:
            continue
        common = shapely.intersection(shapes[i], shapes[j], grid_size=_GRID)
        if common.area > _LEAST:
            at = common.representative_point()
            found.append(Lap(drawn[i].id, drawn[j].id, float(common.area), (at.x, at.y)))
    return found


def crossing(loops: Sequence[Loop]) -> Pair | None:
    """Where an outline crosses itself or another; None where none does. Round pieces by their chords."""
    rings = [[p for s in lp for p in s.points(0.05)[:-1]] for lp in loops]
    for ring in rings:
        told = shapely.is_valid_reason(shapely.Polygon(ring))
        # Told as ``Self-intersection[12.5 3]``.
        if found := re.search(r"\[(\S+) (\S+)\]", told):
            return float(found[1]), float(found[2])
    lines = [shapely.LinearRing(r) for r in rings]
    for a, b in itertools.combinations(lines, 2):
        if a.crosses(b):
            at = shapely.intersection(a, b).representative_point()
            return at.x, at.y
    return None


def polygon(loops: Sequence[Loop]) -> shapely.Geometry:
    """What loops enclose, by their chords."""
    rings = [[p for s in lp for p in s.points(0.1)[:-1]] for lp in loops]
    whole = shapely.Polygon()
    for ring in rings:
        whole = whole.symmetric_difference(shapely.Polygon(ring))
    return whole
