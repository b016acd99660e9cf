"""Forms pressed into a panel: dimples, beads, louvres, collars, outlines. All are one section of sheet of even
thickness, run along a path, and told in closed form: volume, what they take of the panel, how high they stand.

A section lies in u, z: u from the path (0) out to the rim (`reach`), where it leaves the flat sheet; the sheet fills
0 <= z <= t at the rim and is raised towards the middle. Lengths in mm, angles in rad.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from vireo.core.curves import Arc2, Circle2, Curve2, Line2, Pair, Spline2
from vireo.core.panels.loops import SAME, Loop, Motion2, Seg, area, line
from vireo.core.trouble import BadInput

#: Both sides of a path are raised, the left one only, or what a closed path goes round.
Side = Literal["both", "left", "ring"]
#: How a form ends where its path does: turned round, cut with the sheet whole beyond, or with a window beyond.
Ends = Literal["formed", "slit", "open"]


@dataclass(frozen=True)
class Section:
    """Half of the cross section: its outline, counter-clockwise, and how far it rises over the sheet."""

    loop: Loop
    reach: float
    rise: float

    @property
    def twin(self) -> Loop:
        """The whole section, with its image on the other side of u = 0."""
        image = (replace(_flip(s), name=f"{s.name}.r") for s in self.loop if s.name != "mid")
        return (*(s for s in self.loop if s.name != "mid"), *image)

    @property
    def moment(self) -> float:
        """The integral of u over it (mm3)."""
        return sum(_moment(s) for s in self.loop)


@dataclass(frozen=True)
class Straight:
    """Part of a form: the section drawn along, u to the left of `d` from `p`; `twin`: to both sides."""

    p: Pair
    d: Pair
    length: float
    twin: bool = False


@dataclass(frozen=True)
class Turned:
    """Part of a form: the section at `p`, u along `out`, turned counter-clockwise by `sweep` about an upright axis
    at u = `axis`; `twin`: with its image on the other side of u = 0."""

    p: Pair
    out: Pair
    axis: float
    sweep: float
    twin: bool = False


@dataclass(frozen=True)
class Lid:
    """Part of a form: what a closed path goes round, at the height of the section's end."""

    loops: tuple[Loop, ...]


Piece = Straight | Turned | Lid


@dataclass(frozen=True)
class Pressing:
    """A form by itself, raised, about its own origin. An empty `path` turns the section once round; `kind` is what
    it is drawn and told as. A `pilot` is the hole (diameter) the blank has in its place."""

    kind: str
    thickness: float
    section: Section
    path: Loop = ()
    side: Side = "both"
    ends: Ends = "formed"
    pilot: float = 0.0

    @property
    def rise(self) -> float:
        """How far it stands out of the sheet (mm)."""
        return self.section.rise

    @property
    def flipped(self) -> Pressing:
        """Its mirror image, x turned to -x."""
        return replace(self, path=tuple(_flip(s) for s in reversed(self.path)))

    @property
    def pieces(self) -> list[Piece]:
        """What it is made of. Raises BadInput for a path that bends more tightly than the form is wide, or has
        corners it cannot go round."""
        if not self.path:
            return [Turned((0.0, 0.0), (1.0, 0.0), 0.0, 2.0 * math.pi)]
        found: list[Piece] = []
        if self.side == "ring":
            found.append(Lid((self.path,)))
        for k, seg in enumerate(self.path):
            found.append(self._beside(seg, self.side != "ring", self.side == "both"))
            after = self.path[(k + 1) % len(self.path)]
            if self.side == "ring" or k + 1 < len(self.path):
                found += self._corner(seg, after)
        if self.side != "ring" and self.ends == "formed":
            found += self._ends()
        return found

    @property
    def voids(self) -> list[Straight]:
        """What is cut away beyond its ends."""
        if self.side == "ring" or self.ends != "open" or not self.path:
            return []
        t, found = self.thickness, []
        for seg, out in ((self.path[0], False), (self.path[-1], True)):
            d, p = ways(seg)[1 if out else 0], seg.b if out else seg.a
            start = p if out else (p[0] - t * d[0], p[1] - t * d[1])
            found.append(Straight(start, d, t, self.side == "both"))
        return found

    def _beside(self, seg: Seg, left: bool, twin: bool) -> Piece:
        (d, _), reach = ways(seg), self.section.reach
        if isinstance(seg.curve, Line2):
            size = math.dist(seg.a, seg.b)
            if not left:
                return Straight(seg.b, (-d[0], -d[1]), size)
            return Straight(seg.a, d, size, twin)
        assert isinstance(seg.curve, Arc2)
        arc = seg.curve
        inward = left != seg.back
        if (inward or twin) and arc.radius < reach - SAME:
            raise BadInput(
                f"the path bends with a radius of {arc.radius:.4g} mm, and the form reaches {reach:.4g} mm to its "
                "inside: make the bend wider or the form narrower"
            )
        start = seg.b if seg.back else seg.a
        away = ((start[0] - arc.centre[0]) / arc.radius, (start[1] - arc.centre[1]) / arc.radius)
        out = (-away[0], -away[1]) if inward else away
        return Turned(start, out, arc.radius if inward else -arc.radius, arc.end - arc.start, twin)

    def _corner(self, seg: Seg, after: Seg) -> list[Piece]:
        """What fills the outside of a corner of the path; nothing where it goes on smoothly."""
        (_, d), (e, _) = ways(seg), ways(after)
        turn = math.atan2(d[0] * e[1] - d[1] * e[0], d[0] * e[0] + d[1] * e[1])
        if abs(turn) < 1e-6:
            return []
        if self.side != "ring":
            raise BadInput("the path has a corner: round it, a form runs on smoothly")
        if turn < 0.0:
            raise BadInput(
                f"the outline has a corner that points inwards: round it by {self.section.reach:.4g} mm at least"
            )
        return [Turned(seg.b, (d[1], -d[0]), 0.0, turn)]

    def _ends(self) -> list[Piece]:
        (d, _), (_, e) = ways(self.path[0]), ways(self.path[-1])
        half = math.pi if self.side == "both" else 0.5 * math.pi
        first = Turned(self.path[0].a, (-d[1], d[0]), 0.0, half)
        last = (e[1], -e[0]) if self.side == "both" else e
        return [first, Turned(self.path[-1].b, last, 0.0, half)]

    @property
    def covers(self) -> float:
        """What it takes of the flat of the panel (mm2)."""
        reach = self.section.reach
        flat = _swept_area(self.pieces, reach, 0.5 * reach**2)
        return flat + sum(v.length * reach * (2.0 if v.twin else 1.0) for v in self.voids)

    @property
    def gains(self) -> float:
        """By how much a panel with it has more volume than one without (mm3). Straight parts by their area, turned
        ones by the way of their centroid (Pappus)."""
        s, t = self.section, self.thickness
        made = _swept_area(self.pieces, area([s.loop]), s.moment, t)
        return made - self.covers * t


def _swept_area(pieces: Sequence[Piece], size: float, moment: float, lid: float = 1.0) -> float:
    """What something of a size and first moment sweeps; `lid` is how thick a lid is."""
    total = 0.0
    for piece in pieces:
        match piece:
            case Straight():
                total += size * piece.length * (2.0 if piece.twin else 1.0)
            case Turned(twin=True):
                total += piece.sweep * 2.0 * size * abs(piece.axis)
            case Turned():
                total += piece.sweep * abs(moment - piece.axis * size)
            case Lid():
                total += area(piece.loops) * lid
    return total


@dataclass(frozen=True)
class Found:
    """A form as it was found in a solid: its faces kept as they are, in `shape`, as the panel stands when it lies in
    x, y. `taken` is what it takes of the panel, clockwise, `gains` what the panel has more by it (mm3), `spans` how
    far it stands out of the bottom and of the top."""

    thickness: float
    shape: str
    taken: tuple[Loop, ...]
    gains: float
    spans: Pair
    mirrored: bool = False
    kind: str = "form"
    path: Loop = ()
    pilot: float = 0.0

    @property
    def rise(self) -> float:
        return max(self.spans)

    @property
    def flipped(self) -> Found:
        """Its mirror image, x turned to -x."""
        loops = tuple(tuple(_flip(s) for s in reversed(lp)) for lp in self.taken)
        return replace(self, taken=loops, mirrored=not self.mirrored)


@dataclass(frozen=True)
class Form:
    """A pressing in a panel: carried by `at`, raised towards the top or pressed towards the bottom; what was found in
    a solid is never turned over. Its faces are called behind `id`."""

    id: str
    pressing: Pressing | Found
    at: Motion2
    up: bool = True

    @property
    def spans(self) -> Pair:
        """How far it stands out of the bottom of the sheet, and out of its top (mm)."""
        made = self.pressing
        if isinstance(made, Found):
            return made.spans
        return (0.0, made.rise) if self.up else (made.rise, 0.0)

    def moved(self, m: Motion2) -> Form:
        return replace(self, at=self.at.then(m))

    @property
    def flipped(self) -> Form:
        """Its mirror image, x turned to -x."""
        m = self.at
        return replace(self, pressing=self.pressing.flipped, at=Motion2(m.c, -m.s, -m.x, m.y))


def ways(seg: Seg) -> tuple[Pair, Pair]:
    """Unit directions of a line or an arc where it begins and where it ends."""
    if isinstance(seg.curve, Arc2):
        turn = -1.0 if seg.back else 1.0
        ends = []
        for p in (seg.a, seg.b):
            x, y = (p[0] - seg.curve.centre[0], p[1] - seg.curve.centre[1])
            ends.append((-turn * y / seg.curve.radius, turn * x / seg.curve.radius))
        return ends[0], ends[1]
    size = math.dist(seg.a, seg.b)
    d = ((seg.b[0] - seg.a[0]) / size, (seg.b[1] - seg.a[1]) / size)
    return d, d


def _flip(seg: Seg) -> Seg:
    """A line, arc, circle or spline with x turned to -x, run the other way."""
    if isinstance(seg.curve, Circle2):
        c0 = seg.curve
        return Seg(Circle2((-c0.centre[0], c0.centre[1]), c0.radius), seg.name, seg.back)
    if isinstance(seg.curve, Spline2):
        s0 = seg.curve
        poles = tuple((-x, y) for x, y in s0.poles)
        return Seg(Spline2(s0.degree, s0.knots, poles, s0.weights), seg.name, not seg.back)
    if isinstance(seg.curve, Arc2):
        c = seg.curve
        arc = Arc2((-c.centre[0], c.centre[1]), c.radius, math.pi - c.end, math.pi - c.start)
        return Seg(arc, seg.name, seg.back)
    return line((-seg.b[0], seg.b[1]), (-seg.a[0], seg.a[1]), seg.name)


def _moment(seg: Seg) -> float:
    """Its share of the integral of u over what it goes round: half that of u² dz (Green)."""
    sign = -1.0 if seg.back else 1.0
    if isinstance(seg.curve, Line2):
        (u0, z0), (u1, z1) = seg.curve.a, seg.curve.b
        return sign * (z1 - z0) * (u0 * u0 + u0 * u1 + u1 * u1) / 6.0
    assert isinstance(seg.curve, Arc2)
    (cu, _), r, (a, b) = seg.curve.centre, seg.curve.radius, seg.curve.range

    def upto(x: float) -> float:
        s = math.sin(x)
        whole = cu * cu * s + 2.0 * cu * r * (x / 2.0 + math.sin(2.0 * x) / 4.0)
        return 0.5 * r * (whole + r * r * (s - s**3 / 3.0))

    return sign * (upto(b) - upto(a))


# Sections


def raised(t: float, reach: float, rise: float, base: float, crown: float, angle: float) -> Section:
    """With a flat top: walls at an angle to the sheet, rounded where they leave it and at the top by inner radii
    `base` and `crown`. Raises BadInput where that does not fit."""
    turn = _turning(t, base, crown, angle)
    up = (base + crown + t) * (1.0 - math.cos(angle))
    wall = (rise - up) / math.sin(angle)
    if wall < -SAME:
        raise BadInput(
            f"the roundings alone rise by {up:.4g} mm and the form is {rise:.4g} mm high: take smaller radii, a "
            "steeper wall is no help"
        )
    flat = reach - turn - max(wall, 0.0) * math.cos(angle)
    if flat < -SAME:
        raise BadInput(
            f"walls at {math.degrees(angle):.4g}° and their roundings take {reach - flat:.4g} mm on each side, and "
            f"half the form is {reach:.4g} mm wide: make it wider, lower or steeper"
        )
    return _section(t, reach, rise, base, crown, angle, max(wall, 0.0), max(flat, 0.0))


def walled(t: float, rise: float, base: float, crown: float, angle: float) -> Section:
    """A wall with nothing flat on its far side: as wide as its roundings and its slope make it."""
    turn = _turning(t, base, crown, angle)
    wall = max(rise - (base + crown + t) * (1.0 - math.cos(angle)), 0.0) / math.sin(angle)
    return raised(t, turn + wall * math.cos(angle), rise, base, crown, angle)


def _turning(t: float, base: float, crown: float, angle: float) -> float:
    if not 0.0 < angle <= 0.5 * math.pi + 1e-12:
        raise BadInput("walls of a form stand at more than 0° and at most 90°")
    return (base + crown + t) * math.sin(angle)


def arched(t: float, reach: float, rise: float, base: float) -> Section:
    """One arch from rim to rim, rounded by an inner radius where it leaves the sheet."""
    if rise > reach:
        raise BadInput(
            f"an arch of {2.0 * reach:.4g} mm is at most {reach:.4g} mm high, and {rise:.4g} mm is wanted: "
            "make it wider"
        )
    angle = 2.0 * math.atan2(rise, reach)
    crown = reach / math.sin(angle) - base - t
    if crown < -SAME:
        raise BadInput(
            f"an arch of {2.0 * reach:.4g} mm by {rise:.4g} mm has no room for a radius of {base:.4g} mm where it "
            f"leaves a sheet of {t:.4g} mm: take a smaller radius or a wider form"
        )
    return _section(t, reach, rise, base, max(crown, 0.0), angle, 0.0, 0.0)


def pointed(t: float, reach: float, rise: float, base: float, crown: float) -> Section:
    """Straight walls that meet in a rounded ridge: s + (rise - s) cos a = reach sin a, s both mean radii."""
    s = base + crown + t
    size = math.hypot(reach, rise - s)
    if s > size:
        raise BadInput("the radii are too large for a form of this width and height")
    angle = math.atan2(rise - s, reach) + math.asin(s / size)
    if not 0.0 < angle <= 0.5 * math.pi:
        raise BadInput("the radii are too large for a form of this width and height")
    wall = (rise - s * (1.0 - math.cos(angle))) / math.sin(angle)
    if wall < -SAME:
        raise BadInput("the radii are too large for a form of this width and height")
    return _section(t, reach, rise, base, crown, angle, max(wall, 0.0), 0.0)


def collared(t: float, bore: float, rise: float, base: float, wall: float) -> Section:
    """An upright wall round a bore (diameter), rounded by an inner radius where it leaves the sheet; a `wall` that
    was drawn thinner than the sheet has a mouth rounded the less."""
    if not 0.0 < wall <= t + SAME:
        raise BadInput(
            f"the wall of a collar is at most as thick as the sheet, {t:.4g} mm, and more than nothing"
        )
    if rise < base - SAME:
        raise BadInput(
            f"the rounding alone rises by {base:.4g} mm and the collar is {rise:.4g} mm high"
        )
    inner, outer = 0.5 * bore, 0.5 * bore + wall
    reach, high, mouth = outer + base, t + rise, wall + base
    loop = _loop([
        line((reach, 0.0), (reach, t), "rim"),
        _arc((reach, t + base), base, -math.pi, -0.5 * math.pi, "over.base", True),
        line((outer, t + base), (outer, high), "over.wall"),
        line((outer, high), (inner, high), "lip"),
        line((inner, high), (inner, mouth), "under.wall"),
        _arc((reach, mouth), mouth, -math.pi, -0.5 * math.pi, "under.base", False),
    ])  # fmt: skip
    return Section(loop, reach, rise)


def _section(
    t: float, reach: float, rise: float, base: float, crown: float, angle: float, wall: float, flat: float
) -> Section:  # fmt: skip
    sine, cosine = math.sin(angle), math.cos(angle)
    low = (reach, t + base)

    def off(radius: float) -> Pair:
        return (low[0] - radius * sine, low[1] - radius * cosine)

    over, under = off(base), off(base + t)
    along = (-cosine * wall, sine * wall)
    over_end = (over[0] + along[0], over[1] + along[1])
    under_end = (under[0] + along[0], under[1] + along[1])
    top = (under_end[0] - crown * sine, under_end[1] - crown * cosine)
    high = top[1] + crown
    loop = _loop([
        line((reach, 0.0), (reach, t), "rim"),
        _arc(low, base, -0.5 * math.pi - angle, -0.5 * math.pi, "over.base", True),
        line(over, over_end, "over.wall"),
        _arc(top, crown + t, 0.5 * math.pi - angle, 0.5 * math.pi, "over.crown", False),
        line((top[0], high + t), (0.0, high + t), "over.flat"),
        line((0.0, high + t), (0.0, high), "mid"),
        line((0.0, high), (top[0], high), "under.flat"),
        _arc(top, crown, 0.5 * math.pi - angle, 0.5 * math.pi, "under.crown", True),
        line(under_end, under, "under.wall"),
        _arc(low, base + t, -0.5 * math.pi - angle, -0.5 * math.pi, "under.base", False),
    ])  # fmt: skip
    return Section(loop, reach, rise)


def _arc(centre: Pair, radius: float, start: float, end: float, name: str, back: bool) -> Seg:
    curve: Curve2 = Arc2(centre, radius, start, end)
    return Seg(curve, name, back)


def _loop(segs: Sequence[Seg]) -> Loop:
    """The pieces that have a length; where one is left out its neighbours meet."""
    left = [s for s in segs if s.curve.length > SAME]
    return tuple(left)
