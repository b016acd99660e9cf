"""Pictures of what kinds of steps do, drawn from a sample part they are tried on."""

from __future__ import annotations

import numpy as np

from vireo.core.geometry import Frame
from vireo.core.kernel.measure import topology_of
from vireo.core.kernel.mesh import tessellate
from vireo.core.kernel.shape import Body
from vireo.core.part.cache import Cache
from vireo.core.part.datum import Datum
from vireo.core.part.products.datum import DATUMS
from vireo.core.samples.ways import ground, ways
from vireo.core.thumbnail import Drawn, draw

_PLAIN, _NEW = "#c9d2cc", "#5fae84"


def picture(kind: str) -> str | None:
    """An SVG of a sample part after a step of the kind, its work in green; None for kinds
    without a sample."""
    given = ways().get(kind)
    if given is None:
        return None
    # Its own cache: the shared one may have let bodies go whose records it still has.
    m = ground(Cache())
    before = m.build()
    step = m.step(kind, **given[0])
    after = m.build()
    changed = [
        id
        for id, b in after.bodies.items()
        if id not in before.bodies or before.bodies[id]["key"] != b["key"]
    ]
    datum = next((s.made(DATUMS) for s in after.steps if s.id == step), None)
    drawn: list[Drawn] = []
    for id in changed or ["b_s1"]:
        old = m.cache.body(before.bodies[id]["key"]) if id in before.bodies else None
        body = m.cache.body(after.bodies[id]["key"])
        drawn += _body(body, _worked_on(body, old) if changed else set())
    if datum is not None:
        drawn.append(_datum(datum))
    return draw(drawn, 360, 220)


def _worked_on(body: Body, old: Body | None) -> set[int]:
    """Faces a step made; where it made none, those it moved or changed."""
    if old is None:
        return set(range(len(body.names)))
    new = {i for i, n in enumerate(body.names) if n not in old.names}
    if new:
        return new
    were = {
        (f.name, round(f.area, 4), *(round(v, 4) for v in f.at)) for f in topology_of(old).faces
    }
    now = [
        (f.name, round(f.area, 4), *(round(v, 4) for v in f.at)) for f in topology_of(body).faces
    ]
    return {i for i, f in enumerate(now) if f not in were}


def _body(body: Body, new: set[int]) -> list[Drawn]:
    mesh = tessellate(body, angle=0.3)
    face = np.repeat(np.arange(len(mesh.face_starts) - 1), np.diff(mesh.face_starts))
    fresh = np.isin(face, sorted(new))
    lines = [
        mesh.edge_points[a:b]
        for a, b, faces in zip(
            mesh.edge_starts[:-1], mesh.edge_starts[1:], body.edge_faces, strict=True
        )
        if len(faces) > 1
    ]
    triangles = mesh.triangles.astype(np.int64)
    plain = Drawn(mesh.points, mesh.normals, triangles[~fresh], lines, _PLAIN)
    own = lines if fresh.all() else []
    worked = Drawn(mesh.points, mesh.normals, triangles[fresh], own, _NEW)
    return [worked] if fresh.all() else [plain, worked]


def _datum(datum: Datum) -> Drawn:
    """Lines that show where a plane, axis, point or frame lies."""
    frame: Frame = datum.frame
    o, x, y, z = (np.array(v) for v in (frame.origin, frame.x, frame.y, frame.z))
    r = 14.0
    square = [o + r * (a * x + b * y) for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1), (-1, -1))]
    lines = {
        "plane": [np.array(square)],
        "axis": [np.array([o - 2 * r * z, o + 2 * r * z])],
        "point": [np.array([o - 3 * v, o + 3 * v]) for v in (x, y, z)],
    }.get(datum.form, [np.array([o, o + r * v]) for v in (x, y, z)])
    points = np.concatenate(lines)
    none = np.zeros((0, 3), dtype=np.int64)
    return Drawn(points, np.zeros_like(points), none, lines, _NEW)
