"""Plain curves in a plane, shared by sketch and kernel. Lengths in mm, angles in rad.

Every curve runs from `ends[0]` to `ends[1]` (one point when closed) and answers the same
questions: `tangent_at` a point on it, `points` along it, what it weighs as `length`.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline

Pair = tuple[float, float]
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Line2:
    form: ClassVar[str] = "line"
    a: Pair
    b: Pair

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

    def at(self, angle: float) -> Pair:
        c, r = self.centre, self.radius
        return (c[0] + r * math.cos(angle), c[1] + r * math.sin(angle))

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
    def _curve(self) -> BSpline:
        w = np.ones(len(self.poles)) if self.weights is None else np.array(self.weights)
        poles = np.column_stack([np.array(self.poles) * w[:, None], w])
        return BSpline(np.array(self.knots), poles, self.degree)

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
        ts = np.unique(np.concatenate([np.linspace(a, b, 9) for a, b in itertools.pairwise(spans)]))
        return ts, self.derivatives(ts, 0)[0]

    def parameter(self, point: Pair) -> float:
        """Parameter of the nearest point of the curve."""
        ts, places = self._grid
        t = float(ts[int(np.argmin(((places - point) ** 2).sum(axis=1)))])
        low, high = self.range
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
        return t

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


def arc_points(centre: Pair, radius: float, start: float, end: float, step: float) -> list[Pair]:
    count = max(2, math.ceil(abs(end - start) / step) + 1)
    return [
        (centre[0] + radius * math.cos(t), centre[1] + radius * math.sin(t))
        for t in np.linspace(start, end, count)
    ]


def _polyline_length(points: list[Pair]) -> float:
    p = np.array(points)
    return float(np.hypot(*np.diff(p, axis=0).T).sum())
