"""View buffers of bodies by content key: immutable, so kept by the browser for good."""

from __future__ import annotations

import math
import re
from collections.abc import Callable

from flask import Response, request

from vireo.core.maps import MAP_KINDS
from vireo.core.maps.kind import VERSION
from vireo.core.trouble import BadInput
from vireo.core.viewmesh import kept_as
from vireo.server.api import Room, services
from vireo.store import NotFound
from vireo.work.lanes import TaskTrouble

room = Room("meshes")


@room.route("GET", "/meshes/<key>")
def mesh(key: str) -> Response:
    """The binary buffer of one body."""
    return _kept(key, kept_as(key), lambda: services().builds.mesh(key), key)


@room.route("GET", "/meshes/<key>/maps/<kind>")
def map_of(key: str, kind: str) -> Response:
    """A map of one body, for the direction ``way=x,y,z`` where its kind has one."""
    if kind not in MAP_KINDS:
        raise NotFound(f"there is no map called {kind}; known: {', '.join(sorted(MAP_KINDS))}")
    way = (0.0, 0.0, 1.0)
    if MAP_KINDS[kind].directed:
        try:
            x, y, z = (float(v) for v in request.args.get("way", "0,0,1").split(","))
        except ValueError as error:
            raise BadInput("a direction is three numbers: way=0,0,1") from error
        if not all(math.isfinite(v) for v in (x, y, z)):
            raise BadInput("a direction is three finite numbers")
        way = (x, y, z)
    name = f"map{VERSION}-{kind}-{way}-{key}"
    return _kept(key, name, lambda: services().builds.map(key, kind, way, name))


def _kept(key: str, name: str, make: Callable[[], bytes], tag: str = "") -> Response:
    """A buffer that depends on a body's content alone, from disk or made anew."""
    if not re.fullmatch(r"[0-9a-f]{32}", key):
        raise NotFound("there is no such body")
    tag = f'"{tag or name}"'
    if request.headers.get("If-None-Match") == tag:
        return Response(status=304, headers={"ETag": tag})
    data = services().disk.get(name)
    if data is None:
        try:
            data = make()
        except TaskTrouble as trouble:
            if trouble.code == "bad_input":
                raise
            raise NotFound("this body is no longer kept; build the document again") from trouble
    return Response(
        data,
        mimetype="application/octet-stream",
        headers={"ETag": tag, "Cache-Control": "private, max-age=31536000, immutable"},
    )
