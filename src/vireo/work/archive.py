"""Projects out of and into zips: ids are given anew on the way in, references follow."""

from __future__ import annotations

from typing import Any

from vireo.core.documents import load_document
from vireo.core.documents.model import Part, dump
from vireo.core.exchange.archive import read_archive, write_archive
from vireo.core.part.kind import files_of, taken_from
from vireo.core.trouble import BadInput
from vireo.store import NotFound, Store
from vireo.store.store import new_id


def export_project(store: Store, id: str) -> tuple[str, bytes]:
    """Name and zip of a whole project at its newest revisions."""
    project = next((p for p in store.projects() if p["id"] == id), None)
    if project is None:
        raise NotFound("there is no such project")
    documents = [(d.id, d.document) for d in store.documents_of(id)]
    data = write_archive(project["name"], store.settings(id), documents, store.blobs(id))
    return project["name"], data


def import_project(store: Store, data: bytes) -> str:
    """A new project from a zip; its id. Raises BadInput when the zip cannot be used."""
    name, settings, documents, files = read_archive(data)
    fresh = {old: new_id("d") for old in documents}
    renewed = [
        (fresh[old], load_document(_redirected(dump(document), fresh)))
        for old, document in documents.items()
    ]
    return store.import_project(name, settings, renewed, [(f, content) for _, f, content in files])


def copied(store: Store, id: str, project: str, name: str) -> Part:
    """A part of any project as a new one for a project, with the files it reads.

    Raises BadInput for other documents, and for parts that take bodies from parts of another
    project.
    """
    record = store.document(id)
    part = record.document
    if not isinstance(part, Part):
        raise BadInput("only a part can be a start for another")
    if record.project != project:
        if taken_from(part):
            raise BadInput(
                f"{part.name} takes bodies from other parts of its project, which are not here"
            )
        for blob in files_of(part):
            store.put_blob(project, part.name, store.blob(record.project, blob))
    return part.model_copy(update={"name": name, "template": False})


def _redirected(data: dict[str, Any], fresh: dict[str, str]) -> dict[str, Any]:
    if data["kind"] == "study":
        data["part"] = fresh.get(data["part"], data["part"])
    for component in data.get("components", []):
        component["document"] = fresh.get(component["document"], component["document"])
    for step in data.get("steps", []):
        if "document" in step["fields"]:
            step["fields"]["document"] = fresh.get(step["fields"]["document"], "")
    return data
