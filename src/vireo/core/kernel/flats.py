"""What two solids of flat faces share, by their triangles: those are their very faces, so that this is
exact, and another way than the kernel's own; faces that nearly lie in each other do not trouble it,
and thousands of them are no matter."""

from __future__ import annotations

import numpy as np
from manifold3d import Error, Manifold, Mesh64
from numpy.typing import NDArray

from vireo.core.geometry import Vector, triple
from vireo.core.kernel.mesh import Mesh
from vireo.core.kernel.overlap import (
    FATTER,
    HAIR,
    Deepest,
    Overlap,
    Place,
    Stand,
    climbed,
    fattest,
    out_of,
    stands,
)
from vireo.core.kernel.shape import Body

#: At most so many places of the overlap's skin are asked how deep they lie.
_PLACES = 1500
#: About so many lie within its triangles, evenly, however few those are.
_EVENLY = 400


class FlatSolid:
    """A solid whose faces are all flat as its triangles, each knowing its face by number; twice over,
    to be told apart in an overlap of equals."""

    def __init__(self, mesh: Mesh) -> None:
        faces = np.repeat(np.arange(len(mesh.face_starts) - 1), np.diff(mesh.face_starts))
        start = Manifold.reserve_ids(2)
        self.ids = (start, start + 1)
        self.first, self.second = (_closed(mesh, faces.astype(np.uint64), id) for id in self.ids)

    def closed(self, volume: float) -> bool:
        """Whether the triangles close round the volume (mm3) the solid is known to have."""
        if self.first.status() != Error.NoError:
            return False
        return bool(abs(self.first.volume() - volume) <= 1e-6 * volume)


def _closed(mesh: Mesh, faces: NDArray[np.uint64], id: int) -> Manifold:
    made = Mesh64(
        np.ascontiguousarray(mesh.points, dtype=np.float64),
        np.ascontiguousarray(mesh.triangles, dtype=np.uint64),
        run_index=np.array([0, 3 * len(mesh.triangles)], dtype=np.uint64),
        run_original_id=np.array([id], dtype=np.uint32),
        face_id=faces,
        tolerance=HAIR,
    )
    made.merge()
    return Manifold(made)


def shared_by_flats(
    a: Body, b: Body, first: FlatSolid, second: FlatSolid, rotation: Vector, position: Vector
) -> Overlap | None:
    """The overlap of two solids of flat faces, `b` turned and moved; None where they share no volume."""
    both = first.first ^ second.second.transform(np.column_stack([rotation, position]))
    volume = both.volume()
    if both.is_empty() or volume <= 0.0:
        return None
    mesh = both.to_mesh64()
    points = np.asarray(mesh.vert_properties)[:, :3]
    corners = np.asarray(mesh.tri_verts).astype(np.int64)
    faces = np.asarray(mesh.face_id).astype(np.int64)
    ids, starts = np.asarray(mesh.run_original_id), np.asarray(mesh.run_index) // 3
    of_run = np.repeat(ids, np.diff(starts).astype(np.int64))
    mine, theirs = stands(a, b, rotation, position)
    low, high = points.min(axis=0), points.max(axis=0)
    size = float(np.linalg.norm(high - low))
    names: list[tuple[str, ...]] = []
    deep = Deepest(0.0, triple(0.5 * (low + high)), (0.0, 0.0, 0.0))
    for own, other, id in ((mine, theirs, first.ids[0]), (theirs, mine, second.ids[1])):
        of = np.flatnonzero(of_run == id)
        names.append(tuple(sorted({own.names[k] for k in np.unique(faces[of])})))
        if len(of):
            found = _deepest(points, corners[of], own, other, size)
            told = out_of(found, own is theirs)
            deep = told if told.depth > deep.depth else deep
    thick = 2 * volume / both.surface_area()
    if thick > FATTER * deep.depth:
        middle = 0.5 * (low + high)
        deep = fattest(mine, theirs, [middle, np.array(deep.at)], thick) or deep
    inner = triple(_inner(points[corners]))
    return Overlap(volume, deep.depth, deep.at, deep.way, names[0], names[1], inner)


def _deepest(
    points: Vector, corners: NDArray[np.int64], own: Stand, other: Stand, size: float
) -> Place:
    """The deepest place of a solid's skin in the other, from triangles of the overlap on it."""
    places = np.concatenate([points[np.unique(corners)], _within(points[corners])])
    start = max(other.depths(places[:: -(-len(places) // _PLACES)]), key=lambda d: d.depth)

    def held(p: Vector) -> Vector:
        return own.out(own.solid.nearest(own.own(p))[1][0])

    def depths(points: Vector) -> list[Place]:
        return [d if other.inside(d.p) else Place(d.p, 0.0, d.p) for d in other.depths(points)]

    return climbed(start, size / 12, held, depths)


def _within(triangles: Vector) -> Vector:
    """Places within triangles (n, 3, 3), evenly over all of them and one in each."""
    area = np.linalg.norm(
        np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]), axis=1
    )
    across = np.clip(np.ceil(np.sqrt(area / area.sum() * _EVENLY)), 1, 40).astype(int)
    found = []
    for n in np.unique(across):
        of = triangles[across == n]
        shares = [((i + 1 / 3) / n, (j + 1 / 3) / n) for i in range(n) for j in range(n - i)]
        found += [
            of[:, 0] + s * (of[:, 1] - of[:, 0]) + t * (of[:, 2] - of[:, 0]) for s, t in shares
        ]
    return np.concatenate(found)


def _inner(triangles: Vector) -> Vector:
    """A place inside a closed surface: half way from its largest triangle to what is behind that."""
    across = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    k = int(np.argmax(np.einsum("ij,ij->i", across, across)))
    at, way = triangles[k].mean(axis=0), -across[k] / np.linalg.norm(across[k])
    # Where a line meets triangles: Moeller and Trumbore 1997.
    one, two = triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
    p = np.cross(way, two)
    det = np.einsum("ij,ij->i", one, p)
    with np.errstate(divide="ignore", invalid="ignore"):
        to = at - triangles[:, 0]
        u = np.einsum("ij,ij->i", to, p) / det
        q = np.cross(to, one)
        v = q @ way / det
        far = np.einsum("ij,ij->i", two, q) / det
        met = (u >= 0) & (v >= 0) & (u + v <= 1) & np.isfinite(far)
    met[k] = False
    behind = far[met & (far > 0)]
    return np.asarray(at + (0.5 * behind.min() if len(behind) else 0.0) * way)
