"""Tasks that hand models over: STEP, meshes, thumbnails."""

from __future__ import annotations

import io
import math
import re
import tempfile
import zipfile
from collections.abc import Sequence
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import numpy as np

from vireo.core.assembly.pose import quaternion_of
from vireo.core.exchange.meshfile import read_mesh
from vireo.core.exchange.steppart import step_part
from vireo.core.kernel.exchange import Placed, brep_file, printed, write_step
from vireo.core.kernel.glb import write_glb
from vireo.core.kernel.intake import form_of, read_shape
from vireo.core.kernel.measure import box_of
from vireo.core.kernel.mesh import tessellate
from vireo.core.kernel.place import located
from vireo.core.kernel.products import Apart, taken_apart
from vireo.core.kernel.shape import Body
from vireo.core.naming import Pick
from vireo.core.part.context import Context
from vireo.core.part.report import PartBuild
from vireo.core.printing import Laid, Printed, lay, review, stl, threemf
from vireo.core.printing.review import overlaps, thin_walls
from vireo.core.thumbnail import Drawn, draw
from vireo.core.trouble import BadInput, Trouble
from vireo.work.tasks.part import build_part
from vireo.work.worker import Bench, task


def placed_parts(bench: Bench, request: dict[str, Any]) -> list[Placed]:
    """All bodies of a part as they stand, with their names and colours."""
    found = build_part(bench, request)
    name = request["document"]["name"]
    bodies = found.handed_over
    if not bodies:
        raise BadInput("there is no body to hand over yet, only tools" if found.bodies
                       else "there is no body to hand over yet")  # fmt: skip
    one = len(bodies) == 1
    return [
        Placed(
            (found.dresses[id].name or name) if one else b["name"], bench.cache.body(b["key"]),
            b["colour"], np.eye(3), np.zeros(3), paints=found.paints.get(id, {}), key=b["key"],
        )
        for id, b in bodies.items()
    ]  # fmt: skip


@task("part_step")
def part_step(bench: Bench, request: dict[str, Any]) -> bytes:
    """A part as a STEP file."""
    return step_file(
        request["document"]["name"], placed_parts(bench, request), request.get("schema", "AP214")
    )


def _some(data: bytes, keep: list[int] | None) -> tuple[Apart, list[str]]:
    """All products of a STEP file or some, by the numbers of their definitions; only these are read."""
    if keep is None:
        found = taken_apart(data)
        return found, list(found.faults)
    cut, faults = step_part(data, set(keep))
    found = taken_apart(cut)
    if len(found.names) < len(set(keep)):
        raise BadInput(
            "what was chosen cannot be told from the rest of this file: bring all of it in"
        )
    return found, faults + found.faults


@task("step_product")
def step_product(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """A product of a STEP file with all that stands in it, before it comes in: a small picture (SVG),
    the sizes of its box (mm), its solids."""
    found, _ = _some(request["data"], request["keep"])
    drawn: list[Drawn] = []
    corners: list[Any] = []

    def put(key: str, rotation: Any, position: Any) -> None:
        for placed in found.bodies.get(key, ()):
            one = picture_of(placed.body, placed.colour or "#9aa59d")
            edges = [e @ rotation.T + position for e in one.edges]
            # The picture is coarse; what is said of the size is not.
            corners.extend(box_of(located(placed.body.shape, rotation, position)))
            drawn.append(
                replace(one, points=one.points @ rotation.T + position,
                        normals=one.normals @ rotation.T, edges=edges)
            )  # fmt: skip
        for s in found.holds.get(key, ()):
            put(s.key, rotation @ s.rotation, rotation @ s.position + position)

    for root in found.roots:
        put(root, np.eye(3), np.zeros(3))
    points = np.array(corners or [(0.0, 0.0, 0.0)])
    size = points.max(axis=0) - points.min(axis=0)
    return {"picture": draw(drawn), "size": size.tolist(), "solids": len(drawn)}


@task("taken_apart")
def apart(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """The products of a STEP file, or those to `keep`: each with a shape as a file of its own, what
    stands in what."""
    found, faults = _some(request["data"], request["keep"])
    parts = {}
    for key, bodies in found.bodies.items():
        try:
            parts[key] = step_file(found.names[key], bodies)
        except Trouble as trouble:
            faults.append(f"{found.names[key]}: {trouble.text}")
    holds = {
        key: [
            {"key": s.key, "name": s.name, "p": s.position.tolist(),
             "q": quaternion_of(s.rotation).tolist()}
            for s in stands
        ]
        for key, stands in found.holds.items()
    }  # fmt: skip
    return {
        "names": found.names, "parts": parts, "holds": holds, "roots": found.roots, "faults": faults,
    }  # fmt: skip


@task("part_brep")
def part_brep(bench: Bench, request: dict[str, Any]) -> bytes:
    """A part as a BREP file: its bodies of every form as the kernel has them."""
    return brep_file([p.body for p in placed_parts(bench, request)])


def step_file(name: str, parts: list[Placed], schema: str = "AP214") -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "out.step"
        write_step(name, parts, str(path), schema)
        return path.read_bytes()


def glb_file(name: str, parts: list[Placed], deviation: float) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "out.glb"
        write_glb(name, parts, str(path), deviation or 0.1)
        return path.read_bytes()


@task("part_glb")
def part_glb(bench: Bench, request: dict[str, Any]) -> bytes:
    """A part as triangles in a binary glTF file; `deviation` in mm."""
    return glb_file(request["document"]["name"], placed_parts(bench, request), request["deviation"])


def _chosen(bench: Bench, request: dict[str, Any], found: PartBuild) -> list[tuple[str, str, Body]]:
    """Names, colours and shapes of the bodies that are handed over."""
    chosen = request.get("bodies") or list(found.solids)
    bodies = [b for id, b in found.bodies.items() if id in chosen]
    if not bodies:
        raise BadInput("there is no solid to hand over as a mesh yet")
    flat = next((b for b in bodies if b["form"] != "solid"), None)
    if flat is not None:
        raise BadInput(
            f"{flat['name']} is a {flat['form']}, which cannot be printed: thicken it first"
        )
    one = len(found.solids) == 1
    return [
        (request["document"]["name"] if one else b["name"], b["colour"], bench.cache.body(b["key"]))
        for b in bodies
    ]


def _printed(bench: Bench, request: dict[str, Any]) -> Laid:
    """Chosen bodies of a part (or all) meshed, laid with a picked face down when there is one."""
    found = build_part(bench, request)
    meshes = [printed(*one, request["deviation"]) for one in _chosen(bench, request, found)]
    down = None
    if request.get("down"):
        pick = Pick.model_validate(request["down"])
        index, topology = Context("lay", found.state, {}).find(pick, "down")
        face = topology.faces[index]
        if pick.kind != "face" or face.kind != "plane":
            raise BadInput("lay a flat face down")
        down = face.direction
    return lay(meshes, down) if request.get("lay") else Laid(tuple(meshes), np.eye(3), np.zeros(3))


@task("part_mesh")
def part_mesh(bench: Bench, request: dict[str, Any]) -> bytes:
    """A part as STL or 3MF with the chosen deviation in mm; `batch` gives a zip, a file a body."""
    laid = _printed(bench, request)
    title = request["document"]["name"]

    def one(bodies: Sequence[Printed]) -> bytes:
        if request["form"] == "3mf":
            return threemf(bodies, title)
        return stl(bodies, request["form"] == "stl-text")

    if not request.get("batch"):
        return one(laid.bodies)
    ending = "3mf" if request["form"] == "3mf" else "stl"
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as z:
        for k, b in enumerate(laid.bodies, start=1):
            safe = re.sub(r"[^\w .()+-]", "_", b.name)
            z.writestr(f"{k} {safe}.{ending}", one([b]))
    return stream.getvalue()


@task("print_review")
def print_review(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """What a print of a part would need, and what would go wrong."""
    laid = _printed(bench, {**request, "lay": True})
    found = review(laid.bodies, tuple(request["bed"]), math.radians(request["steepest"]))
    troubles = [{**asdict(t), "here": laid.back(t.at) if t.at else None} for t in found.troubles]
    chosen = [(n, b) for n, _, b in _chosen(bench, request, build_part(bench, request))]
    inner = overlaps(chosen)
    if request["thin"] > 0:
        inner += [t for name, body in chosen for t in thin_walls(name, body, request["thin"])]
    for t in inner:
        assert t.at is not None
        troubles.append({"text": t.text, "at": laid.there(t.at), "here": t.at})
    return {**asdict(found), "troubles": troubles}


@task("probe")
def probe(bench: Bench, request: dict[str, Any]) -> str:
    """The form of a file with shapes, once it was read whole. Raises BadInput when it cannot be."""
    form = form_of(request["data"])
    if form == "mesh":
        read_mesh(request["data"])
    else:
        read_shape(request["data"])
    return form


#: Raised when pictures of the help change.
HELP_PICTURES = 2


@task("part_thumbnail")
def part_thumbnail(bench: Bench, request: dict[str, Any]) -> str:
    """A small SVG of a part."""
    found = build_part(bench, request)
    return draw(
        [picture_of(bench.cache.body(b["key"]), b["colour"]) for b in found.handed_over.values()]
    )


@task("study_thumbnail")
def study_thumbnail(bench: Bench, request: dict[str, Any]) -> str:
    """A small SVG of the part a study looks at."""
    drawn: str = part_thumbnail(bench, request["part"])
    return drawn


def picture_of(body: Body, colour: str) -> Drawn:
    """A body for a small picture: coarse."""
    mesh = tessellate(body, None, 0.5)
    starts = mesh.edge_starts
    # A seam is no edge: the face runs on there.
    edges = [
        mesh.edge_points[starts[i] : starts[i + 1]]
        for i, pair in enumerate(body.edge_faces)
        if len(pair) == 2
    ]
    return Drawn(mesh.points, mesh.normals, mesh.triangles.astype(np.int64), edges, colour)


@task("help_picture")
def help_picture(bench: Bench, request: dict[str, Any]) -> str | None:
    """What a kind of step does, as SVG; None for a kind without a sample."""
    from vireo.core.samples.picture import picture

    name = f"help-picture-{HELP_PICTURES}-{request['kind']}"
    kept = bench.disk.get(name)
    if kept is not None:
        return kept.decode()
    found = picture(request["kind"])
    if found is not None:
        bench.disk.put(name, found.encode())
    return found
