"""Checks: of a document, of a whole project, what one found over time, which change broke it."""

from __future__ import annotations

from typing import Any

from vireo.core.checks.kind import CHECK_KINDS
from vireo.core.documents.members import called
from vireo.server.api import Room, services
from vireo.server.views.jobs import BlameView, CheckHistoryView, ChecksView, ProjectChecksView
from vireo.store import DocumentRecord
from vireo.work.blame import Blame, Made
from vireo.work.checks import variant_of

room = Room("checks")


@room.route("GET", "/documents/<id>/checks", answer=ChecksView)
def checks(id: str) -> Any:
    """All checks of a document as they stand; heavy ones start by themselves."""
    return {"checks": services().checks.run(id)}


@room.route("GET", "/projects/<id>/checks", answer=ProjectChecksView)
def project_checks(id: str) -> Any:
    """All checks of a project with what is known of them; those out of date are run soon."""
    work = services()
    records = work.store.documents_of(id)
    documents = [
        {
            "document": r.id, "name": r.document.name, "kind": r.document.kind, "revision": r.revision,
            "member": called(r.document, r.document.active) if variant_of(r.document) else "",
            "checks": [
                answer | _said(r, n) for n, answer in enumerate(work.checks.stand(r))
            ],
        }
        for r in records if r.document.checks
    ]  # fmt: skip
    if any(c["state"] == "old" for d in documents for c in d["checks"]):
        work.standing.touch(id)
    name = next(p["name"] for p in work.store.projects() if p["id"] == id)
    return {"project": id, "name": name, "documents": documents}


def _said(record: DocumentRecord, index: int) -> dict[str, Any]:
    check = record.document.checks[index]
    kind = CHECK_KINDS.get(check.kind)
    return {
        "name": check.name, "label": kind.label if kind else check.kind, "relation": check.relation,
        "typed": check.limit, "severity": check.severity, "note": check.note,
    }  # fmt: skip


@room.route("GET", "/documents/<id>/checks/<check>", answer=CheckHistoryView)
def check_history(id: str, check: str) -> Any:
    """What a check found, oldest first, and what is known of which change broke it."""
    work = services()
    mine = variant_of(work.store.document(id).document)
    rows = [
        {
            "revision": r.revision, "member": r.answer.get("member", ""), "mine": r.variant == mine,
            **{k: r.answer.get(k) for k in ("state", "shown", "limit", "value", "bound")},
            "created": r.created,
        }
        for r in work.checks.history(id, check)
    ]  # fmt: skip
    return {"rows": rows, "blame": _told(work.blaming.blame(id, check))}


@room.route("POST", "/documents/<id>/checks/<check>/blame", answer=BlameView)
def blame(id: str, check: str) -> Any:
    """Build the states in between until it is known which change broke a check."""
    return _told(services().blaming.blame(id, check, find=True))


def _told(found: Blame) -> dict[str, Any]:
    broke = _made(found.broke) if found.broke else None
    return {"between": [_made(m) for m in found.between], "broke": broke, "why": found.why}


def _made(made: Made) -> dict[str, Any]:
    name = services().store.document(made.document).document.name
    return {
        "document": made.document, "name": name, "revision": made.revision, "label": made.label,
        "created": made.created,
    }  # fmt: skip
