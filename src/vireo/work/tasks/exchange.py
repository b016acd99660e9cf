"""Tasks that hand models over: STEP, STL, thumbnails."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

import numpy as np

from vireo.core.kernel.exchange import Placed, read_step, stl_bytes, write_step
from vireo.core.kernel.mesh import tessellate
from vireo.core.kernel.shape import Body
from vireo.core.thumbnail import draw
from vireo.core.trouble import BadInput
from vireo.work.tasks.part import build_part, material_of
from vireo.work.worker import Bench, task

_GREY = "#b9c2bb"


def _bodies(bench: Bench, request: dict[str, Any]) -> list[tuple[str, Body]]:
    found = build_part(bench, request)
    return [(id, bench.cache.body(b["key"])) for id, b in found.bodies.items()]


def _colour(request: dict[str, Any]) -> str:
    material = material_of(request)
    return material.colour if material else _GREY


def placed_parts(bench: Bench, request: dict[str, Any]) -> list[Placed]:
    """All bodies of a part as they stand."""
    name = request["document"]["name"]
    bodies = _bodies(bench, request)
    if not bodies:
        raise BadInput("there is no body to hand over yet")
    one = len(bodies) == 1
    return [
        Placed(name if one else f"{name} {k + 1}", body, _colour(request), np.eye(3), np.zeros(3))
        for k, (_, body) in enumerate(bodies)
    ]


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


@task("probe_step")
def probe_step(bench: Bench, request: dict[str, Any]) -> int:
    """How many solids a STEP file holds. Raises BadInput when it cannot be used."""
    return len(read_step(request["data"], "probe"))


@task("part_thumbnail")
def part_thumbnail(bench: Bench, request: dict[str, Any]) -> str:
    """A small SVG of a part."""
    colour = _colour(request)
    return draw([(*picture_of(body), colour) for _, body in _bodies(bench, request)])


def picture_of(body: Body) -> tuple[Any, Any, list[Any]]:
    """Points, triangles and edge polylines, coarse enough for a small picture."""
    mesh = tessellate(body, None, 0.5)
    starts = mesh.edge_starts
    edges = [mesh.edge_points[starts[i] : starts[i + 1]] for i in range(len(starts) - 1)]
    return mesh.points, mesh.triangles.astype(np.int64), edges
