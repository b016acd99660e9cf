"""Projects out of and into zips: ids are given anew on the way in, references follow."""

from __future__ import annotations

from vireo.core.documents import DOCUMENT_KINDS, Document, dump, kind_of, load_document
from vireo.core.documents.archive import read_archive, write_archive
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
        (fresh[old], load_document(kind_of(document).redirected(dump(document), fresh)))
        for old, document in documents.items()
    ]
    return store.import_project(name, settings, renewed, [(f, content) for _, f, content in files])


def copied(store: Store, id: str, project: str, name: str) -> Document:
    """A document of any project as a new one for a project, with the files it reads.

    Raises BadInput for kinds that are no start for another, and for those that need documents of
    another project.
    """
    record = store.document(id)
    document, kind = record.document, kind_of(record.document)
    if not kind.template:
        able = " or ".join(k.article for k in DOCUMENT_KINDS.values() if k.template)
        raise BadInput(f"only {able} can be a start for another")
    if record.project != project:
        if kind.refers(document):
            raise BadInput(
                f"{document.name} takes from other documents of its project, which are not here"
            )
        for blob in kind.files(document):
            store.put_blob(project, document.name, store.blob(record.project, blob))
    return document.model_copy(update={"name": name, "template": False})
