"""One document: reading, editing by commands, undo and redo, building."""

from __future__ import annotations

from typing import Any

from vireo.core.documents import kind_of, new_document
from vireo.core.documents.kinds.part import as_part
from vireo.core.naming.grammar import body_name
from vireo.core.trouble import NotAllowed
from vireo.server.api import Room, services
from vireo.server.views.documents import Base, DocumentView, Done, Edit, Made, Trial
from vireo.server.views.part import AlikeRequest, AlikeView, BuildView, GhostRequest, GhostView
from vireo.store import DocumentRecord

room = Room("documents")


def _view(record: DocumentRecord) -> DocumentView:
    names = {p["id"]: p["name"] for p in services().store.projects()}
    return DocumentView(
        id=record.id,
        project=record.project,
        project_name=names.get(record.project, ""),
        kind=record.document.kind,
        revision=record.revision,
        document=record.document,
        undo=record.undo,
        redo=record.redo,
    )


def tell(record: DocumentRecord) -> DocumentView:
    """A document that changed, told to all who look at it."""
    services().events.publish(
        "document", id=record.id, revision=record.revision, project=record.project
    )
    return _view(record)


@room.route("GET", "/documents/<id>", answer=DocumentView)
def document(id: str) -> DocumentView:
    """A document at its newest revision."""
    return _view(services().store.document(id))


@room.route("DELETE", "/documents/<id>", answer=Done)
def delete_document(id: str) -> Done:
    """Delete a document that no other uses."""
    record = services().store.document(id)
    users = [
        other.document.name
        for other in services().store.documents_of(record.project)
        if id in kind_of(other.document).refers(other.document)
    ]
    if users:
        raise NotAllowed(
            f"{record.document.name} is used by {', '.join(users)}; change those first"
        )
    services().store.delete_document(id)
    services().events.publish("shelf")
    return Done()


@room.route("POST", "/documents/<id>/commands", body=Edit, answer=DocumentView)
def edit(id: str, body: Edit) -> DocumentView:
    """Apply commands to the revision they were made against; 409 when it is stale."""
    record = services().store.document(id)
    if record.revision != body.base:
        # The store finds the words for what happened since.
        services().store.commit(id, body.base, record.document, "", None)
    changed, label = services().builds.applied(record, body.commands)
    if changed == record.document:
        return _view(record)
    made = services().store.commit(
        id, body.base, changed, body.label or label, {"commands": body.commands}
    )
    return tell(made)


@room.route("POST", "/documents/<id>/undo", body=Base, answer=DocumentView)
def undo(id: str, body: Base) -> DocumentView:
    """Take back the newest edit."""
    return tell(services().store.undo(id, body.base))


@room.route("POST", "/documents/<id>/redo", body=Base, answer=DocumentView)
def redo(id: str, body: Base) -> DocumentView:
    """Put the edit taken back last in again."""
    return tell(services().store.redo(id, body.base))


@room.route("GET", "/documents/<id>/build", answer=BuildView, query={"revision": int, "upto": int})
def build(id: str, revision: int | None, upto: int | None) -> Any:
    """Build a part at a revision, up to its marker or the given number of steps."""
    return services().builds.build(id, revision, upto)


@room.route("POST", "/documents/<id>/try", body=Trial, answer=BuildView)
def try_out(id: str, body: Trial) -> Any:
    """Build what the document would be after commands, keeping nothing."""
    record = services().store.document(id)
    changed, _ = services().builds.applied(record, body.commands)
    found = services().builds.show(id, record.project, changed, body.upto)
    return {**found, "revision": record.revision}


@room.route("POST", "/documents/<id>/retry", answer=Done)
def retry(id: str) -> Done:
    """Let steps that took the kernel down be tried again."""
    services().builds.forgive()
    return Done()


@room.route("POST", "/documents/<id>/stop-search", answer=Done)
def stop_search(id: str) -> Done:
    """Stop looking for the largest size that fits; the build then answers without it."""
    return Done(ok=services().builds.stop_search(id))


@room.route("POST", "/documents/<id>/ghost", body=GhostRequest, answer=GhostView)
def ghost(id: str, body: GhostRequest) -> Any:
    """What a lost pick of a step last stood for, as lines."""
    pick = body.pick.model_dump(mode="json")
    return {"lines": services().builds.ghost(id, body.step, pick)}


@room.route("POST", "/documents/<id>/alike", body=AlikeRequest, answer=AlikeView)
def alike(id: str, body: AlikeRequest) -> Any:
    """Other lost picks that go the same way when one is put in another's place."""
    old, new = body.old.model_dump(mode="json"), body.new.model_dump(mode="json")
    return {"swaps": services().builds.alike(id, body.step, old, new)}


@room.route("POST", "/documents/<id>/separate", answer=Made)
def separate(id: str) -> Made:
    """Each body becomes a part of its own that follows it, and an assembly places them all."""
    record = services().store.document(id)
    part = as_part(record.document, "only a part has bodies to separate")
    found = services().builds.build(id)
    if all(b["tool"] for b in found["bodies"]):
        raise NotAllowed("there is no body to separate yet")
    store = services().store
    components = []
    bodies = [b for b in found["bodies"] if not b["tool"]]
    for number, body in enumerate(bodies, start=1):
        fields = {"document": id, "which": body["id"]}
        step = {"id": "s1", "kind": "taken", "name": f"From {part.name}"[:80], "fields": fields}
        look = part.look(body["id"]).model_copy(update={"body": body_name("s1")})
        made = store.create_document(
            record.project,
            new_document("part", body["name"], material=part.material, steps=[step], last_id=1,
                         looks=[look.model_dump()]),
        )  # fmt: skip
        components.append(
            {"id": f"c{number}", "name": body["name"], "document": made, "anchored": True}
        )
    whole = new_document(
        "assembly", f"{part.name} assembly"[:80], components=components, last_id=len(components)
    )
    made = store.create_document(record.project, whole)
    services().events.publish("shelf")
    return Made(id=made)
