"""Residuals of sketch constraints with their gradients, vectorised over constraints.

Each takes X (k, n): k variables of n constraints, and values V (v, n), and returns residuals
R (r, n) with gradients J (r, k, n). Coordinates are scaled to a sketch of size 1.
u is the unit vector from a to b, L its length.
"""

from __future__ import annotations

from collections.abc import Callable

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


RESIDUALS: dict[str, Residual] = {
    f.__name__: f
    for f in (
        distance, difference, value, point_line, line_circle, tangent_at_end, circle_circle,
        on_circle, angle, parallel, perpendicular, equal_length, midpoint, symmetric,
    )
}  # fmt: skip
