"""A curve in space that something runs along, as a rational B-spline. Lengths in mm.

Beyond the ends of an open one it goes on straight, so that what has run past an end is read as that.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline
from scipy.optimize import brentq

Floats = NDArray[np.float64]

#: Places looked at between two knots when the nearest one is sought, more where it bends by more than
#: the cosine says from one to the next; those a length is summed over (Gauss-Legendre).
_LOOKS = 5
_STRAIGHT = 0.985
_HALVINGS = 10
#: The most a way rises over a chord between two looks, as a share of that.
_SAGITTA = 0.06
_KEPT = 16
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(8)


@dataclass(frozen=True)
class Foot:
    """The place of a way nearest to a point: where (mm), which way it runs there (unit), and how far
    along it is (mm from the start)."""

    at: Floats
    way: Floats
    travel: float


@dataclass(frozen=True)
class Way:
    """`knots` with their repeats, `poles` (n, 3) in mm, `weights` (n)."""

    degree: int
    knots: Floats
    poles: Floats
    weights: Floats
    closed: bool

    @cached_property
    def _spline(self) -> BSpline:
        """Of poles times weights, and the weights."""
        lifted = np.column_stack([self.poles * self.weights[:, None], self.weights])
        return BSpline(self.knots, lifted, self.degree)

    @cached_property
    def _marks(self) -> Floats:
        """Parameters between which it hardly bends: at its knots, and in between."""
        spans = np.unique(self.knots)
        t = np.concatenate(
            [np.linspace(a, b, _LOOKS, endpoint=False) for a, b in itertools.pairwise(spans)]
            + [spans[-1:]]
        )
        for _ in range(_HALVINGS):
            way = self.slopes(t)
            way /= np.maximum(np.linalg.norm(way, axis=1), 1e-30)[:, None]
            bent = np.einsum("ni,ni->n", way[:-1], way[1:]) < _STRAIGHT
            if not bent.any():
                break
            t = np.sort(np.concatenate([t, 0.5 * (t[:-1] + t[1:])[bent]]))
        return t

    def places(self, t: Floats) -> Floats:
        """Points (n, 3) at parameters inside the ends."""
        found = self._spline(t)
        return np.asarray(found[:, :3] / found[:, 3:])

    def slopes(self, t: Floats) -> Floats:
        """First derivatives (n, 3): of the quotient of two splines."""
        h, d = self._spline(t), self._spline(t, 1)
        return np.asarray((d[:, :3] * h[:, 3:] - h[:, :3] * d[:, 3:]) / h[:, 3:] ** 2)

    def _run(self, t: float) -> tuple[Floats, Floats]:
        """Place and first derivative at one parameter."""
        h, d = self._spline(t), self._spline(t, 1)
        p = h[:3] / h[3]
        return p, (d[:3] - p * d[3]) / h[3]

    @cached_property
    def _lengths(self) -> Floats:
        """How far along each mark is."""
        a, b = self._marks[:-1, None], self._marks[1:, None]
        t = 0.5 * (a + b) + 0.5 * (b - a) * _NODES[None, :]
        speed = np.linalg.norm(self.slopes(t.ravel()), axis=1).reshape(t.shape)
        pieces = 0.5 * (b - a)[:, 0] * (speed @ _WEIGHTS)
        return np.concatenate([[0.0], np.cumsum(pieces)])

    @cached_property
    def _looks(self) -> Floats:
        return self.places(self._marks)

    @property
    def length(self) -> float:
        return float(self._lengths[-1])

    def travel(self, t: float) -> float:
        """How far along (mm) a parameter is."""
        k = int(np.clip(np.searchsorted(self._marks, t, side="right") - 1, 0, len(self._marks) - 2))
        a = float(self._marks[k])
        nodes = 0.5 * (a + t) + 0.5 * (t - a) * _NODES
        speed = np.linalg.norm(self.slopes(nodes), axis=1)
        return float(self._lengths[k] + 0.5 * (t - a) * (speed @ _WEIGHTS))

    def foot(self, point: Floats) -> Foot:
        """The place nearest to a point."""
        key = point.tobytes()
        found = self._lately.get(key)
        if found is None:
            if len(self._lately) >= _KEPT:
                self._lately.clear()
            found = self._lately[key] = self._sought(point)
        return found

    @cached_property
    def _lately(self) -> dict[bytes, Foot]:
        """Feet sought last: each row of a joint asks for the same."""
        return {}

    def _sought(self, point: Floats) -> Foot:
        # Chords between the looks, each with its own nearest place: a look alone may be far from it.
        a, chord = self._looks[:-1], np.diff(self._looks, axis=0)
        square = np.maximum(np.einsum("ni,ni->n", chord, chord), 1e-30)
        along = np.clip(np.einsum("ni,ni->n", point - a, chord) / square, 0, 1)
        off = np.linalg.norm(a + along[:, None] * chord - point, axis=1)
        before, after = np.roll(off, 1), np.roll(off, -1)
        if not self.closed:
            # The ends of an open way are no neighbours, however near they come to each other.
            before[0] = after[-1] = np.inf
        valleys = np.flatnonzero((off <= before) & (off <= after))
        # The sagitta of a chord may hide the nearest: all are followed to the end that may be it.
        rise = off[valleys] - _SAGITTA * np.sqrt(square[valleys])
        best = (np.inf, 0.0)
        for k in valleys[np.argsort(rise)]:
            if off[k] - _SAGITTA * math.sqrt(square[k]) > best[0]:
                break
            best = min(best, self._settled(int(k), point))
        return self._at(best[1], point)

    def _at(self, t: float, point: Floats) -> Foot:
        at, v = self._run(t)
        way = v / max(float(np.linalg.norm(v)), 1e-30)
        low, high = float(self._marks[0]), float(self._marks[-1])
        if not self.closed and t in (low, high):
            # Past an end it goes on straight.
            past = float((point - at) @ way)
            if (past < 0) == (t == low):
                return Foot(at + past * way, way, past + (0.0 if t == low else self.length))
        return Foot(at, way, self.travel(t))

    def _settled(self, k: int, point: Floats) -> tuple[float, float]:
        """The least distance near a chord, and its parameter: where the way runs square to what leads
        to the point, between the looks before and after the chord."""
        low, high = float(self._marks[0]), float(self._marks[-1])
        period = high - low
        steps = np.diff(self._marks)
        a, b = float(self._marks[k]), float(self._marks[k + 1])
        a, b = a - float(steps[k - 1]), b + float(steps[(k + 1) % len(steps)])
        if not self.closed:
            a, b = max(a, low), min(b, high)

        def inside(t: float) -> float:
            return low + float(np.remainder(t - low, period)) if self.closed else t

        def slope(t: float) -> float:
            p, v = self._run(inside(t))
            return float((p - point) @ v)

        ends = slope(a), slope(b)
        if ends[0] < 0 < ends[1]:
            found = [inside(float(brentq(slope, a, b, xtol=1e-15 * max(1.0, period))))]
        else:
            found = [inside(a), inside(b)]
        return min((float(np.linalg.norm(self._run(t)[0] - point)), t) for t in found)

    def seen_from(self, origin: Floats, axes: Floats) -> Way:
        """The same in the coordinates of a frame (axes: 3x3, columns)."""
        poles = (self.poles - origin) @ axes
        return Way(self.degree, self.knots, poles, self.weights, self.closed)

    def moved(self, rotation: Floats, shift: Floats) -> Way:
        """The same turned (3x3) and shifted (mm)."""
        poles = self.poles @ rotation.T + shift
        return Way(self.degree, self.knots, poles, self.weights, self.closed)

    def to_json(self) -> dict[str, Any]:
        return {
            k: v.tolist() if isinstance(v, np.ndarray) else v for k, v in self._fields().items()
        }

    def _fields(self) -> dict[str, Any]:
        return {
            "degree": self.degree, "knots": self.knots, "poles": self.poles,
            "weights": self.weights, "closed": self.closed,
        }  # fmt: skip

    @staticmethod
    def from_json(data: dict[str, Any]) -> Way:
        knots, poles, weights = (np.array(data[k]) for k in ("knots", "poles", "weights"))
        return Way(data["degree"], knots, poles, weights, data["closed"])
