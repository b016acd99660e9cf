"""Projects and the documents in them."""

from __future__ import annotations

from typing import Any

from vireo.core.documents import DOCUMENT_KINDS, kind_of, new_document
from vireo.server.api import Room, services
from vireo.server.views.documents import (
    Defaults,
    Done,
    Made,
    NewDocument,
    NewProject,
    ShelfView,
)
from vireo.work.archive import copied

room = Room("shelf")


@room.route("GET", "/shelf", answer=ShelfView)
def shelf() -> Any:
    """All projects with their documents."""
    return {"projects": services().store.projects()}


@room.route("POST", "/projects", body=NewProject, answer=Made)
def create_project(body: NewProject) -> Made:
    """Start a project."""
    id = services().store.create_project(body.name.strip())
    if body.defaults is not None:
        _keep_defaults(id, body.defaults)
    services().events.publish("shelf")
    return Made(id=id)


@room.route("PATCH", "/projects/<id>", body=NewProject, answer=Done)
def rename_project(id: str, body: NewProject) -> Done:
    """Rename a project, and say what its new documents start with."""
    services().store.rename_project(id, body.name.strip())
    if body.defaults is not None:
        _keep_defaults(id, body.defaults)
    services().events.publish("shelf")
    return Done()


@room.route("DELETE", "/projects/<id>", answer=Done)
def delete_project(id: str) -> Done:
    """Delete a project with everything in it."""
    services().store.delete_project(id)
    services().events.publish("shelf")
    return Done()


@room.route("POST", "/projects/<id>/documents", body=NewDocument, answer=Made)
def create_document(id: str, body: NewDocument) -> Made:
    """Add an empty part, assembly or study to a project."""
    defaults = Defaults.model_validate(services().store.settings(id).get("defaults", {}))
    given = body.model_dump(exclude={"kind", "name", "like"})
    more = DOCUMENT_KINDS.called(body.kind).made(given, defaults.model_dump())
    new = new_document(body.kind, body.name.strip(), units=defaults.units, **more)
    for other in kind_of(new).refers(new):
        services().store.document(other)
    if body.like is not None:
        new = copied(services().store, body.like, id, body.name.strip())
    made = services().store.create_document(id, new)
    services().events.publish("shelf")
    return Made(id=made)


def _keep_defaults(project: str, defaults: Defaults) -> None:
    settings = services().store.settings(project)
    kept = {**settings, "defaults": defaults.model_dump(mode="json")}
    services().store.set_settings(project, kept)
