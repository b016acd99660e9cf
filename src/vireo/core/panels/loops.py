"""Closed loops of exact plane curves: run along, moved, weighed, their pieces joined. Lengths in mm."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from vireo.core.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Pair, Spline2
from vireo.core.curves import inside as in_polygon

#: Places nearer than this are one (mm).
SAME = 1e-6


@dataclass(frozen=True)
class Seg:
    """A curve run along in the direction of its loop, `back` where that is against its own. `name` is what
    the wall on it is called by."""

    curve: Curve2
    name: str
    back: bool = False

    @property
    def a(self) -> Pair:
        return self.curve.ends[1 if self.back else 0]

    @property
    def b(self) -> Pair:
        return self.curve.ends[0 if self.back else 1]

    def at(self, share: float) -> Pair:
        """The place at a share of its parameter range, 0 at `a` and 1 at `b`."""
        low, high = self.curve.range
        return self.curve.at(
            high + (low - high) * share if self.back else low + (high - low) * share
        )

    def points(self, step: float = 0.1) -> list[Pair]:
        """Places along it, neighbours turned by about `step` rad."""
        found = self.curve.points(step)
        return found[::-1] if self.back else found

    @property
    def turned(self) -> Seg:
        """The same piece run the other way."""
        if isinstance(self.curve, Line2):
            return line(self.b, self.a, self.name)
        return replace(self, back=not self.back)


#: Outer loops run counter-clockwise, holes clockwise.
Loop = tuple[Seg, ...]


def line(a: Pair, b: Pair, name: str) -> Seg:
    """A straight piece; lines are always stored the way they are run."""
    return Seg(Line2((float(a[0]), float(a[1])), (float(b[0]), float(b[1]))), name)


def ring(points: Sequence[Pair], names: Sequence[str]) -> Loop:
    """A closed loop of straight pieces, the piece from each point with a name."""
    return tuple(
        line(p, points[(i + 1) % len(points)], name)
        for i, (p, name) in enumerate(zip(points, names, strict=True))
    )


@dataclass(frozen=True)
class Motion2:
    """A rigid motion of the plane: x -> R x + o, R a turn with cosine `c` and sine `s`."""

    c: float = 1.0
    s: float = 0.0
    x: float = 0.0
    y: float = 0.0

    def __call__(self, p: Pair) -> Pair:
        return (self.c * p[0] - self.s * p[1] + self.x, self.s * p[0] + self.c * p[1] + self.y)

    def way(self, d: Pair) -> Pair:
        """A direction turned along."""
        return (self.c * d[0] - self.s * d[1], self.s * d[0] + self.c * d[1])

    def then(self, outer: Motion2) -> Motion2:
        """This first, then the other."""
        x, y = outer((self.x, self.y))
        c, s = outer.way((self.c, self.s))
        return Motion2(c, s, x, y)

    @property
    def inverse(self) -> Motion2:
        back = Motion2(self.c, -self.s)
        x, y = back((self.x, self.y))
        return Motion2(self.c, -self.s, -x, -y)

    @property
    def turn(self) -> float:
        return math.atan2(self.s, self.c)

    @staticmethod
    def along(p: Pair, d: Pair) -> Motion2:
        """What takes the origin to `p` and x to the unit direction `d`."""
        return Motion2(d[0], d[1], p[0], p[1])


def moved(seg: Seg, m: Motion2, name: str | None = None) -> Seg:
    """A piece carried by a motion, called otherwise where a name is given."""
    return Seg(_carried(seg.curve, m), seg.name if name is None else name, seg.back)


def moved_loop(loop: Loop, m: Motion2) -> Loop:
    return tuple(moved(s, m) for s in loop)


def _carried(curve: Curve2, m: Motion2) -> Curve2:
    match curve:
        case Line2():
            return Line2(m(curve.a), m(curve.b))
        case Circle2():
            return Circle2(m(curve.centre), curve.radius)
        case Arc2():
            return Arc2(m(curve.centre), curve.radius, curve.start + m.turn, curve.end + m.turn)
        case Spline2():
            return Spline2(curve.degree, curve.knots, tuple(map(m, curve.poles)), curve.weights)
        case Ellipse2():
            return Ellipse2(
                m(curve.centre), m.way(curve.major), curve.minor, curve.start, curve.end
            )


def area(loops: Sequence[Loop]) -> float:
    """Signed area (mm2) by Green's theorem: closed form, Gauss-Legendre with twelve points a span for splines."""
    return sum(_swept(seg) for loop in loops for seg in loop)


def outers(loops: Sequence[Loop]) -> int:
    """How many loops are outer ones."""
    return sum(1 for loop in loops if area([loop]) > 0.0)


def _swept(seg: Seg) -> float:
    """Half the integral of x dy - y dx along a piece."""
    curve = seg.curve
    sign = -1.0 if seg.back else 1.0
    if isinstance(curve, Line2):
        (x0, y0), (x1, y1) = curve.a, curve.b
        return sign * 0.5 * (x0 * y1 - x1 * y0)
    if isinstance(curve, Spline2):
        return sign * _swept_by(curve)
    u: Pair
    v: Pair
    if isinstance(curve, Ellipse2):
        u, v = curve.major, curve.across
    else:
        u, v = (curve.radius, 0.0), (0.0, curve.radius)
    (t0, t1), (cx, cy) = curve.range, curve.centre
    dc, ds = math.cos(t1) - math.cos(t0), math.sin(t1) - math.sin(t0)
    run = (dc * u[0] + ds * v[0], dc * u[1] + ds * v[1])
    whole = (u[0] * v[1] - u[1] * v[0]) * (t1 - t0) + cx * run[1] - cy * run[0]
    return sign * 0.5 * whole


def _swept_by(curve: Spline2) -> float:
    x, w = np.polynomial.legendre.leggauss(12)
    total = 0.0
    for a, b in itertools.pairwise(np.unique(curve.knots)):
        p, d = curve.derivatives(0.5 * (b - a) * x + 0.5 * (a + b), 1)
        total += 0.25 * (b - a) * float(w @ (p[:, 0] * d[:, 1] - p[:, 1] * d[:, 0]))
    return total


def length(loops: Sequence[Loop]) -> float:
    """Length of all pieces (mm)."""
    return sum(seg.curve.length for loop in loops for seg in loop)


def joined(loop: Sequence[Seg], by_name: bool = False) -> Loop:
    """Neighbouring pieces of one line or one circle made one, the last and the first too; with `by_name` only
    those of one name."""
    found: list[Seg] = []
    for seg in loop:
        one = _one(found[-1], seg, by_name) if found else None
        if one is None:
            found.append(seg)
        else:
            found[-1] = one
    if len(found) > 2:
        one = _one(found[-1], found[0], by_name)
        if one is not None:
            found = [one, *found[1:-1]]
    return tuple(found)


def _one(a: Seg, b: Seg, by_name: bool) -> Seg | None:
    """Two neighbours as one piece; None where they are not of one line or circle."""
    if by_name and a.name != b.name:
        return None
    if isinstance(a.curve, Line2) and isinstance(b.curve, Line2):
        (ax, ay), (bx, by), (cx, cy) = a.a, a.b, b.b
        u, v = (bx - ax, by - ay), (cx - bx, cy - by)
        off = abs(u[0] * v[1] - u[1] * v[0])
        straight = off < 1e-7 * (math.hypot(*u) + math.hypot(*v)) and u[0] * v[0] + u[1] * v[1] > 0
        return line(a.a, b.b, a.name) if straight else None
    if isinstance(a.curve, Arc2) and isinstance(b.curve, Arc2) and a.back == b.back:
        c, e = a.curve, b.curve
        if math.dist(c.centre, e.centre) > 1e-7 or abs(c.radius - e.radius) > 1e-7:
            return None
        sweep = (c.end - c.start) + (e.end - e.start)
        if sweep > 2.0 * math.pi - 1e-9:
            return Seg(Circle2(c.centre, c.radius), a.name, a.back)
        start = c.end - sweep if a.back else c.start
        return Seg(Arc2(c.centre, c.radius, start, start + sweep), a.name, a.back)
    return None


def box(segs: Sequence[Seg]) -> tuple[float, float, float, float]:
    """Least and most x and y of some pieces, a little more where they are round."""
    points = np.array([p for s in segs for p in s.points(0.2)])
    round_ = [s.curve.radius for s in segs if isinstance(s.curve, Arc2 | Circle2)]
    pad = SAME + 0.006 * max(round_, default=0.0)
    low, high = points.min(axis=0) - pad, points.max(axis=0) + pad
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def extent(segs: Sequence[Seg]) -> tuple[float, float, float, float]:
    """Least x and y, most x and y of some pieces (mm), exact to rounding."""
    points = np.array([p for s in segs for p in (s.a, s.b, *_turning(s.curve))])
    (x0, y0), (x1, y1) = points.min(axis=0), points.max(axis=0)
    return float(x0), float(y0), float(x1), float(y1)


def _turning(curve: Curve2) -> list[Pair]:
    """Where a curve runs along x or y within its range."""
    if isinstance(curve, Line2):
        return []
    if isinstance(curve, Spline2):
        return _turning_of(curve)
    (ux, uy), (vx, vy) = (
        (curve.major, curve.across) if isinstance(curve, Ellipse2) else ((curve.radius, 0.0), (0.0, curve.radius))
    )  # fmt: skip
    low, high = curve.range
    found = []
    for first in (math.atan2(vx, ux), math.atan2(vy, uy)):
        k = math.ceil((low - first) / math.pi)
        while first + k * math.pi < high:
            found.append(curve.at(first + k * math.pi))
            k += 1
    return found


def _turning_of(curve: Spline2) -> list[Pair]:
    """Changes of sign of the derivative between places close together, halved until nothing is between."""
    stops = np.unique(curve.knots)
    ts = np.unique(np.concatenate([np.linspace(a, b, 33) for a, b in itertools.pairwise(stops)]))
    found = []
    for k in (0, 1):
        slope = curve.derivatives(ts, 1)[1][:, k]
        found += [curve.at(float(t)) for t in ts[slope == 0.0]]
        at = np.flatnonzero(np.sign(slope[:-1]) * np.sign(slope[1:]) < 0)
        low, high, sign = ts[at], ts[at + 1], np.sign(slope[at])
        for _ in range(60):
            middle = 0.5 * (low + high)
            same = np.sign(curve.derivatives(middle, 1)[1][:, k]) == sign if len(at) else at == -1
            low, high = np.where(same, middle, low), np.where(same, high, middle)
        found += [curve.at(float(t)) for t in low]
    return found


def inside(point: Pair, loops: Sequence[Loop]) -> bool:
    """Whether a point lies within loops (even and odd), round pieces taken by their chords of 0.1 rad."""
    rings = [[p for s in loop for p in s.points()[:-1]] for loop in loops]
    return sum(in_polygon(point, ring) for ring in rings) % 2 == 1


def grouped(loops: Sequence[Loop]) -> list[tuple[Loop, list[Loop]]]:
    """Outer loops, each with the holes in it: the smallest outer one round a hole has it."""
    outers = sorted((lp for lp in loops if area([lp]) > 0), key=lambda lp: area([lp]))
    found: list[tuple[Loop, list[Loop]]] = [(lp, []) for lp in outers]
    for hole in loops:
        if area([hole]) > 0:
            continue
        home = next((f for f in found if len(found) == 1 or inside(hole[0].at(0.5), [f[0]])), None)
        if home is not None:
            home[1].append(hole)
    return found
