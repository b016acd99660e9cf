"""Whether closed skins of triangles pass through themselves or lie in each other."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from vireo.core.triangles.rays import Floats, Ints, Rays

#: Relative to the size: what single precision of the rays leaves open.
_HAIR = 2e-6
#: How often a ray that met a neighbour goes on.
_ROUNDS = 12


@dataclass(frozen=True)
class Meeting:
    """A place (mm) where skins meet that should not, and how: `through` each other, or one
    `within` another although both are material."""

    at: tuple[float, float, float]
    how: Literal["through", "within"]


def welded(points: Floats, triangles: Ints, within: float = 1e-7) -> tuple[Floats, Ints]:
    """Points that are one within a distance (mm) made one; triangles without area left out."""
    _, first, index = np.unique(
        np.round(points / within).astype(np.int64), axis=0, return_index=True, return_inverse=True
    )
    t = index.reshape(-1)[triangles].astype(np.int32)
    whole = (t[:, 0] != t[:, 1]) & (t[:, 1] != t[:, 2]) & (t[:, 2] != t[:, 0])
    return points[first], t[whole]


def meetings(points: Floats, triangles: Ints, most: int = 8) -> list[Meeting]:
    """Where welded triangles of closed skins go through each other, or a skin lies in another.

    Every edge is shot as a ray: where it meets a triangle that shares none of its ends on its
    way, skins go through each other. Of skins that do not, each is asked how often a place on it
    lies in the others: material belongs in none, a void in one.
    """
    if len(triangles) == 0:
        return []
    rays = Rays(points, triangles)
    found = _through(points, triangles, rays, most)
    return found or _within(points, triangles, rays, most)


def crossing(points: Floats, triangles: Ints, most: int = 8) -> list[Meeting]:
    """Where welded triangles go through each other, of closed skins or open ones."""
    return _through(points, triangles, Rays(points, triangles), most) if len(triangles) else []


def _through(points: Floats, triangles: Ints, rays: Rays, most: int) -> list[Meeting]:
    pairs = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    edges = np.unique(np.sort(pairs, axis=1), axis=0)
    a, b = points[edges[:, 0]], points[edges[:, 1]]
    length = np.linalg.norm(b - a, axis=1)
    hair = _HAIR * rays.size
    edges, a, b, length = (x[length > 8 * hair] for x in (edges, a, b, length))
    way = (b - a) / length[:, None]
    done = np.full(len(edges), 2 * hair)
    live = np.arange(len(edges))
    found: list[Meeting] = []
    for _ in range(_ROUNDS):
        if not len(live) or len(found) >= most:
            break
        far, hit, _ = rays.first(a[live] + done[live, None] * way[live], way[live])
        far = far + done[live]
        on = far < length[live] - 2 * hair
        live, far, hit = live[on], far[on], hit[on]
        shared = (triangles[hit][:, :, None] == edges[live][:, None, :]).any(axis=(1, 2))
        clear = ~shared & _well_inside(points[triangles[hit]], a[live] + far[:, None] * way[live])
        found += [
            Meeting(_three(a[i] + t * way[i]), "through")
            for i, t in zip(live[clear], far[clear], strict=True)
        ]
        done[live] = far + 2 * hair
        live = live[~clear]
    return found[:most]


def _well_inside(corners: Floats, at: Floats) -> NDArray[np.bool_]:
    """Whether places in triangles lie clear of their borders: what meets a border may only
    touch. Flat or tiny triangles never count."""
    sides = [(corners[:, k], corners[:, (k + 1) % 3]) for k in range(3)]
    double = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(double, axis=1)
    shares = [
        np.einsum("ij,ij->i", np.cross(q - p, at - p), double) / np.maximum(area * area, 1e-300)
        for p, q in sides
    ]
    return np.asarray((area > 1e-12) & (np.min(shares, axis=0) > 1e-3))


def _within(points: Floats, triangles: Ints, rays: Rays, most: int) -> list[Meeting]:
    skins = parts_of(len(points), triangles)
    if len(skins) < 2:
        return []
    owner = np.empty(len(triangles), dtype=np.int32)
    for k, s in enumerate(skins):
        owner[s] = k
    found = []
    for k, s in enumerate(skins):
        corners = points[triangles[s]]
        volume = float(np.einsum("ij,ij->", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])))
        area = np.linalg.norm(
            np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1
        )
        at = corners[int(np.argmax(area))].mean(axis=0)
        depths = [_depth(at, way, k, owner, rays) for way in _WAYS]
        depth = sorted(depths)[1]  # two of three agree
        if depth != (0 if volume > 0 else 1):
            found.append(Meeting(_three(at), "within"))
    return found[:most]


_WAYS = np.array([[0.36, 0.48, 0.8], [-0.6, 0.64, 0.48], [0.48, -0.6, -0.64]])


def _depth(at: Floats, way: Floats, skin: int, owner: Ints, rays: Rays) -> int:
    """In how many of the other skins a place lies, by what a ray goes out of and into."""
    depth, done, hair = 0, 0.0, _HAIR * rays.size
    for _ in range(500):
        far, hit, normal = rays.first((at + done * way)[None, :], way[None, :])
        if hit[0] < 0:
            return depth
        if owner[hit[0]] != skin:
            depth += 1 if float(normal[0] @ way) > 0 else -1
        done += float(far[0]) + 2 * hair
    return depth


def parts_of(count: int, triangles: Ints) -> list[Ints]:
    """Triangles that hang together by points, as lists of their numbers."""
    i = np.concatenate([triangles[:, 0], triangles[:, 1]])
    j = np.concatenate([triangles[:, 1], triangles[:, 2]])
    graph = coo_matrix((np.ones(len(i)), (i, j)), shape=(count, count))
    _, label = connected_components(graph, directed=False)
    own = label[triangles[:, 0]]
    return [np.flatnonzero(own == k).astype(np.int32) for k in np.unique(own)]


def _three(p: Floats) -> tuple[float, float, float]:
    return (float(p[0]), float(p[1]), float(p[2]))
