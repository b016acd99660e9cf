"""Free curves: splines through points, splines by control points, conics.

All are B-splines whose poles depend linearly on points of the sketch, poles = M points; the
solver sees no more of them than that.
"""

from __future__ import annotations

import itertools
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal, Self

import numpy as np
import scipy
from pydantic import Field, model_validator

from vireo.core.curves import Curve2, Spline2
from vireo.core.sketch.entities.base import EntityBase, Id
from vireo.core.sketch.residuals import Array
from vireo.core.sketch.seats import Pair, Seats, Variables
from vireo.core.trouble import BadInput


@dataclass(frozen=True)
class Tie:
    """How a B-spline hangs on points: poles = `matrix` @ places of the points."""

    degree: int
    knots: tuple[float, ...]
    matrix: Array
    weights: tuple[float, ...] | None = None

    def curve(self, places: Array) -> Spline2:
        poles = self.matrix @ places
        return Spline2(
            self.degree, self.knots, tuple((float(x), float(y)) for x, y in poles), self.weights
        )


class FreeCurve(EntityBase):
    form: ClassVar[str] = "spline"

    def tie(self, at: Mapping[str, Pair]) -> Tie:
        raise NotImplementedError

    def variables(self, seats: Seats) -> Variables:
        """x and y of the points it hangs on, in order."""
        return tuple(v for p in self.stands_on() for v in seats.points[p])

    def run(self) -> tuple[str, ...]:
        """The points in which it begins and ends; none when closed."""
        return ()

    def enter(self, seats: Seats) -> None:
        if self.run():
            first, last = self.run()
            seats.arc_ends[self.id] = (first, last)

    def curve(self, at: Mapping[str, Pair]) -> Curve2:
        places = np.array([at[p] for p in self.stands_on()])
        return self.tie(at).curve(places)


class Spline(FreeCurve):
    """A cubic through points, smooth in curvature; handles give its direction at the ends.

    Parameters go with the square root of the gaps (centripetal: Lee, Computer-Aided Design
    21, 1989), ends without handles run out straight.
    """

    type: Literal["spline"] = "spline"
    through: Annotated[tuple[Id, ...], Field(min_length=2, max_length=400)]
    closed: bool = False
    start_handle: Id | None = None
    end_handle: Id | None = None
    #: (point, handle) for points between the ends.
    inner_handles: tuple[tuple[Id, Id], ...] = Field(default=(), max_length=400)

    @model_validator(mode="after")
    def _sensible(self) -> Spline:
        if len(set(self.through)) != len(self.through):
            raise BadInput(f"the spline {self.id} goes through one point twice")
        if self.closed and (len(self.through) < 3 or len(self.stands_on()) > len(self.through)):
            raise BadInput(f"a closed spline needs three points and has no handles: {self.id}")
        held = [p for p, _ in self.inner_handles]
        if len(set(held)) < len(held) or not set(held) <= set(self.through[1:-1]):
            raise BadInput(f"a handle of the spline {self.id} stands at none of its inner points")
        return self

    @property
    def handles(self) -> dict[str, str]:
        """Handles by the point they stand at."""
        found = dict(self.inner_handles)
        if self.start_handle:
            found[self.through[0]] = self.start_handle
        if self.end_handle:
            found[self.through[-1]] = self.end_handle
        return found

    def with_handles(self, handles: Mapping[str, str]) -> Self:
        """Itself with these handles, those of points it does not go through left out."""
        first, *inner, last = self.through
        data = self.model_dump() | {
            "start_handle": handles.get(first), "end_handle": handles.get(last),
            "inner_handles": [(p, handles[p]) for p in inner if p in handles],
        }  # fmt: skip
        return type(self).model_validate(data)

    def stands_on(self) -> tuple[str, ...]:
        ends = tuple(h for h in (self.start_handle, self.end_handle) if h)
        return (*self.through, *ends, *(h for _, h in self.inner_handles))

    def run(self) -> tuple[str, ...]:
        return () if self.closed else (self.through[0], self.through[-1])

    def parameters(self, at: Mapping[str, Pair]) -> Array:
        """Parameters of its points, 0 to 1; a closed one comes back to its first at 1."""
        places = np.array([at[p] for p in self.through])
        if self.closed:
            gaps = np.hypot(*np.diff(np.vstack([places, places[:1]]), axis=0).T)
        else:
            gaps = np.hypot(*np.diff(places, axis=0).T)
        steps = np.sqrt(np.maximum(gaps, 1e-9 * (gaps.max(initial=0.0) or 1.0)))
        u = np.concatenate([[0.0], np.cumsum(steps)])
        return np.asarray(u / u[-1])

    def tie(self, at: Mapping[str, Pair]) -> Tie:
        u = self.parameters(at)
        n, on = len(self.through), self.stands_on()
        unit = np.eye(len(on))
        if self.closed:
            return _closed(u, unit)
        if n == len(on) == 2:
            return Tie(1, (0.0, 0.0, 1.0, 1.0), unit)
        column = {p: unit[k] for k, p in enumerate(on)}
        handles = self.handles
        # Each inner handle asks for one more knot: two, a third of a span to either side of its
        # point, stand in for the one there, and the curve stays continuous in curvature.
        knots = [0.0] * 4
        for i in range(1, n - 1):
            if self.through[i] in handles:
                knots += [u[i] - (u[i] - u[i - 1]) / 3, u[i] + (u[i + 1] - u[i]) / 3]
            else:
                knots.append(u[i])
        t = np.array([*knots, *[1.0] * 4])
        basis = scipy.interpolate.BSpline(t, np.eye(len(t) - 4), 3)
        rows, right = [basis(u)], [unit[:n]]
        for i, p in enumerate(self.through):
            spans = [u[k + 1] - u[k] for k in (i - 1, i) if 0 <= k < n - 1]
            end = i in (0, n - 1)
            if p in handles:
                # A handle stands a third of its span's derivative ahead of its point; at the
                # end it stands behind it, inside the curve.
                way = -1.0 if i == n - 1 else 1.0
                slope = 3.0 * way * (column[handles[p]] - column[p]) * len(spans) / sum(spans)
                rows.append(basis(u[i], nu=1)[None])
                right.append(slope[None])
            elif end:
                rows.append(basis(u[i], nu=2)[None])
                right.append(np.zeros((1, len(on))))
        poles = np.linalg.solve(np.vstack(rows), np.vstack(right))
        return Tie(3, tuple(float(k) for k in t), poles)


def _closed(u: Array, unit: Array) -> Tie:
    """A periodic cubic as a clamped B-spline that closes with equal curvature.

    Cut open at its first point it is the clamped cubic through the same points that has the
    periodic one's derivative at both ends.
    """
    values = np.vstack([unit, unit[:1]])
    slope = scipy.interpolate.make_interp_spline(u, values, k=3, bc_type="periodic")(0.0, nu=1)
    ends: Any = ([(1, slope)], [(1, slope)])
    spline = scipy.interpolate.make_interp_spline(u, values, k=3, bc_type=ends)
    return Tie(3, tuple(float(t) for t in spline.t), np.asarray(spline.c))


class ControlSpline(FreeCurve):
    """A B-spline by its control points; it starts and ends in the outer ones.

    Knots are uniform unless given (what is left of a curve that was cut keeps its own), as
    are weights of one.
    """

    type: Literal["control_spline"] = "control_spline"
    poles: Annotated[tuple[Id, ...], Field(min_length=2, max_length=400)]
    degree: Annotated[int, Field(ge=1, le=25)] = 3
    knots: tuple[float, ...] | None = Field(default=None, max_length=500)
    weights: tuple[float, ...] | None = Field(default=None, max_length=400)

    @model_validator(mode="after")
    def _sensible(self) -> ControlSpline:
        if len(set(self.poles)) != len(self.poles):
            raise BadInput(f"the spline {self.id} has one control point twice")
        knots, weights, n = self.knots, self.weights, len(self.poles)
        if knots is not None and (
            len(knots) != n + self.degree + 1
            or any(b < a for a, b in itertools.pairwise(knots))
            or not knots[self.degree] == knots[0] < knots[-1] == knots[-self.degree - 1]
        ):
            raise BadInput(f"the knots of the spline {self.id} do not fit its points")
        if weights is not None and (len(weights) != n or min(weights) <= 0):
            raise BadInput(f"the spline {self.id} needs a positive weight for each point")
        return self

    def stands_on(self) -> tuple[str, ...]:
        return self.poles

    def run(self) -> tuple[str, ...]:
        return (self.poles[0], self.poles[-1])

    def tie(self, at: Mapping[str, Pair]) -> Tie:
        n = len(self.poles)
        if self.knots is not None:
            return Tie(self.degree, self.knots, np.eye(n), self.weights)
        k = min(self.degree, n - 1)
        inner = [i / (n - k) for i in range(1, n - k)]
        return Tie(k, (*[0.0] * (k + 1), *inner, *[1.0] * (k + 1)), np.eye(n), self.weights)


class Conic(FreeCurve):
    """An arc of a conic from `start` to `end` with its tangents meeting in `apex`.

    `rho` is how far towards the apex it bulges: below 0.5 an ellipse, at 0.5 a parabola,
    above a hyperbola (rational quadratic with middle weight rho / (1 - rho)).
    """

    type: Literal["conic"] = "conic"
    start: Id
    apex: Id
    end: Id
    rho: Annotated[float, Field(gt=0.01, lt=0.99, allow_inf_nan=False)] = 0.5

    def stands_on(self) -> tuple[str, ...]:
        return self.start, self.apex, self.end

    def run(self) -> tuple[str, ...]:
        return self.start, self.end

    def tie(self, at: Mapping[str, Pair]) -> Tie:
        w = self.rho / (1.0 - self.rho)
        return Tie(2, (0.0, 0.0, 0.0, 1.0, 1.0, 1.0), np.eye(3), (1.0, w, 1.0))
