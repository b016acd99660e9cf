"""Residuals of sketch constraints with their gradients, vectorised over constraints.

Each takes X (k, n): k variables of n constraints, and values V (v, n), and returns residuals
R (r, n) with gradients J (r, k, n). Coordinates are scaled to a sketch of size 1.
u is the unit vector from a to b, L its length.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Residual = Callable[[Array, Array], tuple[Array, Array]]

_TINY = 1e-300


def _unit(x1: Array, y1: Array, x2: Array, y2: Array) -> tuple[Array, Array, Array]:
    dx, dy = x2 - x1, y2 - y1
    length = np.hypot(dx, dy) + _TINY
    return dx / length, dy / length, length


def distance(X: Array, V: Array) -> tuple[Array, Array]:
    """|q - p| = d; variables p, q."""
    ux, uy, length = _unit(*X)
    return (length - V[0])[None], np.stack([-ux, -uy, ux, uy])[None]


def difference(X: Array, V: Array) -> tuple[Array, Array]:
    """b - a = d; two scalars."""
    one = np.ones_like(X[0])
    return (X[1] - X[0] - V[0])[None], np.stack([-one, one])[None]


def value(X: Array, V: Array) -> tuple[Array, Array]:
    """a = d; one scalar."""
    return (X[0] - V[0])[None], np.ones_like(X)[None]


def point_line(X: Array, V: Array) -> tuple[Array, Array]:
    """cross(u, p - a) = d, signed; variables a, b, p. Zero puts the point on the line."""
    ax, ay, _, _, px, py = X
    ux, uy, length = _unit(*X[:4])
    wx, wy = px - ax, py - ay
    t = (ux * wx + uy * wy) / length
    nx, ny = -uy, ux
    J = np.stack([-nx * (1 - t), -ny * (1 - t), -nx * t, -ny * t, nx, ny])
    return (ux * wy - uy * wx - V[0])[None], J[None]


def line_circle(X: Array, V: Array) -> tuple[Array, Array]:
    """cross(u, c - a) = s r: tangent line and circle; variables a, b, c, r."""
    r, J = point_line(X[:6], np.zeros_like(V))
    return r - V[0] * X[6], np.concatenate([J, -V[:1][None]], axis=1)


def tangent_at_end(X: Array, V: Array) -> tuple[Array, Array]:
    """dot(u, P - c) = 0: tangent where a line ends on an arc; variables a, b, P, c.

    The signed-distance form has the same gradient as point-on-circle there and loses rank.
    """
    _, _, _, _, px, py, cx, cy = X
    ux, uy, length = _unit(*X[:4])
    wx, wy = px - cx, py - cy
    along = ux * wx + uy * wy
    gx, gy = (wx - along * ux) / length, (wy - along * uy) / length
    return along[None], np.stack([-gx, -gy, gx, gy, ux, uy, -ux, -uy])[None]


def circle_circle(X: Array, V: Array) -> tuple[Array, Array]:
    """|c2 - c1| = s1 r1 + s2 r2; variables c1, c2, r1, r2."""
    ux, uy, length = _unit(*X[:4])
    r = length - V[0] * X[4] - V[1] * X[5]
    return r[None], np.stack([-ux, -uy, ux, uy, -V[0], -V[1]])[None]


def on_circle(X: Array, V: Array) -> tuple[Array, Array]:
    """|p - c| = r; variables c, p, r."""
    ux, uy, length = _unit(*X[:4])
    return (length - X[4])[None], np.stack([-ux, -uy, ux, uy, -np.ones_like(ux)])[None]


def _two_lines(X: Array) -> tuple[Array, Array, Array, Array, Array, Array]:
    ux, uy, lu = _unit(*X[:4])
    vx, vy, lv = _unit(*X[4:])
    turn = np.stack([uy / lu, -ux / lu, -uy / lu, ux / lu, -vy / lv, vx / lv, vy / lv, -vx / lv])
    return ux, uy, vx, vy, ux * vx + uy * vy, turn


def angle(X: Array, V: Array) -> tuple[Array, Array]:
    """Directed angle from line a-b to line c-d, wrapped to (-pi, pi]."""
    ux, uy, vx, vy, cosine, turn = _two_lines(X)
    found = np.arctan2(ux * vy - uy * vx, cosine) - V[0]
    return np.remainder(found + np.pi, 2 * np.pi)[None] - np.pi, -turn[None]


def parallel(X: Array, V: Array) -> tuple[Array, Array]:
    ux, uy, vx, vy, cosine, turn = _two_lines(X)
    return (ux * vy - uy * vx)[None], -turn[None] * cosine


def perpendicular(X: Array, V: Array) -> tuple[Array, Array]:
    ux, uy, vx, vy, cosine, turn = _two_lines(X)
    return cosine[None], turn[None] * (ux * vy - uy * vx)


def equal_length(X: Array, V: Array) -> tuple[Array, Array]:
    ux, uy, lu = _unit(*X[:4])
    vx, vy, lv = _unit(*X[4:])
    return (lu - lv)[None], np.stack([-ux, -uy, ux, uy, vx, vy, -vx, -vy])[None]


def midpoint(X: Array, V: Array) -> tuple[Array, Array]:
    """p = (a + b) / 2; variables a, b, p."""
    ax, ay, bx, by, px, py = X
    o, h = np.zeros_like(ax), np.full_like(ax, -0.5)
    i = np.ones_like(ax)
    J = np.stack([np.stack([h, o, h, o, i, o]), np.stack([o, h, o, h, o, i])])
    return np.stack([px - (ax + bx) / 2, py - (ay + by) / 2]), J


def symmetric(X: Array, V: Array) -> tuple[Array, Array]:
    """p and q mirrored in the line a-b; variables a, b, p, q."""
    _, _, _, _, px, py, qx, qy = X
    mid = np.stack([*X[:4], (px + qx) / 2, (py + qy) / 2])
    r1, J1 = point_line(mid, np.zeros((1, X.shape[1])))
    first = np.concatenate([J1[0, :4], J1[0, 4:] / 2, J1[0, 4:] / 2])
    ux, uy, length = _unit(*X[:4])
    wx, wy = qx - px, qy - py
    along = ux * wx + uy * wy
    gx, gy = (wx - along * ux) / length, (wy - along * uy) / length
    second = np.stack([-gx, -gy, gx, gy, -ux, -uy, ux, uy])
    return np.stack([r1[0], along]), np.stack([first, second])


# --- residuals with gradients by complex step
#
# f(x + ih) = f(x) + ih f'(x) + O(h2): the imaginary part gives the derivative exactly to
# rounding, without cancellation (Squire, Trapp: SIAM Review 40, 1998). Formulas below may use
# only functions that stay analytic: no abs, hypot or arctan2 of numpy's own.

_H = 1e-40
Formula = Callable[[Any, Array], Any]


def stepped(formula: Formula) -> Residual:
    """A residual from its formula alone; `formula(X, V)` returns rows (r, n)."""

    def residual(X: Array, V: Array) -> tuple[Array, Array]:
        k, n = X.shape
        Z = np.repeat(X[:, None, :].astype(complex), k, axis=1)
        Z[np.arange(k), np.arange(k)] += 1j * _H
        R = np.asarray(formula(Z.reshape(k, k * n), np.tile(V, (1, k))))
        R = R.reshape(-1, k, n)
        return R[:, 0].real.copy(), R.imag / _H

    residual.__name__ = formula.__name__
    residual.__doc__ = formula.__doc__
    return residual


def _length(x: Any, y: Any) -> Any:
    return np.sqrt(x * x + y * y + _TINY)


def _angle(y: Any, x: Any) -> Any:
    """arctan2 that carries a small imaginary part."""
    square = x.real**2 + y.real**2 + _TINY
    bent = (x.real * y.imag - y.real * x.imag) / square
    return np.arctan2(y.real, x.real) + 1j * bent


def _wrapped(a: Any) -> Any:
    """Into (-pi, pi]."""
    return a - 2 * np.pi * np.round(a.real / (2 * np.pi))


@stepped
def ratio(X: Any, V: Array) -> Any:
    """|ab| = k |cd|; variables a, b, c, d."""
    return (_length(X[2] - X[0], X[3] - X[1]) - V[0] * _length(X[6] - X[4], X[7] - X[5]))[None]


@stepped
def radius_ratio(X: Any, V: Array) -> Any:
    """r1 = k r2."""
    return (X[0] - V[0] * X[1])[None]


@stepped
def as_wide(X: Any, V: Array) -> Any:
    """|ab| = k h; variables a, b, h."""
    return (_length(X[2] - X[0], X[3] - X[1]) - V[0] * X[4])[None]


def _cross_to(line: Any, px: Any, py: Any) -> Any:
    """Signed distance of a point to the left of a line (ax, ay, bx, by)."""
    ax, ay, bx, by = line
    return ((bx - ax) * (py - ay) - (by - ay) * (px - ax)) / _length(bx - ax, by - ay)


@stepped
def equal_gaps(X: Any, V: Array) -> Any:
    """Equal distances p-q and q-r, all three in a line; variables p, q, r."""
    return np.stack([X[0] - 2 * X[2] + X[4], X[1] - 2 * X[3] + X[5]])


@stepped
def line_gaps(X: Any, V: Array) -> Any:
    """Line b midway between lines a and c, measured at its first point; variables a, b, c."""
    a, b, c = X[:4], X[4:8], X[8:]
    return (_cross_to(a, b[0], b[1]) - _cross_to(a, c[0], c[1]) / 2)[None]


@stepped
def arc_length(X: Any, V: Array) -> Any:
    """r (turn from start to end) = d; variables c, s, e, r; V = d, turn guessed."""
    cx, cy, sx, sy, ex, ey, r = X
    turn = _angle(ey - cy, ex - cx) - _angle(sy - cy, sx - cx) - V[1]
    return (r * (V[1] + _wrapped(turn)) - V[0])[None]


@stepped
def spaced(X: Any, V: Array) -> Any:
    """q = p + d u(a-b): a copy d further along a line; variables a, b, p, q."""
    ux, uy = X[2] - X[0], X[3] - X[1]
    n = _length(ux, uy)
    return np.stack([X[6] - X[4] - V[0] * ux / n, X[7] - X[5] - V[0] * uy / n])


@stepped
def rotated(X: Any, V: Array) -> Any:
    """q = c + turn(p - c) by an angle; variables c, p, q."""
    cos, sin = np.cos(V[0]), np.sin(V[0])
    wx, wy = X[2] - X[0], X[3] - X[1]
    return np.stack([X[4] - X[0] - cos * wx + sin * wy, X[5] - X[1] - sin * wx - cos * wy])


def _in_ellipse(E: Any, px: Any, py: Any) -> tuple[Any, Any, Any, Any, Any]:
    """Place of a point in units of the half axes, with unit major axis and its length."""
    ax, ay = E[2] - E[0], E[3] - E[1]
    A = _length(ax, ay)
    ex, ey = ax / A, ay / A
    wx, wy = px - E[0], py - E[1]
    return (wx * ex + wy * ey) / A, (wy * ex - wx * ey) / E[4], ex, ey, A


@stepped
def on_ellipse(X: Any, V: Array) -> Any:
    """sqrt(u2 + v2) = 1 in units of the half axes; variables c, m, b, p."""
    u, v, *_ = _in_ellipse(X[:5], X[5], X[6])
    return ((_length(u, v) - 1.0) * X[4])[None]


@stepped
def line_ellipse(X: Any, V: Array) -> Any:
    """cross(u, c - a) = s sqrt(A2 (e1.n)2 + b2 (e2.n)2); variables a, b, then the ellipse."""
    a, E = X[:4], X[4:]
    ux, uy = a[2] - a[0], a[3] - a[1]
    n = _length(ux, uy)
    nx, ny = -uy / n, ux / n
    ax, ay = E[2] - E[0], E[3] - E[1]
    A = _length(ax, ay)
    along, across = ax * nx + ay * ny, (ax * ny - ay * nx) * E[4] / A
    return (_cross_to(a, E[0], E[1]) - V[0] * _length(along, across))[None]


@stepped
def beside_ellipse(X: Any, V: Array) -> Any:
    """p beside the point q of an ellipse; variables p, gap, q, centre, end of the half axis,
    other half axis. Counter-clockwise: to the left is inside."""
    px, py, gap, qx, qy, cx, cy, mx, my, b = X
    ax, ay = mx - cx, my - cy
    a = _length(ax, ay)
    ux, uy = ax / a, ay / a
    u = (qx - cx) * ux + (qy - cy) * uy
    v = (qy - cy) * ux - (qx - cx) * uy
    gu, gv = u / (a * a), v / (b * b)
    g = _length(gu, gv)
    nx, ny = (gu * ux - gv * uy) / g, (gu * uy + gv * ux) / g
    return np.stack([px - qx + V[0] * gap * nx, py - qy + V[0] * gap * ny])


@stepped
def beside_spline(X: Any, V: Array) -> Any:
    """p beside the end of a clamped spline; variables p, gap, points it hangs on; values the
    side, then how its outer two poles hang on them."""
    px, py, gap = X[:3]
    xs, ys = X[3::2], X[4::2]
    q = len(xs)
    here, after = V[1 : 1 + q], V[1 + q : 1 + 2 * q]
    ax, ay = (here * xs).sum(axis=0), (here * ys).sum(axis=0)
    dx, dy = (after * xs).sum(axis=0) - ax, (after * ys).sum(axis=0) - ay
    d = _length(dx, dy)
    return np.stack([px - ax + V[0] * gap * dy / d, py - ay - V[0] * gap * dx / d])


def _basis(t: Any, knots: Array, degree: int) -> Any:
    """B-spline basis by the Cox-de Boor recursion; knots (K, n), result (K - degree - 1, n)."""
    last = knots[-1]
    x = np.minimum(np.maximum(t.real, knots[0]), last) + 1j * t.imag
    inside = (knots[:-1] <= x.real) & (
        (x.real < knots[1:]) | ((x.real >= last) & (knots[1:] >= last))
    )
    inside &= knots[:-1] < knots[1:]
    N = inside.astype(complex)
    for k in range(1, degree + 1):
        low = knots[k:-1] - knots[: -k - 1]
        high = knots[k + 1 :] - knots[1:-k]
        a = np.where(low > 0, (x - knots[: -k - 1]) / np.where(low > 0, low, 1.0), 0.0)
        b = np.where(high > 0, (knots[k + 1 :] - x) / np.where(high > 0, high, 1.0), 0.0)
        N = a * N[:-1] + b * N[1:]
    return N


class SplineForm:
    """How a spline's constants lie in V and its variables in X: knots, weights, matrix."""

    def __init__(self, degree: int, poles: int, points: int) -> None:
        self.degree, self.poles, self.points = degree, poles, points
        self.knots = poles + degree + 1
        self.values = self.knots + poles + poles * points
        self.variables = 2 * points

    def derivatives(self, t: Any, X: Any, V: Array, most: int = 2) -> list[tuple[Any, Any]]:
        """Point, first and second derivative (x, y) at t."""
        K, m, q = self.knots, self.poles, self.points
        knots, w = V[:K], V[K : K + m]
        M = V[K + m : K + m + m * q].reshape(m, q, -1)
        P = [np.einsum("mqn,qn->mn", M, X[k::2][:q]) for k in (0, 1)]
        h: list[Any] = [(P[0] * w, P[1] * w, w + 0j)]
        at, degree, found = knots, self.degree, []
        for order in range(most + 1):
            N = _basis(t, at, degree)
            found.append([(N * c).sum(axis=0) for c in h[-1]])
            if order == most:
                break
            if degree == 0:
                found += [[0 * t, 0 * t, 0 * t]] * (most - order)
                break
            span = at[degree + 1 : -1] - at[1 : -degree - 1]
            k = np.where(span > 0, degree / np.where(span > 0, span, 1.0), 0.0)
            h.append(tuple(k * (c[1:] - c[:-1]) for c in h[-1]))
            at, degree = at[1:-1], degree - 1
        (x, y, g), *rest = found
        result = [(x / g, y / g)]
        if most > 0:
            x1, y1, g1 = rest[0]
            result.append(((x1 - g1 * result[0][0]) / g, (y1 - g1 * result[0][1]) / g))
        if most > 1:
            x2, y2, g2 = rest[1]
            (px, py), (dx, dy) = result
            result.append(((x2 - 2 * g1 * dx - g2 * px) / g, (y2 - 2 * g1 * dy - g2 * py) / g))
        return result


@lru_cache(maxsize=256)
def spline_point(degree: int, poles: int, points: int) -> Residual:
    """P = C(t): point p on a spline at its own parameter; variables t, p, then the spline."""
    form = SplineForm(degree, poles, points)

    def spline_point(X: Any, V: Array) -> Any:
        ((x, y),) = form.derivatives(X[0], X[3:], V, 0)
        return np.stack([X[1] - x, X[2] - y])

    return stepped(spline_point)


#: A way a curve runs through a point: (form, its sizes). See `_way`.
Way = tuple[str, tuple[int, ...]]
_WIDE = {"line": 4, "circle": 4, "ellipse": 7}


def _way_width(way: Way) -> tuple[int, int]:
    """Variables and constants a way takes."""
    if way[0] == "spline":
        form = SplineForm(*way[1])
        return form.variables + 1, form.values
    return _WIDE[way[0]], 1


def _way(way: Way, X: Any, V: Array) -> tuple[Any, Any, Any]:
    """Unit direction of a curve at a point and its curvature there (1 / size).

    line: a, b. circle: centre, point; V its sense. ellipse: centre, major, minor, point.
    spline: t, points; V the spline.
    """
    if way[0] == "line":
        dx, dy = X[2] - X[0], X[3] - X[1]
        n = _length(dx, dy)
        return dx / n, dy / n, 0 * n
    if way[0] == "circle":
        wx, wy = X[2] - X[0], X[3] - X[1]
        n = _length(wx, wy)
        return -wy / n, wx / n, 1 / n
    if way[0] == "ellipse":
        u, v, ex, ey, A = _in_ellipse(X[:5], X[5], X[6])
        b = X[4]
        # Tangent of (A cos t, b sin t) with u = cos t, v = sin t.
        tx, ty = -A * v, b * u
        n = _length(tx, ty)
        return (tx * ex - ty * ey) / n, (tx * ey + ty * ex) / n, A * b / n**3
    form = SplineForm(*way[1])
    _, (dx, dy), (ax, ay) = form.derivatives(X[0], X[1:], V, 2)
    n = _length(dx, dy)
    return dx / n, dy / n, (dx * ay - dy * ax) / n**3


@lru_cache(maxsize=256)
def same_way(one: Way, two: Way) -> Residual:
    """cross(d1, d2) = 0: two curves run the same way (or the opposite one) at a point."""
    k, c = _way_width(one)

    def same_way(X: Any, V: Array) -> Any:
        x1, y1, _ = _way(one, X[:k], V[:c])
        x2, y2, _ = _way(two, X[k:], V[c:])
        return (x1 * y2 - y1 * x2)[None]

    return stepped(same_way)


@lru_cache(maxsize=256)
def same_bend(one: Way, two: Way) -> Residual:
    """Equal curvature where two curves meet, whichever way each runs."""
    k, c = _way_width(one)

    def same_bend(X: Any, V: Array) -> Any:
        x1, y1, k1 = _way(one, X[:k], V[:c])
        x2, y2, k2 = _way(two, X[k:], V[c:])
        agree = np.sign((x1 * x2 + y1 * y2).real)
        return (k1 - agree * k2)[None]

    return stepped(same_bend)


RESIDUALS: dict[str, Residual] = {
    f.__name__: f
    for f in (
        distance, difference, value, point_line, line_circle, tangent_at_end, circle_circle,
        on_circle, angle, parallel, perpendicular, equal_length, midpoint, symmetric, ratio,
        radius_ratio, equal_gaps, line_gaps, arc_length, spaced, rotated, on_ellipse,
        line_ellipse, as_wide, beside_ellipse, beside_spline,
    )
}  # fmt: skip
