"""Scripts: run, stopped, kept by name; documents and edits told as scripts."""

from __future__ import annotations

from typing import Any

from vireo.server.api import Room, services
from vireo.server.views.documents import Done
from vireo.server.views.scripts import RunRequest, RunView, ScriptsView, ScriptText, ScriptView

room = Room("scripts")


@room.route("POST", "/projects/<id>/run", body=RunRequest, answer=RunView)
def run(id: str, body: RunRequest) -> Any:
    """Run a script on a project; what it did is kept when it ran to its end."""
    ran = services().scripts.run(
        id, body.text, name=body.name, document=body.document,
        picks=[p.model_dump(mode="json") for p in body.picks], seconds=body.seconds,
    )  # fmt: skip
    return {
        "printed": [{"text": t, "line": n} for t, n in ran.printed],
        "changed": ran.changed,
        "trouble": {"text": ran.trouble[0], "line": ran.trouble[1]} if ran.trouble else None,
    }


@room.route("POST", "/projects/<id>/run/stop", answer=Done)
def stop(id: str) -> Done:
    """Stop the script that runs in a project."""
    return Done(ok=services().scripts.stop(id))


@room.route("GET", "/projects/<id>/scripts", answer=ScriptsView)
def kept(id: str) -> Any:
    """Scripts kept in a project."""
    return {"scripts": services().scripts.kept(id)}


@room.route("PUT", "/projects/<id>/scripts/<name>", body=ScriptText, answer=Done)
def keep(id: str, name: str, body: ScriptText) -> Done:
    """Keep a script under a name."""
    services().scripts.keep(id, name[:60], body.text)
    return Done()


@room.route("DELETE", "/projects/<id>/scripts/<name>", answer=Done)
def forget(id: str, name: str) -> Done:
    """Take a kept script away."""
    services().scripts.keep(id, name, None)
    return Done()


@room.route("GET", "/documents/<id>/script", answer=ScriptView, query={"since": int})
def told(id: str, since: int | None) -> Any:
    """A document as the script that makes it, or what was done to it since a revision."""
    return {"text": services().scripts.of_document(id, since)}


@room.route("GET", "/projects/<id>/script", answer=ScriptView)
def project_told(id: str) -> Any:
    """All documents of a project as one script."""
    return {"text": services().scripts.of_project(id)}
