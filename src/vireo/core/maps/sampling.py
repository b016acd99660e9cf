"""Triangles small enough to carry values: long ones are halved until they are."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vireo.core.kernel.mesh import Mesh
from vireo.core.maps.kind import Floats, Ints

#: About how many triangles a map is made of.
MANY = 40_000


@dataclass(frozen=True)
class Samples:
    """Places on a skin: `faces` (m,) tells which face a triangle belongs to; no triangle is
    longer than `spacing` (mm) on its way along a face unless the mesh was finer already."""

    points: Floats
    normals: Floats
    triangles: Ints
    faces: Ints
    spacing: float

    def inset(self, share: float = 0.02) -> Floats:
        """Points drawn a little towards the middle of their triangles: off the edges of faces,
        where a ray along the next face would be neither in nor out."""
        middle = self.points[self.triangles].mean(axis=1)
        total = np.zeros_like(self.points)
        count = np.zeros(len(self.points))
        for k in range(3):
            np.add.at(total, self.triangles[:, k], middle)
            np.add.at(count, self.triangles[:, k], 1.0)
        near = total / np.maximum(count, 1.0)[:, None]
        return self.points + share * (near - self.points)

    def face_of_point(self) -> Ints:
        """The face each point lies on; points are not shared between faces."""
        found = np.zeros(len(self.points), dtype=np.int32)
        found[self.triangles.ravel()] = np.repeat(self.faces, 3)
        return found


def sampled(mesh: Mesh, many: int = MANY) -> Samples:
    """A mesh with its long triangles halved across their longest side, about `many` in all."""
    points, normals = mesh.points, mesh.normals
    triangles = mesh.triangles
    each = np.arange(len(mesh.face_starts) - 1, dtype=np.int32)
    faces: Ints = np.repeat(each, np.diff(mesh.face_starts))
    a, b, c = (points[triangles[:, k]] for k in range(3))
    area = 0.5 * float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum())
    # Halved triangles end up near right-angled ones with legs of the spacing; long strips along
    # round faces end up narrower and are many more, so the spacing is come to from above.
    spacing = 8.0 * float(np.sqrt(4.0 * area / many))
    for _ in range(4):
        points, normals, triangles, faces = _halved(points, normals, triangles, faces, spacing)
        if len(triangles) > many:
            break
        spacing /= 2.0
    order = np.argsort(faces, kind="stable")
    return Samples(points, normals, triangles[order], faces[order].astype(np.int32), spacing)


def _halved(
    points: Floats, normals: Floats, triangles: Ints, faces: Ints, longest: float
) -> tuple[Floats, Floats, Ints, Ints]:
    """Triangles halved across their longest side until none is longer (mm)."""
    for _ in range(40):
        corners = points[triangles]
        sides = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2)
        k = sides.argmax(axis=1)
        split = np.flatnonzero(sides[np.arange(len(sides)), k] > longest)
        if not len(split):
            break
        k = k[split]
        p, q = triangles[split, k], triangles[split, (k + 1) % 3]
        r = triangles[split, (k + 2) % 3]
        new = np.arange(len(split), dtype=np.int32) + len(points)
        points = np.concatenate([points, 0.5 * (points[p] + points[q])])
        n = normals[p] + normals[q]
        n /= np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-12)
        normals = np.concatenate([normals, n])
        kept = np.delete(triangles, split, axis=0)
        halves = np.concatenate([np.stack([p, new, r], 1), np.stack([new, q, r], 1)])
        faces = np.concatenate([np.delete(faces, split), faces[split], faces[split]])
        triangles = np.concatenate([kept, halves]).astype(np.int32)
    return points, normals, triangles, faces
