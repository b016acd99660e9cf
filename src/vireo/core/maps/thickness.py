"""Wall thickness: how far it is straight through from every place of the skin."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from vireo.core.geometry import Triple
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.locate import ahead, foot_on, within
from vireo.core.kernel.mesh import tessellate
from vireo.core.kernel.shape import Body
from vireo.core.maps.kind import FieldMap, Floats, Ints, MapKind, Place, add
from vireo.core.maps.sampling import Samples, sampled
from vireo.core.triangles.rays import Rays

#: A wall is what lies between faces that look away from each other within this angle: a ray that
#: leaves through the side of a block has crossed a corner, no wall; nor is the crest of a 60
#: degree thread one.
_FACING = math.cos(math.radians(45.0))
#: Faces that meet in an edge and lean towards each other by more than this make a sharp edge:
#: beside it they come as near each other as one likes, and are no thin wall.
_SHARP = math.cos(math.radians(20.0))
_MOST_PLACES = 8
#: How often a foot is taken on one and the other of two faces.
_MOST_FEET = 200


def thickness(body: Body, way: Triple = (0.0, 0.0, 1.0)) -> FieldMap:
    """Thickness in mm at every place, NaN where no face looks the other way across.

    Rays run inwards along the normal to the first face they meet. The thinnest places, one for
    each stretch of wall, are then measured on the true faces; they come thinnest first. Places
    beside a sharp edge are none of them, though they have their value.
    """
    mesh = tessellate(body)
    found = sampled(mesh)
    rays = Rays(mesh.points, mesh.triangles)
    starts = found.inset()
    inwards = -found.normals
    far, met, normals = rays.first(starts + 1e-5 * rays.size * inwards, inwards)
    far += 1e-5 * rays.size
    facing = np.einsum("ij,ij->i", normals, inwards)
    wall = np.isfinite(far) & (facing >= _FACING)
    values = np.where(wall, far, np.nan)
    across = (np.searchsorted(mesh.face_starts, met, side="right") - 1).astype(np.int32)
    meet = _meeting(body, found.face_of_point(), across)
    edge = (facing < _SHARP) & meet
    # Faces that meet come together without end: where such a wall is thinnest is at its edge.
    opposite = np.where(meet, -1, across)
    places = _thinnest(body, found, starts, np.where(edge, np.nan, values), opposite)
    least = places[0].value if places else None
    return FieldMap(
        found.points, found.normals, found.triangles, values[:, None], places,
        {"least": least, "most": float(np.nanmax(values)) if wall.any() else None,
         "spacing": found.spacing, "unit": "mm"},
    )  # fmt: skip


def _meeting(body: Body, some: Ints, others: Ints) -> NDArray[np.bool_]:
    """Whether pairs of faces, by index, share an edge."""
    count = len(body.names)
    shared = {a * count + b for faces in body.edge_faces for a in faces for b in faces if a != b}
    return np.isin(some.astype(np.int64) * count + others, sorted(shared))


def _thinnest(
    body: Body, found: Samples, starts: Floats, values: Floats, opposite: Ints
) -> tuple[Place, ...]:
    """The thinnest places, away from each other, measured on the true faces and followed to where they
    are thinnest; `opposite` is the face across, or -1 where that is not to be followed."""
    face_of: Ints = found.face_of_point()
    order = np.argsort(values)
    order = order[~np.isnan(values[order])]
    if not len(order):
        return ()
    places: list[Place] = []
    taken = np.zeros(len(values), dtype=bool)
    seen: set[int] = set()
    for i in order[: 200 * _MOST_PLACES]:
        if taken[i] or int(face_of[i]) in seen:
            continue
        seen.add(int(face_of[i]))
        at = (float(starts[i, 0]), float(starts[i, 1]), float(starts[i, 2]))
        place = _measured(body, int(face_of[i]), at, float(values[i])) or _as_meshed(
            at, found.normals[i], values[i]
        )
        if opposite[i] >= 0:
            place = _followed(body, int(face_of[i]), int(opposite[i]), place)
        away = max(3.0 * float(values[i]), 4.0 * found.spacing)
        taken |= np.linalg.norm(starts - starts[i], axis=1) < away
        if place.to is not None:
            taken |= np.linalg.norm(starts - np.array(place.to), axis=1) < away
        places.append(place)
        if len(places) == _MOST_PLACES:
            break
    return tuple(sorted(places, key=lambda p: p.value))


def _measured(body: Body, face: int, near: Triple, about: float) -> Place | None:
    """Thickness at a place on the true faces; None when no line runs through there or what it
    finds is not the wall the mesh saw."""
    try:
        at, n = foot_on(body.faces[face], near)
    except KernelTrouble:
        return None
    inwards = (-n[0], -n[1], -n[2])
    # The foot on a free face is good to some micrometres: the face itself is not met again.
    through = ahead(body.shape, at, inwards, 0.5 * about)
    if through is None or through > 1.5 * about:
        return None
    to = (at[0] - through * n[0], at[1] - through * n[1], at[2] - through * n[2])
    return Place(through, at, to)


def _followed(body: Body, face: int, across: int, place: Place) -> Place:
    """The place nearby where two faces are nearest to each other: by feet on one and the other in turn, as
    far as those lie on the faces and the way between runs through the material."""
    one, other = body.faces[face], body.faces[across]
    found = place
    try:
        for _ in range(_MOST_FEET):
            to, _ = foot_on(other, found.at)
            if not within(other, to):
                break
            at, _ = foot_on(one, to)
            apart = math.dist(at, to)
            if not within(one, at) or not 0.5 * place.value < apart < found.value - 1e-10:
                break
            found = Place(apart, at, to)
        if found is place or found.to is None:
            return place
        way = tuple((b - a) / found.value for a, b in zip(found.at, found.to, strict=True))
        through = ahead(body.shape, found.at, way, 0.5 * found.value)  # type: ignore[arg-type]
    except KernelTrouble:
        return place
    return found if through is not None and abs(through - found.value) < 1e-6 else place


def _as_meshed(at: Triple, n: Floats, value: float) -> Place:
    to = (at[0] - value * n[0], at[1] - value * n[1], at[2] - value * n[2])
    return Place(float(value), at, (float(to[0]), float(to[1]), float(to[2])))


add(MapKind("thickness", "How far it is straight through the wall", thickness))
