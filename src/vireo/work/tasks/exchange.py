"""Tasks that hand models over: STEP, STL, thumbnails."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

import numpy as np

from vireo.core.kernel.exchange import Placed, stl_bytes, write_step
from vireo.core.kernel.intake import form_of, read_shape
from vireo.core.kernel.mesh import tessellate
from vireo.core.kernel.shape import Body
from vireo.core.meshfile import read_mesh
from vireo.core.thumbnail import draw
from vireo.core.trouble import BadInput
from vireo.work.tasks.part import build_part, painted_faces
from vireo.work.worker import Bench, task


def placed_parts(bench: Bench, request: dict[str, Any]) -> list[Placed]:
    """All bodies of a part as they stand, with their names and colours."""
    found = build_part(bench, request)
    name = request["document"]["name"]
    if not found.bodies:
        raise BadInput("there is no body to hand over yet")
    one = len(found.bodies) == 1
    painted, _ = painted_faces(found, request)
    return [
        Placed(
            name if one else b["name"], bench.cache.body(b["key"]), b["colour"], np.eye(3),
            np.zeros(3), paints=painted.get(id, {}),
        )
        for id, b in found.bodies.items()
    ]  # fmt: skip


@task("part_step")
def part_step(bench: Bench, request: dict[str, Any]) -> bytes:
    """A part as a STEP file."""
    return step_file(request["document"]["name"], placed_parts(bench, request))


def step_file(name: str, parts: list[Placed]) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "out.step"
        write_step(name, parts, str(path))
        return path.read_bytes()


@task("part_stl")
def part_stl(bench: Bench, request: dict[str, Any]) -> bytes:
    """A part as binary STL with the chosen deviation in mm."""
    parts = placed_parts(bench, request)
    return stl_bytes([p.body for p in parts], request["deviation"])


@task("probe")
def probe(bench: Bench, request: dict[str, Any]) -> str:
    """The form of a file with shapes, once it was read whole. Raises BadInput when it cannot be."""
    form = form_of(request["data"])
    if form == "mesh":
        read_mesh(request["data"])
    else:
        read_shape(request["data"])
    return form


@task("part_thumbnail")
def part_thumbnail(bench: Bench, request: dict[str, Any]) -> str:
    """A small SVG of a part."""
    found = build_part(bench, request)
    return draw(
        [(*picture_of(bench.cache.body(b["key"])), b["colour"]) for b in found.bodies.values()]
    )


def picture_of(body: Body) -> tuple[Any, Any, list[Any]]:
    """Points, triangles and edge polylines, coarse enough for a small picture."""
    mesh = tessellate(body, None, 0.5)
    starts = mesh.edge_starts
    edges = [mesh.edge_points[starts[i] : starts[i + 1]] for i in range(len(starts) - 1)]
    return mesh.points, mesh.triangles.astype(np.int64), edges
