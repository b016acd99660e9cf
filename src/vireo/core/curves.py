"""Plain curves in a plane, shared by sketch and kernel. Lengths in mm, angles in rad.

Every curve runs from `ends[0]` to `ends[1]` (one point when closed) and answers the same
questions: `tangent_at` a point on it, `points` along it, what it weighs as `length`.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from functools import cached_property
from typing import Any, ClassVar

import numpy as np
import scipy
from numpy.typing import NDArray

Pair = tuple[float, float]
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Line2:
    form: ClassVar[str] = "line"
    a: Pair
    b: Pair

    range: ClassVar[tuple[float, float]] = (0.0, 1.0)

    def at(self, t: float) -> Pair:
        (x0, y0), (x1, y1) = self.a, self.b
        return (x0 + t * (x1 - x0), y0 + t * (y1 - y0))

    def parameter(self, point: Pair) -> float:
        dx, dy = self.b[0] - self.a[0], self.b[1] - self.a[1]
        square = dx * dx + dy * dy or 1.0
        return ((point[0] - self.a[0]) * dx + (point[1] - self.a[1]) * dy) / square

    @property
    def ends(self) -> tuple[Pair, Pair]:
        return self.a, self.b

    @property
    def length(self) -> float:
        return math.dist(self.a, self.b)

    def tangent_at(self, point: Pair) -> Pair:
        return (self.b[0] - self.a[0], self.b[1] - self.a[1])

    def points(self, step: float = 0.1) -> list[Pair]:
        return [self.a, self.b]


@dataclass(frozen=True)
class Circle2:
    form: ClassVar[str] = "circle"
    centre: Pair
    radius: float
    range: ClassVar[tuple[float, float]] = (0.0, 2.0 * math.pi)

    def at(self, t: float) -> Pair:
        c, r = self.centre, self.radius
        return (c[0] + r * math.cos(t), c[1] + r * math.sin(t))

    def parameter(self, point: Pair) -> float:
        return math.atan2(point[1] - self.centre[1], point[0] - self.centre[0]) % (2.0 * math.pi)

    @property
    def ends(self) -> tuple[Pair, Pair]:
        start = (self.centre[0] + self.radius, self.centre[1])
        return start, start

    @property
    def length(self) -> float:
        return 2.0 * math.pi * self.radius

    def tangent_at(self, point: Pair) -> Pair:
        return (-(point[1] - self.centre[1]), point[0] - self.centre[0])

    def points(self, step: float = 0.1) -> list[Pair]:
        return arc_points(self.centre, self.radius, 0.0, 2.0 * math.pi, step)


@dataclass(frozen=True)
class Arc2:
    """Counter-clockwise from `start` to `end` (angles in rad, end > start)."""

    form: ClassVar[str] = "arc"
    centre: Pair
    radius: float
    start: float
    end: float

    def at(self, t: float) -> Pair:
        c, r = self.centre, self.radius
        return (c[0] + r * math.cos(t), c[1] + r * math.sin(t))

    @property
    def range(self) -> tuple[float, float]:
        return self.start, self.end

    def parameter(self, point: Pair) -> float:
        """Angle of a point, in [start, start + 2 pi)."""
        t = math.atan2(point[1] - self.centre[1], point[0] - self.centre[0])
        return self.start + (t - self.start) % (2.0 * math.pi)

    @property
    def ends(self) -> tuple[Pair, Pair]:
        return self.at(self.start), self.at(self.end)

    @property
    def length(self) -> float:
        return self.radius * (self.end - self.start)

    def tangent_at(self, point: Pair) -> Pair:
        return (-(point[1] - self.centre[1]), point[0] - self.centre[0])

    def points(self, step: float = 0.1) -> list[Pair]:
        return arc_points(self.centre, self.radius, self.start, self.end, step)


@dataclass(frozen=True)
class Ellipse2:
    """Centre, the half axis `major` as a vector, the length of the other half axis.

    Counter-clockwise from the angle parameter `start` to `end`; all round by default. The
    parameter is not the polar angle: a point is c + cos(t) major + sin(t) minor.
    """

    form: ClassVar[str] = "ellipse"
    centre: Pair
    major: Pair
    minor: float
    start: float = 0.0
    end: float = 2.0 * math.pi

    @property
    def across(self) -> Pair:
        """The other half axis as a vector, a quarter turn on from `major`."""
        k = self.minor / math.hypot(*self.major)
        return (-self.major[1] * k, self.major[0] * k)

    def at(self, t: float) -> Pair:
        (cx, cy), (ax, ay), (bx, by) = self.centre, self.major, self.across
        c, s = math.cos(t), math.sin(t)
        return (cx + c * ax + s * bx, cy + c * ay + s * by)

    def parameter(self, point: Pair) -> float:
        """Parameter of a point on the curve, in [start, start + 2 pi)."""
        dx, dy = point[0] - self.centre[0], point[1] - self.centre[1]
        (ax, ay), (bx, by) = self.major, self.across
        u = (dx * ax + dy * ay) / (ax * ax + ay * ay)
        v = (dx * bx + dy * by) / (bx * bx + by * by)
        t = math.atan2(v, u)
        return self.start + (t - self.start) % (2.0 * math.pi)

    @property
    def range(self) -> tuple[float, float]:
        return self.start, self.end

    @property
    def closed(self) -> bool:
        return self.end - self.start > 2.0 * math.pi - 1e-12

    @property
    def ends(self) -> tuple[Pair, Pair]:
        return self.at(self.start), self.at(self.end)

    @property
    def length(self) -> float:
        return _polyline_length(self.points(0.01))

    def tangent_at(self, point: Pair) -> Pair:
        t = self.parameter(point)
        (ax, ay), (bx, by) = self.major, self.across
        c, s = math.cos(t), math.sin(t)
        return (-s * ax + c * bx, -s * ay + c * by)

    def points(self, step: float = 0.1) -> list[Pair]:
        count = max(2, math.ceil((self.end - self.start) / step) + 1)
        return [self.at(t) for t in np.linspace(self.start, self.end, count)]


@dataclass(frozen=True)
class Spline2:
    """A clamped B-spline: `knots` with their repeats, `weights` when it is rational."""

    form: ClassVar[str] = "spline"
    degree: int
    knots: tuple[float, ...]
    poles: tuple[Pair, ...]
    weights: tuple[float, ...] | None = None

    @cached_property
    def _curve(self) -> scipy.interpolate.BSpline:
        w = np.ones(len(self.poles)) if self.weights is None else np.array(self.weights)
        poles = np.column_stack([np.array(self.poles) * w[:, None], w])
        return scipy.interpolate.BSpline(np.array(self.knots), poles, self.degree)

    @property
    def range(self) -> tuple[float, float]:
        return self.knots[0], self.knots[-1]

    def derivatives(self, t: Floats | float, most: int = 2) -> list[Floats]:
        """Points, first and second derivatives (n, 2) at parameters."""
        ts = np.clip(np.atleast_1d(np.asarray(t, dtype=float)), *self.range)
        h = [np.asarray(self._curve(ts, nu=k)) for k in range(most + 1)]
        w = h[0][:, 2:]
        found = [h[0][:, :2] / w]
        if most > 0:
            found.append((h[1][:, :2] - h[1][:, 2:] * found[0]) / w)
        if most > 1:
            second = h[2][:, :2] - 2 * h[1][:, 2:] * found[1] - h[2][:, 2:] * found[0]
            found.append(second / w)
        return found

    def at(self, t: float) -> Pair:
        p = self.derivatives(t, 0)[0][0]
        return (float(p[0]), float(p[1]))

    @cached_property
    def _grid(self) -> tuple[Floats, Floats]:
        spans = np.unique(self.knots)
        ts = np.unique(
            np.concatenate([np.linspace(a, b, 33) for a, b in itertools.pairwise(spans)])
        )
        return ts, self.derivatives(ts, 0)[0]

    def parameter(self, point: Pair) -> float:
        """Parameter of the nearest point of the curve."""
        places = self._grid[1]
        away = np.hypot(*(places - point).T)
        steps = np.hypot(*np.diff(places, axis=0).T)
        # Each dip of the sampled distance that may hide the least one is looked into.
        room = np.maximum(np.append(steps, 0.0), np.append(0.0, steps))
        dips = (away <= np.append(away[1:], math.inf)) & (away <= np.append(math.inf, away[:-1]))
        found = [
            self._dip(int(k), point) for k in np.flatnonzero(dips & (away - room <= away.min()))
        ]
        return min(found)[1]

    def _dip(self, k: int, point: Pair) -> tuple[float, float]:
        """(distance, parameter) of the nearest point around the k-th sample."""
        ts, places = self._grid
        low, high = self.range
        t = float(ts[k])
        for _ in range(20):
            p, d, dd = (v[0] for v in self.derivatives(t))
            gap = p - np.array(point)
            slope = float(gap @ d)
            bend = float(d @ d + gap @ dd)
            step = slope / bend if bend > 1e-300 else 0.0
            t2 = min(max(t - step, low), high)
            if abs(t2 - t) < 1e-14 * (high - low):
                break
            t = t2

        def gap_at(x: float) -> float:
            return float(np.hypot(*(self.derivatives(x, 0)[0][0] - point)))

        near = gap_at(t)
        before, after = float(ts[max(k - 1, 0)]), float(ts[min(k + 1, len(ts) - 1)])
        if before <= t <= after and near <= math.dist(places[k], point):
            return near, t
        # Near a sharp bend Newton's method strays: close in between the neighbours.
        found = scipy.optimize.minimize_scalar(gap_at, method="bounded", bounds=(before, after),
                                options={"xatol": 1e-14})  # fmt: skip
        return float(found.fun), float(found.x)

    @property
    def ends(self) -> tuple[Pair, Pair]:
        low, high = self.range
        return self.at(low), self.at(high)

    @property
    def length(self) -> float:
        """Gauss-Legendre, eight points a span."""
        x, w = np.polynomial.legendre.leggauss(8)
        total = 0.0
        spans = np.unique(self.knots)
        for a, b in itertools.pairwise(spans):
            d = self.derivatives(0.5 * (b - a) * x + 0.5 * (a + b), 1)[1]
            total += 0.5 * (b - a) * float(w @ np.hypot(d[:, 0], d[:, 1]))
        return total

    def curvature(self, t: Floats) -> Floats:
        """Signed curvature in 1/mm, positive where the curve bends to the left."""
        _, d, dd = self.derivatives(t)
        speed = np.hypot(d[:, 0], d[:, 1])
        return np.asarray((d[:, 0] * dd[:, 1] - d[:, 1] * dd[:, 0]) / np.maximum(speed, 1e-12) ** 3)

    def cut(self, low: float, high: float) -> Spline2:
        """The piece between two parameters: the same curve, by knot insertion."""
        curve = self._curve
        k = self.degree
        for t in (low, high):
            for _ in range(k + 1 - int(np.isclose(curve.t, t, atol=1e-12, rtol=0).sum())):
                curve = curve.insert_knot(t, 1)
        first = int(np.flatnonzero(np.isclose(curve.t, low, atol=1e-12, rtol=0))[-1]) - k
        last = int(np.flatnonzero(np.isclose(curve.t, high, atol=1e-12, rtol=0))[0])
        h = curve.c[first:last]
        knots = (curve.t[first : last + k + 1] - low) / (high - low)
        knots[: k + 1], knots[-k - 1 :] = 0.0, 1.0
        rational = self.weights is not None
        return Spline2(
            k,
            tuple(float(t) for t in knots),
            tuple((float(x / w), float(y / w)) for x, y, w in h),
            tuple(float(w) for w in h[:, 2]) if rational else None,
        )

    def tangent_at(self, point: Pair) -> Pair:
        d = self.derivatives(self.parameter(point), 1)[1][0]
        return (float(d[0]), float(d[1]))

    def points(self, step: float = 0.1) -> list[Pair]:
        """Enough points that neighbours turn by about `step` rad."""
        spans = np.unique(self.knots)
        ts: list[float] = []
        for a, b in itertools.pairwise(spans):
            probe = self.derivatives(np.linspace(a, b, 7), 1)[1]
            angles = np.unwrap(np.arctan2(probe[:, 1], probe[:, 0]))
            turn = float(np.abs(np.diff(angles)).sum())
            count = int(min(max(math.ceil(turn / step), 3), 200))
            ts += list(np.linspace(a, b, count, endpoint=False))
        places = self.derivatives(np.array([*ts, spans[-1]]), 0)[0]
        return [(float(x), float(y)) for x, y in places]


Curve2 = Line2 | Circle2 | Arc2 | Ellipse2 | Spline2
CURVES: dict[str, type[Line2] | type[Circle2] | type[Arc2] | type[Ellipse2] | type[Spline2]] = {
    c.form: c for c in (Line2, Circle2, Arc2, Ellipse2, Spline2)
}


def piece(curve: Curve2, low: float, high: float) -> Curve2:
    """The part of a curve between two of its parameters; a whole round stays one."""
    if isinstance(curve, Line2):
        return Line2(curve.at(low), curve.at(high))
    if isinstance(curve, Spline2):
        return curve.cut(low, high) if (low, high) != curve.range else curve
    if isinstance(curve, Ellipse2):
        return Ellipse2(curve.centre, curve.major, curve.minor, low, high)
    if high - low > 2.0 * math.pi - 1e-9:
        return Circle2(curve.centre, curve.radius)
    return Arc2(curve.centre, curve.radius, low, high)


def inside(point: Pair, polygon: list[Pair]) -> bool:
    """Even-odd test."""
    x, y = point
    odd = False
    for (x1, y1), (x2, y2) in zip(polygon, polygon[1:] + polygon[:1], strict=True):
        if (y1 > y) != (y2 > y) and x < (x2 - x1) * (y - y1) / (y2 - y1) + x1:
            odd = not odd
    return odd


def least_radius(curve: Curve2) -> tuple[float, Pair]:
    """The least radius of curvature (mm) and where it is; infinite for what is straight."""
    if isinstance(curve, Line2):
        return math.inf, curve.a
    if isinstance(curve, Circle2 | Arc2):
        return curve.radius, curve.ends[0]
    if isinstance(curve, Ellipse2):
        a, b = math.hypot(*curve.major), curve.minor

        def bend(t: float) -> float:
            return a * b / math.hypot(a * math.sin(t), b * math.cos(t)) ** 3

        ts = [curve.start, curve.end]
        ts += [
            k * 0.5 * math.pi for k in range(-8, 17) if curve.start < k * 0.5 * math.pi < curve.end
        ]
    else:
        spans = np.unique(curve.knots)
        cells = [np.linspace(p, q, 25) for p, q in itertools.pairwise(spans)]
        grid = np.unique(np.concatenate(cells))
        spline = curve

        def bend(t: float) -> float:
            return float(np.abs(spline.curvature(np.array([t])))[0])

        k = int(np.argmax(np.abs(curve.curvature(grid))))
        around = (float(grid[max(k - 1, 0)]), float(grid[min(k + 1, len(grid) - 1)]))
        best = scipy.optimize.minimize_scalar(lambda t: -bend(t), bounds=around, method="bounded",
                               options={"xatol": 1e-10})  # fmt: skip
        ts = [float(grid[k]), float(best.x)]
    t = max(ts, key=bend)
    k_most = bend(t)
    return (1.0 / k_most if k_most > 1e-12 else math.inf), curve.at(t)


def folds(curve: Spline2 | Ellipse2, d: float) -> float | None:
    """The least radius (mm) on the side an offset by `d` goes to (left is positive), when that
    is less than the offset, so that it would fold over; else None."""
    bends = _bends(curve, np.linspace(*curve.range, 801)) * math.copysign(1.0, d)
    most = float(bends.max())
    return 1.0 / most if most * abs(d) >= 1.0 else None


def _bends(curve: Spline2 | Ellipse2, t: Floats) -> Floats:
    """Signed curvature in 1/mm, positive to the left."""
    if isinstance(curve, Spline2):
        return curve.curvature(t)
    a, b = math.hypot(*curve.major), curve.minor
    return np.asarray(a * b / np.hypot(a * np.sin(t), b * np.cos(t)) ** 3)


def _motion(curve: Spline2 | Ellipse2, t: Floats) -> tuple[Floats, Floats]:
    """Points and first derivatives (n, 2)."""
    if isinstance(curve, Spline2):
        p, d = curve.derivatives(t, 1)
        return p, d
    u, v = np.array(curve.major), np.array(curve.across)
    c, s = np.cos(t)[:, None], np.sin(t)[:, None]
    return np.array(curve.centre) + c * u + s * v, c * v - s * u


def offset_curve(curve: Spline2 | Ellipse2, d: float, within: float = 1e-6) -> Spline2:
    """The curve beside, `d` mm to the left: a cubic through exact places with the exact
    derivative at its ends, as fine as needed to stay within `within` mm."""

    def beside(t: Floats) -> Floats:
        p, way = _motion(curve, t)
        n = np.column_stack([-way[:, 1], way[:, 0]]) / np.hypot(*way.T)[:, None]
        return np.asarray(p + d * n)

    spans = np.unique(curve.knots) if isinstance(curve, Spline2) else np.linspace(*curve.range, 5)
    low, high = float(spans[0]), float(spans[-1])
    cells = 8
    while True:
        ts = np.concatenate(
            [np.linspace(a, b, cells, endpoint=False) for a, b in itertools.pairwise(spans)]
            + [spans[-1:]]
        )
        ends = np.array([low, high])
        slopes = _motion(curve, ends)[1] * (1.0 - d * _bends(curve, ends))[:, None]
        bounds: Any = ([(1, slopes[0])], [(1, slopes[1])])
        made = scipy.interpolate.make_interp_spline(ts, beside(ts), k=3, bc_type=bounds)
        between = 0.5 * (ts[1:] + ts[:-1])
        off = float(np.hypot(*(made(between) - beside(between)).T).max())
        if off <= within or cells >= 256:
            break
        cells *= 2
    knots = (made.t - low) / (high - low)
    poles = tuple((float(p[0]), float(p[1])) for p in np.asarray(made.c))
    return Spline2(3, tuple(float(k) for k in knots), poles)


def self_crossing(curve: Curve2) -> tuple[Pair, float] | None:
    """Where a free curve crosses itself, and how long the loop is; None when it does not."""
    if not isinstance(curve, Spline2):
        return None
    p = np.array(curve.points(0.05))
    d = np.diff(p, axis=0)
    gap = p[None, :-1] - p[:-1, None]
    det = d[:, None, 0] * d[None, :, 1] - d[:, None, 1] * d[None, :, 0]
    safe = np.where(np.abs(det) > 1e-300, det, 1.0)
    a = (gap[..., 0] * d[None, :, 1] - gap[..., 1] * d[None, :, 0]) / safe
    b = (gap[..., 0] * d[:, None, 1] - gap[..., 1] * d[:, None, 0]) / safe
    hit = (np.abs(det) > 1e-300) & (a > 1e-9) & (a < 1 - 1e-9) & (b > 1e-9) & (b < 1 - 1e-9)
    found = [(i, j) for i, j in np.argwhere(np.triu(hit, 2))]
    if not found:
        return None
    i, j = min(found)
    at = p[i] + a[i, j] * d[i]
    loop = float(np.hypot(*d[i : j + 1].T).sum())
    return (float(at[0]), float(at[1])), loop


def _sampled(curve: Curve2, step: float) -> tuple[Floats, Floats]:
    low, high = curve.range
    if isinstance(curve, Spline2):
        spans = [s for s in np.unique(curve.knots) if low <= s <= high]
        ts = np.unique(
            np.concatenate([np.linspace(a, b, 33) for a, b in itertools.pairwise(spans)])
        )
        return ts, curve.derivatives(ts, 0)[0]
    count = 2 if isinstance(curve, Line2) else max(8, math.ceil((high - low) / step) + 1)
    ts = np.linspace(low, high, count)
    return ts, np.array([curve.at(float(t)) for t in ts])


def crossings(one: Curve2, two: Curve2) -> list[tuple[float, float, Pair]]:
    """Where two curves meet: (parameter on each, place). Ends that lie on the other count.

    Found on fine polylines, then refined by Newton's method on both parameters.
    """
    (s, p), (t, q) = _sampled(one, 0.05), _sampled(two, 0.05)
    size = max(float(np.ptp(p, axis=0).max()), float(np.ptp(q, axis=0).max()), 1e-9)
    d, e = np.diff(p, axis=0), np.diff(q, axis=0)
    gap = q[None, :-1] - p[:-1, None]
    det = d[:, None, 0] * e[None, :, 1] - d[:, None, 1] * e[None, :, 0]
    safe = np.where(np.abs(det) > 1e-300, det, 1.0)
    a = (gap[..., 0] * e[None, :, 1] - gap[..., 1] * e[None, :, 0]) / safe
    b = (gap[..., 0] * d[:, None, 1] - gap[..., 1] * d[:, None, 0]) / safe
    slack = 0.02
    hit = (np.abs(det) > 1e-300) & (a > -slack) & (a < 1 + slack) & (b > -slack) & (b < 1 + slack)
    starts = [
        (s[i] + a[i, j] * (s[i + 1] - s[i]), t[j] + b[i, j] * (t[j + 1] - t[j]))
        for i, j in np.argwhere(hit)
    ]
    starts += [(one.parameter(end), t) for end, t in zip(two.ends, two.range, strict=True)]
    starts += [(t, two.parameter(end)) for end, t in zip(one.ends, one.range, strict=True)]
    found: list[tuple[float, float, Pair]] = []
    for u, v in starts:
        met = _refined(one, two, float(u), float(v), 1e-9 * size)
        if met is not None and all(math.dist(met[2], f[2]) > 1e-7 * size for f in found):
            found.append(met)
    return sorted(found)


def _slope(curve: Curve2, t: float) -> Pair:
    low, high = curve.range
    h = 1e-6 * (high - low)
    (x0, y0), (x1, y1) = curve.at(t - h), curve.at(t + h)
    return ((x1 - x0) / (2 * h), (y1 - y0) / (2 * h))


def _refined(
    one: Curve2, two: Curve2, u: float, v: float, reach: float
) -> tuple[float, float, Pair] | None:
    for _ in range(30):
        p, q = one.at(u), two.at(v)
        gx, gy = q[0] - p[0], q[1] - p[1]
        if math.hypot(gx, gy) < reach:
            break
        (ax, ay), (bx, by) = _slope(one, u), _slope(two, v)
        det = ax * by - ay * bx
        if abs(det) < 1e-14 * (math.hypot(ax, ay) * math.hypot(bx, by) + 1e-300):
            return None
        u += (gx * by - gy * bx) / det
        v += (gx * ay - gy * ax) / det
    else:
        return None
    for curve, t in ((one, u), (two, v)):
        low, high = curve.range
        if not low - 1e-7 * (high - low) <= t <= high + 1e-7 * (high - low):
            return None
    return u, v, one.at(u)


def arc_points(centre: Pair, radius: float, start: float, end: float, step: float) -> list[Pair]:
    count = max(2, math.ceil(abs(end - start) / step) + 1)
    return [
        (centre[0] + radius * math.cos(t), centre[1] + radius * math.sin(t))
        for t in np.linspace(start, end, count)
    ]


def _polyline_length(points: list[Pair]) -> float:
    p = np.array(points)
    return float(np.hypot(*np.diff(p, axis=0).T).sum())
