"""What a share copy tells that it should not: asked of the file that was written."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import Any

import numpy as np
from scipy.spatial import cKDTree

from vireo.core.assembly.seats import Leaf
from vireo.core.exchange.steptext import strings
from vireo.core.geometry import Vector
from vireo.core.kernel.intake import read_shape
from vireo.core.kernel.measure import area_centre, area_of
from vireo.core.kernel.outer import shells_in
from vireo.core.kernel.shape import Body, faces_of, solids_of
from vireo.core.sharing.copy import Shared

#: Faces are the same when size (edge of a square) and middle agree so far (mm).
_SAME = 1e-3


def leaks(
    data: bytes, made: Shared, secrets: Iterable[str], load: Callable[[str], Body]
) -> list[str]:
    """What a written copy holds that outsiders are not to find: faces of what is hidden or closed,
    voids, names of what is left out, `secrets` (values of properties). Read off the file."""
    found = []
    shape = read_shape(data).shape
    there = _signs([(f, np.eye(3), np.zeros(3)) for f in faces_of(shape)])
    hidden = _faces(made.inner, load)
    allowed = _faces(made.outer, load) + [
        (f, p.rotation, p.position) for p in made.boxes for f in p.body.faces
    ]
    signs = _signs(hidden)
    shown = _matches(signs, there) - _matches(signs, _signs(allowed))
    for name, count in _counted([x.names[0] for x, _ in made.inner], [bool(n > 0) for n in shown]):
        found.append(f"{count} inner face{'s' * (count > 1)} of {name}")
    exact = {x.solid.key for x, _ in made.outer}
    voids = shells_in(shape) - len(solids_of(shape))
    meant = sum(
        shells_in(p.body.shape) - len(solids_of(p.body.shape))
        for p in made.placed
        if p.key in exact
    )
    if voids > meant:
        many = voids - meant > 1
        found.append(f"{voids - meant} void{'s' * many} inside {'solids' if many else 'a solid'}")
    text = {t.casefold() for t in strings(data)}
    for name in sorted(made.names):
        if name.casefold() in text:
            found.append(f"the name “{name}”")
    for secret in sorted({s for s in secrets if len(s) > 3}):
        if any(secret.casefold() in t for t in text):
            found.append(f"the property “{secret}”")
    return found


#: A face where it stands: a rotation, then a shift.
Face = tuple[Any, Vector, Vector]


def _faces(some: Sequence[tuple[Leaf, int]], load: Callable[[str], Body]) -> list[Face]:
    return [(load(x.solid.key).faces[k], x.pose.rotation, x.pose.p) for x, k in some]


def _signs(faces: Sequence[Face]) -> Vector:
    """Middle and size of faces where they stand: (n, 4) in mm."""
    rows = [
        [*(r @ np.asarray(area_centre(f)) + p), float(np.sqrt(area_of(f)))] for f, r, p in faces
    ]
    return np.array(rows).reshape(-1, 4)


def _matches(some: Vector, others: Vector) -> Vector:
    """How many of others are the same as each of some."""
    if not len(some) or not len(others):
        return np.zeros(len(some), dtype=int)
    found = cKDTree(others).query_ball_point(some, _SAME, return_length=True)
    return np.asarray(found)


def _counted(names: Sequence[str], which: Sequence[bool]) -> list[tuple[str, int]]:
    counts: dict[str, int] = {}
    for name, one in zip(names, which, strict=True):
        if one:
            counts[name] = counts.get(name, 0) + 1
    return list(counts.items())
