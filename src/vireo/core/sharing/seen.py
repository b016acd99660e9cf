"""How open faces lie: rays from places on them, against all there is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from vireo.core.kernel.mesh import Mesh
from vireo.core.triangles.rays import Floats, Rays

#: Places on a face, ways from each, and how many of all rays must get away.
_PLACES, _WAYS, _LEAST = 16, 48, 2


@dataclass(frozen=True)
class Standing:
    """A mesh where it stands: a 3x3 rotation, then a shift (mm)."""

    mesh: Mesh
    rotation: Floats
    position: Floats


def faces_seen(standing: Sequence[Standing], seed: int = 1) -> list[set[int]]:
    """For each mesh the faces, by index, of which some place can be seen from far away."""
    least = _LEAST / (_PLACES * 2 * _WAYS) - 1e-9
    return [set(np.flatnonzero(f >= least).tolist()) for f in openness(standing, seed)]


def openness(standing: Sequence[Standing], seed: int = 1) -> list[Floats]:
    """For each mesh, and each of its faces, the share of all ways out of it (over the half space on its
    outer side) that nothing is in."""
    if not standing:
        return []
    points = [s.mesh.points @ s.rotation.T + s.position for s in standing]
    starts = np.cumsum([0, *(len(p) for p in points)])
    triangles = np.concatenate(
        [s.mesh.triangles + start for s, start in zip(standing, starts, strict=False)]
    )
    rays = Rays(np.concatenate(points), triangles)
    random = np.random.default_rng(seed)
    sphere = _sphere(2 * _WAYS)
    return [_open(s.mesh, p, rays, sphere, random) for s, p in zip(standing, points, strict=True)]


def _open(
    mesh: Mesh, points: Floats, rays: Rays, sphere: Floats, random: np.random.Generator
) -> Floats:
    found = np.zeros(len(mesh.face_starts) - 1)
    for face in range(len(mesh.face_starts) - 1):
        tri = points[mesh.triangles[mesh.face_starts[face] : mesh.face_starts[face + 1]]]
        normals = np.cross(tri[:, 1] - tri[:, 0], tri[:, 2] - tri[:, 0])
        areas = np.linalg.norm(normals, axis=1)
        if not len(tri) or areas.sum() <= 0:
            continue
        chosen = random.choice(len(tri), _PLACES, p=areas / areas.sum())
        shares = random.dirichlet((1.0, 1.0, 1.0), _PLACES)
        at = np.einsum("ns,nsk->nk", shares, tri[chosen])
        out = normals[chosen] / areas[chosen, None]
        turn = np.linalg.qr(random.normal(size=(3, 3)))[0]
        ways = np.repeat((sphere @ turn.T)[None], _PLACES, axis=0)
        # All ways on the outer side of the face.
        ways *= np.sign(np.einsum("nwk,nk->nw", ways, out) + 1e-12)[..., None]
        start = at + (1e-2 + 1e-5 * rays.size) * out
        origins = np.repeat(start[:, None], ways.shape[1], axis=1)
        free = ~rays.blocked(origins.reshape(-1, 3), ways.reshape(-1, 3))
        found[face] = free.mean()
    return found


def _sphere(count: int) -> Floats:
    """Ways evenly spread over a sphere (a golden spiral)."""
    k = np.arange(count) + 0.5
    polar, turn = np.arccos(1 - 2 * k / count), np.pi * (1 + 5**0.5) * k
    return np.stack(
        [np.cos(turn) * np.sin(polar), np.sin(turn) * np.sin(polar), np.cos(polar)], axis=1
    )
