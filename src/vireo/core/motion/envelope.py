"""The room a moving body takes up: all places it is at over a motion, as one closed surface.

The distance from the body is known on a grid that goes with it; on a grid that stands the least of it
over all stands is kept, and the surface lies where that is a little more than nothing: by half of what
the body goes between two stands, and what a grid cannot tell. Places of the body at times between the
stands, asked by rays, bear witness that it is all inside.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import scipy
from manifold3d import Manifold, Mesh64
from numpy.typing import NDArray

from vireo.core.assembly.pose import Floats, Pose
from vireo.core.exchange.meshfile import Triangles
from vireo.core.triangles.levels import level_surface
from vireo.core.triangles.rays import Rays
from vireo.core.trouble import BadInput

#: Corners of the grid that stands, and of one that goes with a body, at most.
_MOST = 6_000_000
_MOST_OWN = 600_000
#: And as many as are taken where nothing is asked, at most so many along the longest side.
_USUAL, _ALONG = 400_000, 120
#: Triangles of the surface: as many flat patches are made into a body.
TRIANGLES = 5900
#: Stands that are looked at, at most.
_STANDS = 3000
#: Times between stands, and places of the body at each, that bear witness.
_TIMES, _PLACES = 48, 400
_ROUNDS = 3


@dataclass(frozen=True)
class Skin:
    """The triangles of a body in its own coordinates, and how far (mm) they may lie off it."""

    points: Floats
    triangles: NDArray[np.int32]
    deflection: float


#: Where each body is at a value of what the motion goes by.
At = Callable[[float], Sequence[Pose]]


@dataclass(frozen=True)
class Envelope:
    """`over` (mm) is how far the surface lies from the body where it is farthest, at least nothing: no
    place of the body is outside. `witnesses` places between stands were found inside."""

    mesh: Triangles
    volume: float
    over: float
    stands: int
    witnesses: int


class _Own:
    """A body's signed distance on a grid that goes with it: less than nothing inside."""

    def __init__(self, skin: Skin, step: float, reach: float) -> None:
        low, high = skin.points.min(axis=0) - reach, skin.points.max(axis=0) + reach
        self.step = max(step, (float(np.prod(high - low)) / _MOST_OWN) ** (1 / 3))
        self.low, self.reach = low, reach
        shape = np.ceil((high - low) / self.step).astype(int) + 1
        self.high = low + self.step * (shape - 1)
        axes = [low[k] + self.step * np.arange(shape[k]) for k in range(3)]
        places = _spread(skin, self.step / 3)
        empty = np.ones(shape, dtype=bool)
        empty[tuple(np.round((places - low) / self.step).astype(int).T)] = False
        # Only what lies near the surface is asked how near.
        near = scipy.ndimage.distance_transform_edt(empty) * self.step < reach + self.step
        far = np.full(shape, 2 * reach)
        grid = np.argwhere(near) * self.step + low
        far[near] = scipy.spatial.cKDTree(places, balanced_tree=False).query(grid)[0]
        self.field = np.where(_inside(skin, axes), -far, far).astype(np.float32)

    def at(self, points: Floats) -> NDArray[np.float32]:
        """The distance at places in the body's coordinates, as the grid knows it."""
        found = scipy.ndimage.map_coordinates(
            self.field, ((points - self.low) / self.step).T, order=1, mode="constant",
            cval=2 * self.reach, output=np.float32,
        )  # fmt: skip
        return np.asarray(found, dtype=np.float32)


def _inside(skin: Skin, axes: Sequence[Floats]) -> NDArray[np.bool_]:
    """Which corners of a grid lie inside: by how often a ray up each column of it comes out."""
    rays = Rays(skin.points, skin.triangles)
    # A little aside, that none runs along an edge of the model.
    aside = 1.3e-4 * (axes[0][1] - axes[0][0])
    x, y = np.meshgrid(axes[0] + aside, axes[1] + 1.7 * aside, indexing="ij")
    origins = np.stack([x.ravel(), y.ravel(), np.full(x.size, axes[2][0] - 1.0)], axis=1)
    ways = np.tile([0.0, 0.0, 1.0], (len(origins), 1))
    depth = np.zeros((x.size, len(axes[2])), dtype=np.int32)
    alive = np.arange(len(origins))
    hair = 1e-4 * max(rays.size, 1.0)
    for _ in range(200):
        far, met, normals = rays.first(origins[alive], ways[alive])
        alive, far, normals = alive[met >= 0], far[met >= 0], normals[met >= 0]
        if not len(alive):
            break
        at = origins[alive, 2] + far
        enters = np.where(normals[:, 2] < 0, 1, -1).astype(np.int32)
        depth[alive] += enters[:, None] * (axes[2][None] > at[:, None])
        origins[alive, 2] = at + hair
    return depth.reshape(len(axes[0]), len(axes[1]), -1) > 0


def _spread(skin: Skin, apart: float) -> Floats:
    """Places all over the triangles of a body, none further than `apart` from the next: in rows along the
    longest side of each, however thin it is."""
    t = skin.points[skin.triangles]
    sides = np.linalg.norm(t - np.roll(t, 1, axis=1), axis=2)
    # The longest side leads from the first corner to the second.
    turn = (np.argmax(sides, axis=1)[:, None] + np.array([2, 3, 4])) % 3
    t = np.take_along_axis(t, turn[:, :, None], axis=1)
    base = sides.max(axis=1)
    area = np.linalg.norm(np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]), axis=1)
    height = area / np.where(base > 0, base, 1.0)
    counts = np.maximum(np.ceil(np.stack([base, height], axis=1) / apart).astype(int), 1)
    kinds, which = np.unique(counts, axis=0, return_inverse=True)
    found = []
    for k, (along, rows) in enumerate(kinds):
        up = np.repeat(np.arange(rows + 1) / rows, along + 1)
        on = np.tile(np.arange(along + 1) / along, rows + 1)
        shares = np.stack([(1 - up) * (1 - on), (1 - up) * on, up], axis=1)
        found.append(np.einsum("pk,tkc->tpc", shares, t[which == k]).reshape(-1, 3))
    return np.concatenate(found)


def envelope(
    skins: Sequence[Skin],
    at: At,
    start: float,
    end: float,
    frames: int,
    *,
    fine: float = 0.0,
    progress: Callable[[float, str], None] = lambda share, stage: None,
) -> Envelope:
    """The room bodies take up while a motion goes from one value to another, looked at in `frames` steps
    and between them as often as it takes; `fine` (mm) is the grid, chosen by the size when it is 0.
    Raises BadInput for what is too large for the grid asked for."""
    first = [at(float(v)) for v in np.linspace(start, end, frames + 1)]
    low, high = _room(skins, first)
    size = high - low
    step = fine or max(float(np.prod(size) / _USUAL) ** (1 / 3), float(size.max()) / _ALONG)
    reach = 3 * step
    low, high = low - reach, high + reach
    shape = np.ceil((high - low) / step).astype(int) + 1
    if np.prod(shape.astype(float)) > _MOST:
        raise BadInput(
            f"a grid of {fine:g} mm over {', '.join(f'{v:.0f}' for v in high - low)} mm is too fine: "
            f"from {float(np.prod(high - low) / (_MOST)) ** (1 / 3):.2g} mm on it can be looked at"
        )
    stands = _between(skins, at, start, end, frames, step)
    owns = [_Own(skin, 0.8 * step, reach) for skin in skins]
    field = np.full(shape, 2 * reach, dtype=np.float32)
    for k, (_, poses) in enumerate(stands):
        if k % 8 == 0:
            progress(0.8 * k / len(stands), f"stand {k + 1} of {len(stands)}")
        for own, pose in zip(owns, poses, strict=True):
            _lower(field, low, step, own, pose)
    went = max((_gone(skins, a[1], b[1]) for a, b in pairwise(stands)), default=0.0)
    # Half of what it goes between stands, what triangles may lie off, and what grids do not tell.
    level = 0.5 * went + max(s.deflection for s in skins) + 0.1 * step
    dice = np.random.default_rng(7)
    values = np.sort(dice.uniform(start, end, _TIMES))
    seen = np.concatenate([_seen(skins, at(float(v)), dice) for v in values])
    for _ in range(_ROUNDS):
        mesh = _simple(Triangles(*level_surface(field, low, step, level)), step)
        out = _outside(mesh, seen)
        progress(0.95, "asked at other times")
        if out <= 0.0:
            break
        level += out + 0.02 * step
    else:
        raise BadInput(f"the room it takes up cannot be had to {out:.2g} mm: ask with a finer grid")
    grid = scipy.ndimage.map_coordinates(
        field, ((mesh.points - low) / step).T, order=1, mode="nearest"
    )
    return Envelope(
        mesh,
        _volume(mesh),
        float(grid.max()) + max(s.deflection for s in skins),
        len(stands),
        len(seen),
    )


def _simple(mesh: Triangles, step: float) -> Triangles:
    """A closed surface with few triangles, moved by no more than that takes (a share of `step`), without
    bubbles no wider than the grid."""
    whole = Manifold(Mesh64(mesh.points, mesh.corners.astype(np.uint64)))
    parts = [p for p in whole.decompose() if abs(p.volume()) > (2 * step) ** 3]
    whole = Manifold.compose(parts) if len(parts) > 1 else parts[0] if parts else whole
    made = whole
    for share in (0.05, 0.1, 0.15, 0.2, 0.3, 0.4, 0.6, 0.8):
        made = whole.simplify(share * step)
        if made.num_tri() <= TRIANGLES:
            break
    else:
        raise BadInput("the room it takes up is too ragged for a body: ask with a coarser grid")
    found = made.to_mesh64()
    return Triangles(
        np.asarray(found.vert_properties[:, :3], dtype=float), found.tri_verts.astype(np.int64)
    )


def _corners(skin: Skin) -> Floats:
    low, high = skin.points.min(axis=0), skin.points.max(axis=0)
    return np.array([[(low, high)[i >> k & 1][k] for k in range(3)] for i in range(8)])


def _room(skins: Sequence[Skin], stands: Sequence[Sequence[Pose]]) -> tuple[Floats, Floats]:
    """The box of all corners of the bodies' boxes at all stands."""
    every = np.concatenate([
        _corners(skin) @ pose.rotation.T + pose.p
        for poses in stands for skin, pose in zip(skins, poses, strict=True)
    ])  # fmt: skip
    return every.min(axis=0), every.max(axis=0)


def _gone(skins: Sequence[Skin], a: Sequence[Pose], b: Sequence[Pose]) -> float:
    """How far the corners of the bodies' boxes go from one stand to another (mm): all else goes less."""
    return max(
        float(np.linalg.norm(
            _corners(s) @ (p.rotation - q.rotation).T + (p.p - q.p), axis=1
        ).max())
        for s, p, q in zip(skins, a, b, strict=True)
    )  # fmt: skip


def _between(
    skins: Sequence[Skin], at: At, start: float, end: float, frames: int, step: float
) -> list[tuple[float, Sequence[Pose]]]:
    """Stands so near to each other that nothing goes further than `step` from one to the next."""
    values = np.linspace(start, end, frames + 1)
    found: list[tuple[float, Sequence[Pose]]] = []
    here = at(float(values[0]))
    found.append((float(values[0]), here))
    for v in values[1:]:
        there = at(float(v))
        many = max(1, math.ceil(_gone(skins, here, there) / step))
        if len(found) + many > _STANDS:
            raise BadInput(
                "it goes too far to be looked at all through: shorten the motion, or ask with a "
                "coarser grid"
            )
        before = found[-1][0]
        found += [
            (x, at(x)) for x in (before + (float(v) - before) * k / many for k in range(1, many))
        ]
        found.append((float(v), there))
        here = there
    return found


def _lower(field: NDArray[np.float32], low: Floats, step: float, own: _Own, pose: Pose) -> None:
    """Keep the least of what is known and the distance from a body where it stands."""
    r = pose.rotation
    middle, half = (own.low + own.high) / 2, (own.high - own.low) / 2
    centre, wide = r @ middle + pose.p, np.abs(r) @ half
    shape = np.array(field.shape)
    first = np.clip(np.floor((centre - wide - low) / step).astype(int), 0, shape)
    last = np.clip(np.ceil((centre + wide - low) / step).astype(int) + 1, 0, shape)
    axes = [low[k] + step * np.arange(first[k], last[k]) for k in range(3)]
    if any(len(a) == 0 for a in axes):
        return
    part = field[tuple(slice(a, b) for a, b in zip(first, last, strict=True))]
    # What lies inside already by more than the grid's step says no more about the surface.
    some = np.nonzero(part > -step)
    grid = np.stack([a[i] for a, i in zip(axes, some, strict=True)], axis=1)
    part[some] = np.minimum(part[some], own.at((grid - pose.p) @ r))


def _seen(skins: Sequence[Skin], poses: Sequence[Pose], dice: np.random.Generator) -> Floats:
    """Places of the bodies at one stand: corners of triangles, and places on them by their size."""
    found = []
    for skin, pose in zip(skins, poses, strict=True):
        t = skin.points[skin.triangles]
        size = np.linalg.norm(np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]), axis=1)
        which = dice.choice(len(t), _PLACES // 2, p=size / size.sum())
        shares = dice.dirichlet((1.0, 1.0, 1.0), _PLACES // 2)
        places = np.einsum("pk,pkc->pc", shares, t[which])
        corners = skin.points[dice.integers(0, len(skin.points), _PLACES // 2)]
        found.append(np.concatenate([places, corners]) @ pose.rotation.T + pose.p)
    return np.concatenate(found)


def _outside(mesh: Triangles, places: Floats) -> float:
    """How far the worst of some places lies outside a closed mesh (mm), by rays; 0 where none does."""
    rays = Rays(mesh.points, mesh.corners.astype(np.int32))
    # A ray may slip through along an edge: who sees the inside of a wall in two of three ways is inside.
    votes = np.zeros(len(places), dtype=int)
    for way in ((0.31, 0.52, 0.79), (-0.61, 0.23, -0.75), (0.43, -0.87, 0.21)):
        w = np.array(way) / np.linalg.norm(way)
        _, met, normals = rays.first(places, np.tile(w, (len(places), 1)))
        votes += (met >= 0) & (normals @ w > 0)
    out = votes < 2
    if not out.any():
        return 0.0
    skin = Skin(mesh.points, mesh.corners.astype(np.int32), 0.0)
    tree = scipy.spatial.cKDTree(_spread(skin, 0.25 * _edge(mesh)))
    far, _ = tree.query(places[out])
    return float(np.max(far))


def _edge(mesh: Triangles) -> float:
    t = mesh.points[mesh.corners]
    return float(np.median(np.linalg.norm(t - np.roll(t, 1, axis=1), axis=2)))


def _volume(mesh: Triangles) -> float:
    t = mesh.points[mesh.corners]
    return float(np.einsum("ij,ij->i", t[:, 0], np.cross(t[:, 1], t[:, 2])).sum() / 6)
