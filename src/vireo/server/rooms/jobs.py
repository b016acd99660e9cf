"""Long work: starting, watching, stopping; results to look at."""

from __future__ import annotations

from typing import Any

from flask import Response

from vireo.server.api import Room, services
from vireo.server.views.jobs import CurrentView, JobsView, JobView, NewJob
from vireo.store import JobRecord, NotFound

room = Room("jobs")


def _view(job: JobRecord) -> Any:
    return services().jobs.view(job)


@room.route("POST", "/documents/<id>/jobs", body=NewJob, answer=JobView)
def start_job(id: str, body: NewJob) -> Any:
    """Start a job, or get the kept or running one that asks the same."""
    return _view(services().jobs.start(body.kind, id, body.options, looked_at=True))


@room.route("GET", "/documents/<id>/jobs", answer=JobsView)
def jobs_of(id: str) -> Any:
    """Jobs of a document, newest first: what a reloaded page takes up again."""
    return {"jobs": [_view(j) for j in services().store.jobs(id)]}


@room.route("GET", "/documents/<id>/jobs/current", answer=CurrentView)
def jobs_current(id: str) -> Any:
    """Which of the newest results still hold: nothing they hang on has changed since."""
    newest: dict[tuple[str, Any], JobRecord] = {}
    for job in services().store.jobs(id, states=("done",)):
        newest.setdefault(services().jobs.subject(job), job)
    return {"current": {j.id: services().jobs.current(j) for j in newest.values()}}


@room.route("GET", "/jobs/<id>", answer=JobView)
def job(id: str) -> Any:
    """One job with its result."""
    return _view(services().store.job(id))


@room.route("DELETE", "/jobs/<id>", answer=JobView)
def cancel_job(id: str) -> Any:
    """Stop a job."""
    return _view(services().jobs.cancel(id))


@room.route("GET", "/fields/<key>")
def field(key: str) -> Response:
    """The result field of a strength job for the screen."""
    return _kept(
        f"field-{key}",
        "application/octet-stream",
        "this result is no longer kept; run the study again",
    )


@room.route("GET", "/envelopes/<key>")
def envelope(key: str) -> Response:
    """The room a component takes up, as STL in mm."""
    return _kept(
        f"envelope-{key}", "model/stl", "this envelope is no longer kept; ask for it again"
    )


def _kept(name: str, mime: str, gone: str) -> Response:
    """What a job kept under its content: it never changes."""
    data = services().disk.get(name)
    if data is None:
        raise NotFound(gone)
    how = {"ETag": f'"{name}"', "Cache-Control": "private, max-age=31536000, immutable"}
    return Response(data, mimetype=mime, headers=how)
