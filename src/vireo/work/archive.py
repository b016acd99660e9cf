"""Projects out of and into zips: ids are given anew on the way in, references follow."""

from __future__ import annotations

from typing import Any

from vireo.core.documents import load_document
from vireo.core.documents.model import dump
from vireo.core.exchange import read_archive, write_archive
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


def _redirected(data: dict[str, Any], fresh: dict[str, str]) -> dict[str, Any]:
    if data["kind"] == "study":
        data["part"] = fresh.get(data["part"], data["part"])
    for component in data.get("components", []):
        component["document"] = fresh.get(component["document"], component["document"])
    for step in data.get("steps", []):
        if "document" in step["fields"]:
            step["fields"]["document"] = fresh.get(step["fields"]["document"], "")
    return data
