"""View buffers of bodies by content key: immutable, so kept by the browser for good."""

from __future__ import annotations

import re

from flask import Response, request

from vireo.server.api import Room, services
from vireo.store import NotFound
from vireo.work.supervisor import TaskTrouble

room = Room("meshes")


@room.route("GET", "/meshes/<key>")
def mesh(key: str) -> Response:
    """The binary buffer of one body."""
    if not re.fullmatch(r"[0-9a-f]{32}", key):
        raise NotFound("there is no such body")
    tag = f'"{key}"'
    if request.headers.get("If-None-Match") == tag:
        return Response(status=304, headers={"ETag": tag})
    data = services().disk.get(f"mesh-{key}")
    if data is None:
        try:
            data = services().builds.mesh(key)
        except TaskTrouble as trouble:
            raise NotFound("this body is no longer kept; build the document again") from trouble
    return Response(
        data,
        mimetype="application/octet-stream",
        headers={"ETag": tag, "Cache-Control": "private, max-age=31536000, immutable"},
    )
