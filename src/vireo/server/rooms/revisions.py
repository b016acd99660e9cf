"""Revisions: the timeline of a document, going back, branches, two states compared."""

from __future__ import annotations

import time
from dataclasses import asdict
from typing import Any

from vireo.server.api import Room, services
from vireo.server.rooms.documents import tell
from vireo.server.views.documents import DocumentView, Done, Made
from vireo.server.views.revisions import (
    Back,
    CompareAsk,
    CompareView,
    FollowersView,
    Mark,
    MergeAsk,
    MergeView,
    NewBranch,
    SideAsk,
    TimelineView,
)
from vireo.work.comparing import Side

room = Room("revisions")


@room.route("GET", "/documents/<id>/revisions", answer=TimelineView, query={"before": int})
def timeline(id: str, before: int | None) -> Any:
    """What was done to a document, newest first, its branches, and who follows it."""
    work = services()
    record = work.store.document(id)
    rows = work.revisions.timeline(id, before)
    origin = work.store.origin(id)
    last = rows[-1]["number"] if rows else 0
    return {
        "head": record.revision, "revisions": rows,
        "more": any(r["number"] < last for r in work.store.revisions(id)),
        "branches": [_ref(branch) for branch, _ in work.store.branches(id)],
        "origin": _origin(origin) if origin else None,
        "followers": _followers(id),
    }  # fmt: skip


@room.route("GET", "/documents/<id>/followers", answer=FollowersView)
def followers(id: str) -> Any:
    """The documents that have a document at its newest, however far above: a change changes them."""
    return {"followers": _followers(id)}


def _followers(id: str) -> list[dict[str, Any]]:
    return [
        {"id": r.id, "name": r.document.name, "kind": r.kind}
        for r in services().revisions.followers(id)
    ]


def _ref(id: str) -> dict[str, Any]:
    record = services().store.document(id)
    return {"id": id, "name": record.document.name, "kind": record.kind}


def _origin(origin: dict[str, Any]) -> dict[str, Any] | None:
    """What a branch was branched off; nothing where that was deleted."""
    project = [d for p in services().store.projects() for d in p["documents"]]
    there = next((d for d in project if d["id"] == origin["document"]), None)
    if there is None:
        return None
    return {"document": there["id"], "name": there["name"], "revision": origin["revision"]}


@room.route("PUT", "/documents/<id>/revisions/<revision>", body=Mark, answer=Done)
def mark_revision(id: str, revision: str, body: Mark) -> Done:
    """Name a revision, or approve it; what is not said stays."""
    marks: dict[str, Any] = {}
    if "version" in body.model_fields_set:
        marks["version"] = (body.version or "").strip() or None
    if body.approved is not None:
        marks["approved"] = time.time() if body.approved else None
    services().store.mark_revision(id, int(revision), **marks)
    services().events.publish("revisions", id=id)
    return Done()


@room.route("POST", "/documents/<id>/back", body=Back, answer=DocumentView)
def go_back(id: str, body: Back) -> DocumentView:
    """Have the document as it was at a revision, as a new revision."""
    return tell(services().revisions.back(id, body.base, body.revision))


@room.route("POST", "/documents/<id>/branches", body=NewBranch, answer=Made)
def branch(id: str, body: NewBranch) -> Made:
    """A document of its own that begins as this one is at a revision."""
    made = services().revisions.branch(id, body.revision, body.name)
    services().events.publish("shelf")
    return Made(id=made)


@room.route("POST", "/documents/<id>/merge-look", body=MergeAsk, answer=MergeView)
def look_at_merge(id: str, body: MergeAsk) -> Any:
    """What taking a branch in would bring; nothing is kept."""
    found = services().revisions.look(id, body.branch, body.chosen)
    return {
        "brings": [asdict(d) for d in found.brings], "conflicts": [asdict(c) for c in found.conflicts],
        "faults": [{"name": name, "why": why} for name, why in found.faults.values()],
    }  # fmt: skip


@room.route("POST", "/documents/<id>/merge", body=MergeAsk, answer=DocumentView)
def merge(id: str, body: MergeAsk) -> DocumentView:
    """Take what was changed in a branch in, as a new revision."""
    return tell(services().revisions.take_in(id, body.base, body.branch, body.chosen))


@room.route("POST", "/documents/<id>/compare", body=CompareAsk, answer=CompareView)
def compare(id: str, body: CompareAsk) -> Any:
    """What differs between two states of a document, or of two."""

    def side(ask: SideAsk) -> Side:
        return Side(ask.document or id, ask.revision, ask.choice)

    found = services().comparing.compare(side(body.before), side(body.after))
    return {**found, "differences": [asdict(d) for d in found["differences"]]}
