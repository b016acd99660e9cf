"""The help: all pages at once, so that they are searched without asking again, and pictures."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from flask import Response

from vireo.core.help import pages
from vireo.server.api import Room, services
from vireo.server.views.help import HelpView
from vireo.store import NotFound

room = Room("help")


@room.route("GET", "/help", answer=HelpView)
def help_pages() -> Any:
    """Every page."""
    services().builds.user_kinds()
    return {"pages": [asdict(p) for p in pages()]}


@room.route("GET", "/help/pictures/<kind>.svg")
def picture(kind: str) -> Response:
    """What a kind of step does to a sample part."""
    found = services().builds.run("help_picture", {"kind": kind}, sticky=None)
    if found is None:
        raise NotFound("there is no picture of this")
    headers = {"Cache-Control": "private, max-age=3600"}
    return Response(found, mimetype="image/svg+xml", headers=headers)
