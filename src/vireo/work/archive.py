"""Projects out of and into zips: ids are given anew on the way in, references follow."""

from __future__ import annotations

from vireo.core.documents import DOCUMENT_KINDS, Document, dump, kind_of, load_document
from vireo.core.documents.archive import History, Kept, read_archive, write_archive
from vireo.core.trouble import BadInput
from vireo.store import DocumentRecord, NotFound, Store
from vireo.store.store import Past, new_id


def export_project(store: Store, id: str) -> tuple[str, bytes]:
    """Name and zip of a whole project at its newest revisions."""
    project = next((p for p in store.projects() if p["id"] == id), None)
    if project is None:
        raise NotFound("there is no such project")
    records = store.documents_of(id)
    documents = [(d.id, d.document) for d in records]
    histories = {d.id: _history(store, d, _pinned(records, d.id)) for d in records}
    data = write_archive(project["name"], store.settings(id), documents, store.blobs(id), histories)
    return project["name"], data


def _pinned(records: list[DocumentRecord], id: str) -> set[int]:
    """The revisions of a document that others are pinned to."""
    chosen = (kind_of(r.document).chosen(r.document) for r in records)
    return {c.revision for each in chosen for _, of, c in each if of == id and c.revision}


def _history(store: Store, record: DocumentRecord, pinned: set[int]) -> History:
    rows = store.revisions(record.id)
    kept = [
        Kept(r["number"], store.document_at(record.id, r["number"]), r["version"], r["approved"])
        for r in rows
        if r["number"] != record.revision
        and (r["version"] or r["approved"] or r["number"] in pinned)
    ]
    own = next(r for r in rows if r["number"] == record.revision)
    return History(record.revision, tuple(reversed(kept)), own["version"], own["approved"])


def import_project(store: Store, data: bytes) -> str:
    """A new project from a zip; its id. Raises BadInput when the zip cannot be used."""
    name, settings, documents, files, histories = read_archive(data)
    fresh = {old: new_id("d") for old in documents}

    def renewed(document: Document) -> Document:
        return load_document(kind_of(document).redirected(dump(document), fresh))

    made = [(fresh[old], renewed(document)) for old, document in documents.items()]
    kept = {
        fresh[old]: Past(
            h.head, tuple((k.number, renewed(k.document), k.version, k.approved) for k in h.kept),
            h.version, h.approved,
        )
        for old, h in histories.items()
    }  # fmt: skip
    return store.import_project(
        name, settings, made, [(f, content) for _, f, content in files], kept
    )


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
