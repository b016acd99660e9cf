"""Faces of two solids that lie almost, but not within the kernel's tolerance, in each other: there
its common solid is known to be silently wrong."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vireo.core.assembly.pose import Floats, Pose
from vireo.core.naming import Topology

#: Faces that lean by less (rad) and lie nearer (mm) than these are nearly in each other; those that
#: do by less than the others are wholly.
LEANS, LIES = 0.03, 0.06
_EXACT_LEAN, _EXACT_LIE = 1e-9, 3e-7


@dataclass(frozen=True)
class _Kind:
    """All faces of one kind: their numbers, a place, a direction, a radius (nan: none)."""

    faces: NDArray[np.int64]
    at: Floats
    middle: Floats
    way: Floats
    radius: Floats


class Shapes:
    """The faces of a solid by kind, for many questions."""

    def __init__(self, topology: Topology) -> None:
        self.kinds: dict[str, _Kind] = {}
        by: dict[str, list[int]] = {}
        for i, f in enumerate(topology.faces):
            by.setdefault(f.kind, []).append(i)
        for kind, faces in by.items():
            infos = [topology.faces[i] for i in faces]
            self.kinds[kind] = _Kind(
                np.array(faces),
                np.array([f.origin for f in infos], dtype=float),
                np.array([f.at for f in infos], dtype=float),
                np.array([f.direction or (0.0, 0.0, 0.0) for f in infos], dtype=float),
                np.array([f.radius if f.radius is not None else np.nan for f in infos]),
            )


def nearly_together(a: Shapes, b: Shapes, relative: Pose) -> list[tuple[int, int]]:
    """Pairs of faces, by number, of one kind and nearly but not wholly in each other; free ones with
    every free one, for nothing is known of those. `b` stands at `relative` to `a`."""
    found: list[tuple[int, int]] = []
    r, p = relative.rotation, relative.p
    for kind in a.kinds.keys() & b.kinds.keys():
        one, two = a.kinds[kind], b.kinds[kind]
        at, way, middle = two.at @ r.T + p, two.way @ r.T, two.middle @ r.T + p
        lean = np.linalg.norm(np.cross(one.way[:, None], way[None]), axis=2)
        between = at[None] - one.at[:, None]
        if kind == "plane":
            to = one.middle[:, None] - at[None]
            lie = np.minimum(
                np.abs(np.einsum("ijk,ik->ij", middle[None] - one.at[:, None], one.way)),
                np.abs(np.einsum("ijk,jk->ij", to, way)),
            )
        elif kind in ("cylinder", "cone"):
            along = np.einsum("ijk,ik->ij", between, one.way)
            lie = np.linalg.norm(between - along[..., None] * one.way[:, None], axis=2)
            if kind == "cylinder":
                # Lines that lean pass each other nearest where the shorter of the faces is.
                own = middle[None] - one.at[:, None]
                along = np.einsum("ijk,ik->ij", own, one.way)
                here = np.linalg.norm(own - along[..., None] * one.way[:, None], axis=2)
                lie = np.minimum(lie, here)
        else:
            lie = np.linalg.norm(between, axis=2)
        near = (lean < LEANS) & (lie < LIES)
        wholly = (lean < _EXACT_LEAN) & (lie < _EXACT_LIE)
        if kind in ("cylinder", "sphere", "torus"):
            apart = np.abs(one.radius[:, None] - two.radius[None])
            near &= apart < LIES
            # On one axis to the last: bores and pins of other sizes are told apart rightly, of all
            # but the same size not.
            wholly &= (apart < _EXACT_LIE) | (apart > 1e-3)
        elif kind == "plane":
            wholly |= (lean < _EXACT_LEAN) & (lie > 1e-5)
        if kind == "freeform":
            near, wholly = np.ones_like(near), np.zeros_like(wholly)
        i, j = np.nonzero(near & ~wholly)
        found += zip(one.faces[i].tolist(), two.faces[j].tolist(), strict=True)
    return found
