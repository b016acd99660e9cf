"""Surfaces on which a function on a grid has one value, closed and without gaps."""

from __future__ import annotations

from itertools import permutations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

#: A cube in six tetrahedra about its long diagonal, the same in all cubes: they meet in whole faces
#: (H. W. Kuhn, Some combinatorial lemmas in topology, 1960). Corners as steps along x, y, z.
_TETRAHEDRA = [
    np.cumsum([[0, 0, 0], *(np.eye(3, dtype=int)[k] for k in order)], axis=0)
    for order in permutations(range(3))
]
#: Per way of its four corners to be inside (bits): triangles of crossed edges, by pairs of corners.
_Edge = tuple[int, int]


def _cases() -> dict[int, list[tuple[_Edge, _Edge, _Edge]]]:
    found: dict[int, list[tuple[_Edge, _Edge, _Edge]]] = {}
    for bits in range(1, 15):
        ins = [k for k in range(4) if bits >> k & 1]
        outs = [k for k in range(4) if not bits >> k & 1]
        if len(ins) == 2:
            (a, b), (c, d) = ins, outs
            quad: list[_Edge] = [(a, c), (a, d), (b, d), (b, c)]
            found[bits] = [(quad[0], quad[1], quad[2]), (quad[0], quad[2], quad[3])]
        else:
            lone, rest = (ins[0], outs) if len(ins) == 1 else (outs[0], ins)
            one, two, three = ((lone, r) for r in rest)
            found[bits] = [(one, two, three)]
    return found


_CASES = _cases()


def level_surface(
    values: NDArray[np.float32], low: Floats, step: float, level: float
) -> tuple[Floats, Ints]:
    """Points (n, 3) and triangles (m, 3), wound so that they look to greater values, of where a function
    given at the corners of a grid of cubes has the value `level`: by tetrahedra, along whose edges it is
    taken to be linear. Closed where the border of the grid lies all on one side of the level."""
    shape = np.array(values.shape)
    flat = values.ravel()
    inside = values < level
    # Cubes with corners on both sides.
    count = np.zeros(shape - 1, dtype=np.int8)
    for corner in np.ndindex(2, 2, 2):
        count += inside[tuple(slice(c, n - 1 + c) for c, n in zip(corner, shape, strict=True))]
    cubes = np.argwhere((count > 0) & (count < 8))
    strides = np.array([shape[1] * shape[2], shape[2], 1])
    first = cubes @ strides
    triangles: list[Ints] = []
    for steps in _TETRAHEDRA:
        corners = first[:, None] + (steps @ strides)[None]
        bits = (flat[corners] < level) @ np.array([1, 2, 4, 8])
        for case, faces in _CASES.items():
            some = corners[bits == case]
            if not len(some):
                continue
            for face in faces:
                triangles.append(
                    np.stack([np.sort(some[:, list(edge)], axis=1) for edge in face], axis=1)
                )
    if not triangles:
        return np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64)
    edges = np.concatenate(triangles)
    # An edge as one number: faster to tell apart than two.
    unique, number = np.unique(edges[..., 0] * flat.size + edges[..., 1], return_inverse=True)
    a, b = unique // flat.size, unique % flat.size
    va, vb = flat[a].astype(float), flat[b].astype(float)
    # Never near a corner, where triangles would have next to no size: off by a fiftieth of a step.
    share = np.clip((level - va) / (vb - va), 0.02, 0.98)[:, None]
    one, two = _places(a, values.shape), _places(b, values.shape)
    grid = one + share * (two - one)
    points = low + step * grid
    corners = number.reshape(-1, 3)
    return points, _wound(points, corners, edges, flat, values.shape)


def _places(corners: Ints, shape: tuple[int, ...]) -> Floats:
    """Corners of a grid by number as steps along x, y, z."""
    return np.stack(np.unravel_index(corners, shape), axis=1).astype(float)


def _wound(
    points: Floats, corners: Ints, edges: Ints, flat: NDArray[np.float32], shape: tuple[int, ...]
) -> Ints:
    """Triangles turned so that they look the way values grow: along their first crossed edge, from the
    corner that is less."""
    e = edges[:, 0]
    up = (_places(e[:, 1], shape) - _places(e[:, 0], shape)) * np.sign(
        flat[e[:, 1]] - flat[e[:, 0]]
    )[:, None]
    p, q, r = (points[corners[:, k]] for k in range(3))
    wrong = np.einsum("ij,ij->i", np.cross(q - p, r - p), up) < 0
    made = corners.copy()
    made[wrong] = made[wrong][:, ::-1]
    return made
