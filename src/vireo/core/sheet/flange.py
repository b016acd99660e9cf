"""A flange on a straight edge of a panel: the edge gives way to a joint, a bend and a panel hang on it."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from vireo.core.curves import Line2, Pair
from vireo.core.panels.loops import SAME, Loop, Seg, line, ring
from vireo.core.panels.model import Bend, Panel, Sheet
from vireo.core.sheet.allowance import Rule
from vireo.core.trouble import BadInput

Floats = NDArray[np.float64]
#: What a bend is long in the flat at least (mm), where a rule says nothing at all for a sharp one: less than
#: anybody cuts, and enough to be told from nothing.
LEAST_ALLOWANCE = 1e-4
#: Where the bend comes to lie: the sheet's outer or inner face on the edge, the bend beyond it, or its
#: outermost tangent on it.
Position = Literal["inside", "outside", "beyond", "tangent"]
#: What the length of a flange is measured from: the sharp corner of the outer or the inner faces (from 90 deg on
#: the outermost tangents), or the end of the bend.
Measure = Literal["outer", "inner", "flat"]


@dataclass(frozen=True)
class Flange:
    """`length` in mm, `angle` in rad, positive towards the top. `reach` is from where to where along the edge
    it goes (mm from the edge's end in the direction of the joint), whole where None; `relief` width and depth
    beyond the bend of the cuts at ends that lie inside the edge (mm)."""

    id: str
    length: float
    angle: float
    radius: float
    position: Position = "inside"
    measure: Measure = "outer"
    reach: tuple[float, float] | None = None
    relief: tuple[float, float] = (0.0, 0.0)


def setback(position: Position, angle: float, radius: float, t: float) -> float:
    """How far the bend begins inside the edge (mm). From 90 deg on its outermost line counts."""
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


def find(loops: tuple[Loop, ...], name: str) -> tuple[int, int]:
    """Loop and place in it of a piece by its name. Raises BadInput."""
    for n, loop in enumerate(loops):
        for i, seg in enumerate(loop):
            if seg.name == name:
                return n, i
    raise BadInput("the edge it goes to is not there any more")


def flanged(sheet: Sheet, panel: str, edge: str, flange: Flange, rule: Rule) -> Sheet:
    """The sheet with a flange on an edge of a panel. Raises BadInput for what cannot be."""
    t, r, angle = sheet.thickness, flange.radius, flange.angle
    if not SAME < abs(angle) < 2.0 * math.pi:
        raise BadInput("a flange is bent by more than nothing and less than all round")
    if r < 0.0:
        raise BadInput("the inner radius of a bend is not less than nothing")
    loops = [list(loop) for loop in sheet.panels[panel].loops]
    n, i = find(sheet.panels[panel].loops, edge)
    seg = loops[n][i]
    if not isinstance(seg.curve, Line2):
        raise BadInput("a flange goes on a straight edge; this one is curved")
    back = setback(flange.position, angle, r, t)
    cut = _Edge(seg, back, flange)
    begin, end = cut.trimmed(loops[n], i)
    if cut.width(begin, end) <= SAME:
        raise BadInput(
            "the bend leaves nothing of this edge: its neighbours are too slanted or too short"
        )
    loops[n][i : i + 1] = cut.pieces(begin, end)
    width = cut.width(begin, end)
    allowance = max(rule.allowance(abs(angle), r, t), LEAST_ALLOWANCE)
    far = flat_length(flange.length, flange.measure, angle, r, t)
    child = f"{flange.id}.p"
    zone = ring(
        [(0.0, 0.0), (width, 0.0), (width, allowance), (0.0, allowance)], ["in", "s1", "out", "s0"]
    )
    leg = ring([(0.0, 0.0), (width, 0.0), (width, far), (0.0, far)], ["in", "s1", "far", "s0"])
    d = (float(cut.d[0]), float(cut.d[1]))
    return sheet.with_(
        Panel(panel, tuple(tuple(loop) for loop in loops)),
        Bend(flange.id, panel, child, end, d, angle, r, allowance, (zone,)),
        Panel(child, (leg,)),
    )


class _Edge:
    """A straight edge that gives way to a joint which lies `back` inside it. Along it s runs from its end to its
    beginning: outward is to the left of that."""

    def __init__(self, seg: Seg, back: float, flange: Flange) -> None:
        self.seg, self.back, self.flange = seg, back, flange
        a, self.b = np.array(seg.a), np.array(seg.b)
        self.size = float(np.hypot(*(a - self.b)))
        self.d = (a - self.b) / self.size
        self.inward = np.array([self.d[1], -self.d[0]])
        self.low, self.high = flange.reach or (0.0, self.size)
        if not (-SAME <= self.low < self.high - SAME and self.high <= self.size + SAME):
            raise BadInput(
                f"the flange goes from {self.low:.4g} to {self.high:.4g} mm on an edge of {self.size:.4g} mm"
            )

    def at(self, s: float, depth: float) -> Pair:
        x, y = self.b + self.d * s + self.inward * depth
        return float(x), float(y)

    def width(self, begin: Pair, end: Pair) -> float:
        """From the joint's end to its beginning, along the edge."""
        return float((np.array(begin) - np.array(end)) @ self.d)

    def trimmed(self, loop: list[Seg], i: int) -> tuple[Pair, Pair]:
        """Beginning and end of the joint, in the direction of the loop; neighbours whose corner it takes are
        cut back along themselves."""
        begin, end = self.at(self.high, self.back), self.at(self.low, self.back)
        if self.back <= 0.0:
            return begin, end
        if self.high > self.size - SAME:
            before = loop[i - 1]
            begin = self._slid(before, before.a)
            loop[i - 1] = line(before.a, begin, before.name)
        if self.low < SAME:
            k = (i + 1) % len(loop)
            after = loop[k]
            end = self._slid(after, after.b)
            loop[k] = line(end, after.b, after.name)
        return begin, end

    def _slid(self, seg: Seg, other: Pair) -> Pair:
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

    def pieces(self, begin: Pair, end: Pair) -> list[Seg]:
        """What stands in the place of the edge, in the direction of its loop."""
        name, id = self.seg.name, self.flange.id
        found = [line(begin, end, f"{name}.j")]
        if self.high < self.size - SAME:
            found = [
                *self._notch(self.high, 1.0, [f"{id}.r{k}" for k in (0, 1, 2)], f"{name}.a"),
                *found,
            ]
        if self.low > SAME:
            found += [
                s.turned
                for s in self._notch(
                    self.low, -1.0, [f"{id}.r{k}" for k in (5, 4, 3)], f"{name}.b"
                )[::-1]
            ]
        return found

    def _notch(self, s: float, way: float, names: list[str], rest: str) -> list[Seg]:
        """What is left of the edge beyond an end of the flange, and the relief, run towards the joint."""
        wide, deep = self.flange.relief
        edge = self.size if way > 0 else 0.0
        to = min(s + wide, self.size) if way > 0 else max(s - wide, 0.0)
        places = [self.at(edge, 0.0), self.at(to, 0.0)]
        if wide > SAME and self.back + deep > SAME:
            places += [self.at(to, self.back + deep), self.at(s, self.back + deep)]
        if math.dist(places[-1], self.at(s, self.back)) > SAME:
            places.append(self.at(s, self.back))
        called = [rest, *names]
        return [
            line(p, q, called[k]) for k, (p, q) in enumerate(itertools.pairwise(places))
            if math.dist(p, q) > SAME
        ]  # fmt: skip
