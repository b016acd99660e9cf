"""Flanges on straight edges of a panel: an edge gives way to a joint, bends and panels hang on it. Where two
edges of a corner have one, they are mitred.

Of an edge that has a flange s runs along it from its end to its beginning in the direction of the loop: outward
is to the left of that.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from vireo.core.curves import Arc2, Line2, Pair
from vireo.core.kernel.region import combined
from vireo.core.panels.loops import SAME, Loop, Seg, line, ring
from vireo.core.panels.model import Bend, Panel, Sheet
from vireo.core.sheet.allowance import Rule
from vireo.core.sheet.sharp import eased
from vireo.core.trouble import BadInput

Floats = NDArray[np.float64]
#: What a bend is long in the flat at least (mm), where a rule says nothing at all for a sharp one: less than
#: anybody cuts, and enough to be told from nothing.
LEAST_ALLOWANCE = 1e-4
#: A mitre through a bend is looked at in so many places.
_LOOKS = 33
#: Where the bend comes to lie: the sheet's outer or inner face on the edge, the bend beyond it, or its
#: outermost tangent on it.
Position = Literal["inside", "outside", "beyond", "tangent"]
#: What the length of a flange is measured from: the sharp corner of the outer or the inner faces (from 90 deg on
#: the outermost tangents), or the end of the bend.
Measure = Literal["outer", "inner", "flat"]
#: A piece of a panel's outline: loop and number in it.
Spot = tuple[int, int]


@dataclass(frozen=True)
class Run:
    """A bend and the flat piece behind it: `angle` in rad, positive towards the top, inner `radius` and
    `length` of the flat piece (mm), at s = 0 and at the far end of the edge."""

    angle: float
    radius: float
    length: tuple[float, float]


@dataclass(frozen=True)
class Reach:
    """Which part of an edge a flange takes: it keeps off the ends by `low` and `high` (mm), or is `width` wide
    in the middle of what they leave."""

    low: float = 0.0
    high: float = 0.0
    width: float | None = None

    def of(self, size: float) -> tuple[float, float]:
        """From where to where along an edge of a size. Raises BadInput where nothing is left."""
        low, high = self.low, size - self.high
        if self.width is not None:
            middle = 0.5 * (low + high)
            low, high = middle - 0.5 * self.width, middle + 0.5 * self.width
        if not (-SAME <= low < high - SAME and high <= size + SAME):
            raise BadInput(
                f"the flange would go from {low:.4g} to {high:.4g} mm on an edge of {size:.4g} mm"
            )
        return low, high


class Relief(NamedTuple):
    """A cut beside the end of a bend: its width, how far it goes beyond the bend (mm), whether it ends round."""

    width: float
    depth: float
    round: bool = False


NO_RELIEF = Relief(0.0, 0.0)


@dataclass(frozen=True)
class Flange:
    """`position` may say outright how far the bend begins inside the edge (mm); `relief` are the cuts at ends that
    lie inside an edge, `gap` what mitred corners are apart (mm)."""

    runs: tuple[Run, ...]
    position: Position | float = "inside"
    reach: Reach = Reach()
    relief: Relief = NO_RELIEF
    gap: float = 0.1


#: The bend and the panel of the n-th run on an edge are called so, by what the edge is.
Names = Callable[[str, int], tuple[str, str]]


def named(step: str) -> Names:
    """Bends and panels behind the step that makes them and the edge they are on."""

    def names(edge: str, n: int) -> tuple[str, str]:
        number = "" if n == 0 else f".{n + 1}"
        return f"{step}/bend/{edge}{number}", f"{step}/panel/{edge}{number}"

    return names


def setback(position: Position | float, angle: float, radius: float, t: float) -> float:
    """How far the bend begins inside the edge (mm). From 90 deg on its outermost line counts. Raises BadInput for
    one that begins beyond it."""
    if isinstance(position, float | int):
        if position < -SAME:
            raise BadInput(
                f"the first bend begins {-position:.4g} mm beyond the edge: move the profile in by that"
            )
        return max(float(position), 0.0)
    turn = abs(angle)
    tangent = math.tan(min(turn, math.pi / 2.0) / 2.0)
    if position == "inside":
        return (radius + t) * tangent
    if position == "outside":
        return radius * tangent
    if position == "tangent":
        return (radius + t) * (math.sin(turn) if turn < math.pi / 2.0 else 1.0)
    return 0.0


def flat_length(length: float, measure: Measure, angle: float, radius: float, t: float) -> float:
    """How long a flange is from the end of its bend (mm). Raises BadInput for one that is all bend."""
    side = {"outer": radius + t, "inner": radius, "flat": 0.0}[measure]
    taken = side * math.tan(min(abs(angle), math.pi / 2.0) / 2.0)
    if length - taken <= SAME:
        raise BadInput(
            f"a flange of {length:.4g} mm is all bend: with this radius and angle it needs more than "
            f"{taken:.4g} mm"
        )
    return length - taken


def spot(loops: tuple[Loop, ...], name: str) -> Spot:
    """Loop and place in it of the first piece of a name. Raises BadInput."""
    for n, loop in enumerate(loops):
        for i, seg in enumerate(loop):
            if seg.name == name:
                return n, i
    raise BadInput("the edge it goes to is not there any more")


def flanged(
    sheet: Sheet, panel: str, edges: Mapping[Spot, str], flange: Flange, rule: Rule, names: Names
) -> Sheet:
    """The sheet with flanges on some edges of a panel, by what each is called. Raises BadInput for what cannot
    be."""
    for run in flange.runs:
        if not SAME < abs(run.angle) < 2.0 * math.pi:
            raise BadInput("a flange is bent by more than nothing and less than all round")
        if run.radius < 0.0:
            raise BadInput("the inner radius of a bend is not less than nothing")
        if min(run.length) <= SAME:
            raise BadInput("nothing would be left of the flange beyond its bend")
    t = sheet.thickness
    back = setback(flange.position, flange.runs[0].angle, flange.runs[0].radius, t)
    loops: list[Loop] = []
    reliefs: list[tuple[Loop, str]] = []
    found = sheet
    for n, loop in enumerate(sheet.panels[panel].loops):
        mine = {i: edge for (m, i), edge in edges.items() if m == n}
        if not mine:
            loops.append(loop)
            continue
        rim = _Rim(loop, mine, back, flange)
        loops.append(rim.loop(names))
        reliefs += rim.reliefs(names)
        profile = _Profile(flange.runs, t)
        for i, edge in mine.items():
            begin, end = rim.joint(i)
            low, high = (
                profile.mitred(angle, flange.gap) if angle is not None else profile.straight
                for angle in rim.corners(i)
            )
            found = _hung(found, panel, edge, (begin, end), (low, high), flange.runs, rule, names)
    left = tuple(loops)
    for cut, name in reliefs:
        left = combined("cut", left, (cut,), name)
    return eased(found.with_(replace(found.panels[panel], loops=left)))


#: What a mitre adds at the beginning and at the far end of every run: its zone, then its panel.
Added = list[tuple[float, float]]


def _hung(
    sheet: Sheet, panel: str, edge: str, joint: tuple[Pair, Pair], added: tuple[Added, Added],
    runs: Sequence[Run], rule: Rule, names: Names,
) -> Sheet:  # fmt: skip
    """The sheet with the bends and panels of one edge."""
    begin, end = joint
    width = math.dist(begin, end)
    p, d = end, ((begin[0] - end[0]) / width, (begin[1] - end[1]) / width)
    low, high = added
    for n, run in enumerate(runs):
        bend, child = names(edge, n)
        allowance = max(
            rule.allowance(abs(run.angle), run.radius, sheet.thickness), LEAST_ALLOWANCE
        )
        outlines = []
        for k, far, sides in ((2 * n, (allowance, allowance), "out"), (2 * n + 1, run.length, "far")):  # fmt: skip
            (a, b), (c, e) = low[k], high[k]
            corners = [(-a, 0.0), (width + c, 0.0), (width + e, far[1]), (-b, far[0])]
            if corners[1][0] - corners[0][0] <= SAME or corners[2][0] - corners[3][0] <= SAME:
                raise BadInput(
                    "the mitres leave nothing of a flange: make it shorter, or give these edges flanges one "
                    "by one"
                )
            outlines.append(ring(corners, ["in", "s1", sides, "s0"]))
        zone, leg = outlines
        sheet = sheet.with_(
            Bend(bend, panel, child, p, d, run.angle, run.radius, allowance, (zone,)),
            Panel(child, (leg,)),
        )
        # The next joint lies along the far edge: its outward is y.
        panel, p, d = child, (0.0, run.length[0]), (1.0, 0.0)
        if abs(run.length[1] - run.length[0]) > SAME and n + 1 < len(runs):
            raise BadInput("a flange that goes on by another bend ends square")
    return sheet


class _Profile:
    """How far runs go out from the joint, seen along the edge: of that hangs how far mitred corners may go."""

    def __init__(self, runs: Sequence[Run], t: float) -> None:
        self.straight: Added = [(0.0, 0.0)] * (2 * len(runs))
        shares = np.linspace(0.0, 1.0, _LOOKS)
        self._out: list[Floats] = []
        at, turned = np.zeros(2), 0.0
        for run in runs:
            way = np.array([math.cos(turned), math.sin(turned)])
            up = np.array([-way[1], way[0]])
            sign = 1.0 if run.angle > 0 else -1.0
            reach = {h: run.radius + (t - h if sign > 0 else h) for h in (0.0, t)}
            centre = at + up * sign * reach[0.0]
            turns = abs(run.angle) * shares[:, None]

            def rolled(h: float, turns: Floats) -> Floats:
                return np.asarray(
                    centre - up * sign * reach[h] * np.cos(turns) + way * reach[h] * np.sin(turns)  # noqa: B023
                )

            self._out.append(np.array([rolled(h, turns)[:, 0] for h in (0.0, t)]))
            at = rolled(0.0, np.array([[abs(run.angle)]]))[0]
            turned += run.angle
            way = np.array([math.cos(turned), math.sin(turned)])
            up = np.array([-way[1], way[0]])
            long = max(run.length)
            self._out.append(
                np.array([(at + up * h)[0] + way[0] * long * shares for h in (0.0, t)])
            )
            at = at + way * long

    def mitred(self, corner: float, gap: float) -> Added:
        """What runs are longer by at a corner of an inner angle (rad): a flange that is E out from the joint may
        go on by E / tan(corner / 2), on both faces of the sheet. In a bend that is no straight line: its
        chord is moved in until it is nowhere beyond."""
        share, off = 1.0 / math.tan(corner / 2.0), 0.5 * gap / math.sin(corner / 2.0)
        found: Added = []
        for out in self._out:
            most = (out * share).min(axis=0) - off
            chord = np.linspace(most[0], most[-1], len(most))
            over = max(0.0, float((chord - most).max()))
            found.append((float(most[0]) - over, float(most[-1]) - over))
        return found


class _Rim:
    """A loop some of whose pieces give way to joints that lie `back` inside them."""

    def __init__(self, loop: Loop, edges: Mapping[int, str], back: float, flange: Flange) -> None:
        self.segs, self.edges, self.flange = loop, edges, flange
        self.at = {i: _Edge(loop[i], back, flange.reach) for i in edges}
        #: Ends at which the panel goes on beside the flange although the edge does not: piece, s, way.
        self._beside: list[tuple[int, float, float]] = []
        for i, edge in self.at.items():
            before, after = self._before(i), self._after(i)
            if edge.to_begin and not self._mitred(before, i) and edge.goes_on(loop[before]):
                self._beside.append((i, edge.size, 1.0))
            if edge.to_end and not self._mitred(i, after) and edge.goes_on(loop[after]):
                self._beside.append((i, 0.0, -1.0))
        for i, _, way in self._beside:
            if way > 0:
                self.at[i].to_begin = False
            else:
                self.at[i].to_end = False

    def reliefs(self, names: Names) -> list[tuple[Loop, str]]:
        """What is cut out of the panel where it goes on beside a flange at a corner."""
        wide, deep, _ = self.flange.relief
        found = []
        for i, s, way in self._beside:
            edge = self.at[i]
            low, high = sorted((s, s + way * wide))
            depth = edge.back + deep
            if wide <= SAME or depth <= SAME:
                continue
            name = f"{names(self.edges[i], 0)[0].replace('/', '.')}.c{int(way > 0)}"
            # Out over the edge, too, where the panel goes on along it.
            corners = [
                edge.at(a, b) for a, b in ((low, -wide), (low, depth), (high, depth), (high, -wide))
            ]
            found.append((ring(corners, [name] * 4), name))
        return found

    def _before(self, i: int) -> int:
        return (i - 1) % len(self.segs)

    def _after(self, i: int) -> int:
        return (i + 1) % len(self.segs)

    def _mitred(self, i: int, j: int) -> bool:
        """Whether piece i and the next, j, both have a flange up to their common corner."""
        return i in self.at and j in self.at and self.at[i].to_end and self.at[j].to_begin

    def corners(self, i: int) -> tuple[float | None, float | None]:
        """The inner angle of the corner at s = 0 and at the other end, where that is mitred."""
        before, after = self._before(i), self._after(i)
        return (
            self._angle(i, after) if self._mitred(i, after) else None,
            self._angle(before, i) if self._mitred(before, i) else None,
        )

    def _angle(self, i: int, j: int) -> float:
        u, v = -self.at[i].d, -self.at[j].d
        return math.pi - math.atan2(u[0] * v[1] - u[1] * v[0], u[0] * v[0] + u[1] * v[1])

    def joint(self, i: int) -> tuple[Pair, Pair]:
        """Beginning and end of a joint, in the direction of the loop."""
        edge, before, after = self.at[i], self._before(i), self._after(i)
        begin = edge.at(edge.high, edge.back)
        if self._mitred(before, i):
            begin = _meeting(self.at[before], edge)
        elif edge.to_begin and edge.back > 0.0:
            begin = edge.slid(self.segs[before], self.segs[before].a)
        end = edge.at(edge.low, edge.back)
        if self._mitred(i, after):
            end = _meeting(edge, self.at[after])
        elif edge.to_end and edge.back > 0.0:
            end = edge.slid(self.segs[after], self.segs[after].b)
        if edge.width(begin, end) <= SAME:
            raise BadInput(
                "the bend leaves nothing of this edge: its neighbours are too slanted or too short"
            )
        return begin, end

    def loop(self, names: Names) -> Loop:
        """The loop with joints, what is left of edges, reliefs."""
        found: list[Seg] = []
        for i, seg in enumerate(self.segs):
            before, after = self._before(i), self._after(i)
            # What a neighbour's joint takes of a corner.
            begin = self.joint(before)[1] if self._takes(before, end=True) else seg.a
            end = self.joint(after)[0] if self._takes(after, end=False) else seg.b
            if i in self.at:
                found += self.at[i].pieces(
                    self.joint(i), (begin, end), self.flange.relief, names(self.edges[i], 0)[0]
                )
            elif begin == seg.a and end == seg.b:
                found.append(seg)
            else:
                run, whole = np.subtract(end, begin), np.subtract(seg.b, seg.a)
                if float(run @ whole) <= SAME * float(np.hypot(*whole)):
                    raise BadInput(
                        f"the bends leave nothing of the edge of {seg.curve.length:.4g} mm between them"
                    )
                found.append(line(begin, end, seg.name))
        return tuple(found)

    def _takes(self, i: int, end: bool) -> bool:
        """Whether the joint on a piece takes away the corner at its end, or at its beginning."""
        edge = self.at.get(i)
        return edge is not None and edge.back > 0.0 and (edge.to_end if end else edge.to_begin)


class _Edge:
    """A straight edge that gives way to a joint which lies `back` inside it."""

    def __init__(self, seg: Seg, back: float, reach: Reach) -> None:
        if not isinstance(seg.curve, Line2):
            raise BadInput("a flange goes on a straight edge; this one is curved")
        self.seg, self.back = seg, back
        a, self.b = np.array(seg.a), np.array(seg.b)
        self.size = float(np.hypot(*(a - self.b)))
        self.d = (a - self.b) / self.size
        self.inward = np.array([self.d[1], -self.d[0]])
        self.low, self.high = reach.of(self.size)
        self.to_end, self.to_begin = self.low < SAME, self.high > self.size - SAME

    def at(self, s: float, depth: float) -> Pair:
        x, y = self.b + self.d * s + self.inward * depth
        return float(x), float(y)

    def width(self, begin: Pair, end: Pair) -> float:
        """From the joint's end to its beginning, along the edge."""
        return float((np.array(begin) - np.array(end)) @ self.d)

    def goes_on(self, seg: Seg) -> bool:
        """Whether a neighbour leaves the panel beside the edge: it is straight and does not turn inwards."""
        if not isinstance(seg.curve, Line2):
            return False
        deep = max(float((np.array(p) - self.b) @ self.inward) for p in (seg.a, seg.b))
        return deep <= SAME

    def slid(self, seg: Seg, other: Pair) -> Pair:
        """Where a neighbour meets the joint's line. Raises BadInput where it does not get so far."""
        if not isinstance(seg.curve, Line2):
            raise BadInput(
                "the edge beside it is curved: have the flange keep off its end, or lie beyond the edge"
            )
        corner = np.array(seg.a if other == seg.b else seg.b)
        way = np.array(other) - corner
        deep = float(way @ self.inward)
        if deep <= self.back + SAME:
            raise BadInput(
                f"the bend takes {self.back:.4g} mm of the panel, and the edge beside it is only "
                f"{max(deep, 0.0):.4g} mm deep there"
            )
        x, y = corner + way * (self.back / deep)
        return float(x), float(y)

    def pieces(
        self, joint: tuple[Pair, Pair], ends: tuple[Pair, Pair], relief: Relief, id: str
    ) -> list[Seg]:  # fmt: skip
        """What stands in the place of the edge, in the direction of its loop; `ends` are where it begins and
        ends once its neighbours have taken what they need."""
        # Walls of a relief are told from those of other flanges by the bend they are for.
        name, mark = self.seg.name, id.replace("/", ".")
        found = [line(*joint, f"{name}.j")]
        if not self.to_begin:
            names = [f"{name}.a", *(f"{mark}.r{k}" for k in (0, 1, 2))]
            found = [*self._notch(ends[0], self.high, 1.0, relief, names), *found]
        if not self.to_end:
            names = [f"{name}.b", *(f"{mark}.r{k}" for k in (5, 4, 3))]
            notch = self._notch(ends[1], self.low, -1.0, relief, names)
            found += [s.turned for s in reversed(notch)]
        return found

    def _notch(
        self, edge: Pair, s: float, way: float, relief: Relief, names: list[str]
    ) -> list[Seg]:
        """What is left of the edge beyond an end of the flange, and the relief, run towards the joint."""
        wide, deep, round_ = relief
        left = self.width(edge, self.at(s, 0.0)) * way
        to = s + way * min(wide, left)
        places = [edge, self.at(to, 0.0)]
        bottom = None
        # Where the edge ends there is no room for one: what is beside the flange is cut out of the panel.
        if abs(to - s) > SAME and self.back + deep > SAME:
            # A round one ends in half a circle, all of it beyond the bend.
            radius = 0.5 * abs(to - s) if round_ else 0.0
            straight = self.back + max(deep - radius, 0.0) if round_ else self.back + deep
            places += [self.at(to, straight), self.at(s, straight)]
            bottom = self.at(0.5 * (to + s), straight + radius) if radius > SAME else None
        if math.dist(places[-1], self.at(s, self.back)) > SAME:
            places.append(self.at(s, self.back))
        return [
            line(p, q, names[k]) if k != 2 or bottom is None else _half_round(p, bottom, q, names[k])
            for k, (p, q) in enumerate(itertools.pairwise(places))
            if math.dist(p, q) > SAME
        ]  # fmt: skip


def _half_round(a: Pair, over: Pair, b: Pair, name: str) -> Seg:
    """Half a circle from one place to another, over a third."""
    centre = (0.5 * (a[0] + b[0]), 0.5 * (a[1] + b[1]))
    left = (over[0] - a[0]) * (b[1] - over[1]) - (over[1] - a[1]) * (b[0] - over[0]) > 0.0
    first = a if left else b
    start = math.atan2(first[1] - centre[1], first[0] - centre[0])
    arc = Arc2(centre, 0.5 * math.dist(a, b), start, start + math.pi)
    return Seg(arc, name, not left)


def _meeting(a: _Edge, b: _Edge) -> Pair:
    """Where the joints of two neighbouring edges meet."""
    p, q = np.array(a.at(0.0, a.back)), np.array(b.at(b.size, b.back))
    turn = float(a.d[0] * b.d[1] - a.d[1] * b.d[0])
    if abs(turn) > 1e-9:
        w = q - p
        p = p + a.d * float(w[0] * b.d[1] - w[1] * b.d[0]) / turn
    return float(p[0]), float(p[1])
