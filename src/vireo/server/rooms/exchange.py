"""Files in and out: STEP, meshes, project zips, thumbnails."""

from __future__ import annotations

import hashlib
import re
import urllib.parse
from dataclasses import asdict, replace
from typing import Any

from flask import Response, request
from pydantic import TypeAdapter, ValidationError

from vireo.core.digest import digest
from vireo.core.documents import kind_of, new_document
from vireo.core.documents.base import Choice
from vireo.core.documents.kinds.part import Part, as_part
from vireo.core.exchange.steptree import step_tree, step_unit
from vireo.core.lately import Lately
from vireo.core.quantity import evaluate_parameters
from vireo.core.sketch import Drawing, curves_of, solve_drawing
from vireo.core.sketch.exchange.dxf import write_dxf
from vireo.core.sketch.exchange.svg import write_svg
from vireo.core.sketch.solved import free_points
from vireo.core.trouble import BadInput
from vireo.server.api import Room, services
from vireo.server.views.documents import Made
from vireo.server.views.exchange import (
    BroughtApartView,
    BroughtFileView,
    PrintRequest,
    PrintReview,
    StepChoice,
    StepProductView,
    StepTreeView,
)
from vireo.store import DocumentRecord, NotFound
from vireo.work import archive
from vireo.work.apart import put_apart
from vireo.work.files import file_of
from vireo.work.handing import as_member
from vireo.work.lanes import WorkerLost
from vireo.work.varying import set_to

room = Room("exchange")

IMPORT_SECONDS = 180.0
THUMBNAIL_VERSION = 2
#: STEP files that were sent lately, by their content: what is chosen of them comes in later.
_FILES = Lately[str, bytes](3)


def upload() -> tuple[str, bytes]:
    """Name and content of the file sent as the request's body."""
    if request.headers.get("X-File-Name") is None:
        raise BadInput("an upload needs its file name")
    name = urllib.parse.unquote(request.headers["X-File-Name"])
    name = re.sub(r"[^\w .()+-]", "_", name.replace("\\", "/").rsplit("/", 1)[-1])[:120] or "file"
    data = request.get_data(cache=False)
    if not data:
        raise BadInput("the file is empty")
    return name, data


def _probed(data: bytes) -> str:
    """The form of a file with shapes. Raises BadInput for one that cannot be read safely."""
    try:
        found: str = services().queue.call(
            "probe", {"data": data}, lane="background", seconds=IMPORT_SECONDS
        )
    except WorkerLost as lost:
        raise BadInput(f"this file could not be read safely: {lost.text}") from lost
    return found


@room.route("POST", "/projects/<id>/bring", answer=Made)
def bring_part(id: str) -> Made:
    """A STEP, IGES, BREP, STL or 3MF file becomes a part with an import step."""
    name, data = upload()
    store = services().store
    store.settings(id)
    form = _probed(data)
    title = re.sub(r"\.\w{2,4}$", "", name)[:80] or "Imported"
    fields = {"file": store.put_blob(id, name, data), "source": name, "form": form}
    step = {"id": "s1", "kind": "import", "name": "Import", "fields": fields}
    made = store.create_document(id, new_document("part", title, steps=[step], last_id=1))
    services().events.publish("shelf")
    return Made(id=made)


@room.route("POST", "/step-tree", answer=StepTreeView)
def step_products() -> Any:
    """What a STEP file is made of, read off its text: products from the top down."""
    _, data = upload()
    tree = step_tree(data)
    key = hashlib.sha256(data).hexdigest()
    _FILES.get(key, lambda: data)
    return {
        "key": key,
        "unit": step_unit(data),
        "rows": [asdict(r) for r in tree.rows()],
        "holds": {n: list(p.holds) for n, p in tree.products.items() if p.holds},
        "products": len(tree.products),
        "faults": list(tree.faults),
    }


def _sent(key: str) -> bytes:
    """A STEP file that was sent a while ago. Raises NotFound."""

    def gone() -> bytes:
        raise NotFound("the file is no longer at hand: choose it again")

    return _FILES.get(key, gone)


def _read(task: str, data: bytes, keep: list[int] | None) -> Any:
    try:
        return services().queue.call(
            task, {"data": data, "keep": keep}, lane="background", seconds=IMPORT_SECONDS
        )
    except WorkerLost as lost:
        raise BadInput(f"this file could not be read safely: {lost.text}") from lost


@room.route("GET", "/step-files/<key>/products/<number>", answer=StepProductView)
def step_product(key: str, number: str) -> Any:
    """A product of a file that was sent, with all that stands in it; nothing else of it is read."""
    data = _sent(key)
    below = step_tree(data).below(int(number))
    if not below:
        raise NotFound("there is no such product in this file")
    return _read("step_product", data, sorted(below))


@room.route("POST", "/projects/<id>/bring-products", body=StepChoice, answer=BroughtApartView)
def bring_products(id: str, body: StepChoice) -> Any:
    """Chosen products of a STEP file that was sent become parts and the assemblies they stand in; what
    is chosen without what it stands in comes in by itself."""
    return _brought(id, body.name, _sent(body.key), body.keep)


@room.route("POST", "/projects/<id>/bring-apart", answer=BroughtApartView)
def bring_apart(id: str) -> Any:
    """A STEP file becomes parts and the assemblies they stand in; equal products once."""
    name, data = upload()
    return _brought(id, name, data, None)


def _brought(id: str, name: str, data: bytes, keep: list[int] | None) -> Any:
    services().store.settings(id)
    if keep is not None and not keep:
        raise BadInput("nothing of this file is left to bring in")
    found = _read("taken_apart", data, keep)
    made = put_apart(services().store, id, name, found)
    services().events.publish("shelf")
    return {
        "id": made.id,
        "parts": made.parts,
        "assemblies": made.assemblies,
        "faults": made.faults,
    }


@room.route("POST", "/documents/<id>/bring", answer=BroughtFileView)
def keep_file(id: str) -> BroughtFileView:
    """Keep a file with shapes with the project, for an import step of this part."""
    name, data = upload()
    store = services().store
    project = store.document(id).project
    form = _probed(data)
    return BroughtFileView(file=store.put_blob(project, name, data), source=name, form=form)


@room.route("GET", "/projects/<id>/archive")
def export_project(id: str) -> Response:
    """The whole project as a zip."""
    name, data = archive.export_project(services().store, id)
    return attachment(data, f"{name}.zip", "application/zip")


@room.route("POST", "/projects/archive", answer=Made)
def import_project() -> Made:
    """A project zip becomes a new project; ids are given anew, references follow."""
    _, data = upload()
    made = archive.import_project(services().store, data)
    services().events.publish("shelf")
    return Made(id=made)


def attachment(data: bytes, name: str, mime: str) -> Response:
    quoted = urllib.parse.quote(name)
    return Response(
        data,
        mimetype=mime,
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quoted}"},
    )


@room.route("GET", "/documents/<id>/export.step", query={"schema": str})
def export_step(id: str, schema: str | None) -> Response:
    """A part or an assembly as STEP, by AP214 or AP242."""
    record = services().store.document(id)
    wanted = (schema or "AP214").upper()
    if wanted not in ("AP214", "AP242"):
        raise BadInput(f"STEP is written by AP214 or AP242, not {schema}")
    data = file_of(services().builds, record, "step", 0.0, schema=wanted)
    return attachment(data, f"{record.document.name}.step", "model/step")


@room.route("GET", "/documents/<id>/export.glb", query={"deviation": float})
def export_glb(id: str, deviation: float | None) -> Response:
    """A part or an assembly as triangles in a binary glTF file; `deviation` in mm, 0.1 when not
    given."""
    record = services().store.document(id)
    data = file_of(services().builds, record, "glb", _chord(deviation, 0.1))
    return attachment(data, f"{record.document.name}.glb", "model/gltf-binary")


@room.route("GET", "/documents/<id>/export.brep")
def export_brep(id: str) -> Response:
    """A part as BREP: its solids and surfaces as the kernel has them."""
    record = services().store.document(id)
    data = file_of(services().builds, record, "brep", 0.0)
    return attachment(data, f"{record.document.name}.brep", "application/octet-stream")


def _mesh_request(id: str, deviation: float | None) -> tuple[str, dict[str, Any]]:
    record = services().store.document(id)
    part = as_part(record.document, "only parts are handed over as meshes")
    _, ask = services().builds.request(record.project, part)
    return part.name, {**ask, "deviation": _chord(deviation, 0.05)}


def _chord(given: float | None, usual: float) -> float:
    chord = usual if given is None else given
    if not 1e-4 <= chord <= 10.0:
        raise BadInput(f"the deviation must lie between 0.0001 and 10 mm, not {chord:g}")
    return chord


@room.route("GET", "/documents/<id>/export.stl", query={"deviation": float})
def export_stl(id: str, deviation: float | None) -> Response:
    """A part as binary STL; `deviation` in mm, 0.05 when not given."""
    name, ask = _mesh_request(id, deviation)
    data = services().builds.run("part_mesh", {**ask, "form": "stl"}, sticky=id)
    return attachment(data, f"{name}.stl", "model/stl")


@room.route("POST", "/documents/<id>/print", body=PrintRequest)
def print_file(id: str, body: PrintRequest) -> Response:
    """A part as 3MF or STL, laid and chosen as asked; several bodies as a zip when a batch."""
    name, ask = _mesh_request(id, body.deviation)
    given = body.model_dump(mode="json")
    data = services().builds.run("part_mesh", {**ask, **given}, sticky=id)
    if body.batch:
        return attachment(data, f"{name}.zip", "application/zip")
    if body.form == "3mf":
        return attachment(data, f"{name}.3mf", "model/3mf")
    return attachment(data, f"{name}.stl", "model/stl")


@room.route("POST", "/documents/<id>/print-review", body=PrintRequest, answer=PrintReview)
def print_review(id: str, body: PrintRequest) -> Any:
    """Triangles, size against the bed, overhangs, and what would go wrong."""
    _, ask = _mesh_request(id, body.deviation)
    return services().builds.run("print_review", {**ask, **body.model_dump(mode="json")}, sticky=id)


def _sketched(id: str, step: str) -> tuple[str, Drawing]:
    record = services().store.document(id)
    steps = record.document.steps if isinstance(record.document, Part) else ()
    found = next((s for s in steps if s.id == step and s.kind == "sketch"), None)
    if found is None:
        raise BadInput(f"there is no sketch {step} in this document")
    drawing = Drawing.model_validate(found.fields.get("drawing", {}))
    parameters = evaluate_parameters(record.document.parameters)
    names = {n: e.value for n, e in parameters.items() if e.value is not None}
    solved = solve_drawing(drawing, names, full=False).drawing
    if not curves_of(solved) and not free_points(solved):
        raise BadInput("this sketch has nothing to hand over yet")
    return f"{record.document.name} {found.name}", solved


@room.route("GET", "/documents/<id>/sketches/<step>/export.dxf")
def sketch_dxf(id: str, step: str) -> Response:
    """A sketch as DXF, construction left out."""
    name, drawing = _sketched(id, step)
    curves = [c for _, c in curves_of(drawing)]
    data = write_dxf(curves, list(free_points(drawing).values()))
    return attachment(data, f"{name}.dxf", "image/vnd.dxf")


@room.route("GET", "/documents/<id>/sketches/<step>/export.svg")
def sketch_svg(id: str, step: str) -> Response:
    """A sketch as SVG at true size, construction left out."""
    name, drawing = _sketched(id, step)
    data = write_svg([c for _, c in curves_of(drawing)])
    return attachment(data, f"{name}.svg", "image/svg+xml")


@room.route(
    "GET", "/documents/<id>/thumbnail.svg", query={"member": str, "revision": int, "set": str}
)
def thumbnail(id: str, member: str | None, revision: int | None, set: str | None) -> Response:
    """A small picture of a document, made from its model; of one of its members where one is said, as it was at
    a revision, or with parameters `set`."""
    record = services().store.document(id, revision)
    key = f"thumbnail-{THUMBNAIL_VERSION}-{id}-{record.revision}"
    if member:
        record = as_member(record, _choice(member))
        key += f"-{digest(member)}"
    if set:
        record = replace(record, document=set_to(record.document, _values(set)))
        key += f"-{digest(set)}"
    if kind_of(record.document).alone:
        kept = services().disk.get(key)
        if kept is not None:
            return _svg(kept)
    data = _picture(record).encode()
    services().disk.put(key, data)
    return _svg(data)


def _values(text: str) -> dict[str, str]:
    try:
        return TypeAdapter(dict[str, str]).validate_json(text)
    except ValidationError as error:
        raise BadInput("parameters are set by their names and formulas") from error


def _choice(text: str) -> Choice:
    try:
        return Choice.model_validate_json(text)
    except ValidationError as error:
        raise BadInput("that tells no member of a document") from error


def _picture(record: DocumentRecord) -> str:
    _, ask = services().builds.request(record.project, record.document)
    task = kind_of(record.document).picture
    found: str = services().builds.run(task, ask, sticky=record.id)
    return found


def _svg(data: bytes) -> Response:
    return Response(data, mimetype="image/svg+xml", headers={"Cache-Control": "no-cache"})
