"""One real server for all server tests, and a way to make documents in it."""

from __future__ import annotations

import itertools
import json
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager

import pytest

from tests.core.drawings import plate
from tests.serving import Server
from vireo.core.naming import EdgeInfo, FaceInfo, Topology, VertexInfo, make_pick

_NUMBER = itertools.count(1)


class Api:
    """The server as a client sees it."""

    def __init__(self, server: Server) -> None:
        self.server = server

    def get(self, path, **how):
        return self.server.call("GET", path, **how)

    def post(self, path, body=None, **how):
        return self.server.call("POST", path, body, **how)

    def project(self) -> str:
        status, made = self.post("/api/projects", {"name": f"Project {next(_NUMBER)}"})
        assert status == 200
        return made["id"]

    def document(self, kind="part", project=None, **more) -> str:
        body = {"kind": kind, "name": f"Doc {next(_NUMBER)}", **more}
        status, made = self.post(f"/api/projects/{project or self.project()}/documents", body)
        assert status == 200, made
        return made["id"]

    def do(self, id, *commands, base=None):
        base = base if base is not None else self.get(f"/api/documents/{id}")[1]["revision"]
        return self.post(
            f"/api/documents/{id}/commands", {"base": base, "commands": list(commands)}
        )

    def plate(self, project=None, depth="10 mm") -> str:
        """A part: parameter w, a sketched plate, extruded."""
        id = self.document(project=project)
        self.do(id, {"do": "add_parameter", "name": "w", "formula": "60 mm"})
        drawing = plate("w", "40 mm", ((10.0, 10.0),)).drawing
        self.do(id, {"do": "add_step", "kind": "sketch", "fields": {"drawing": drawing}})
        status, found = self.do(
            id, {"do": "add_step", "kind": "extrude", "fields": {"sketch": "s1", "depth": depth}}
        )
        assert status == 200, found
        return id

    @contextmanager
    def listening(self) -> Iterator[Iterator[dict]]:
        """The news of the event stream, one by one, from now on."""
        with urllib.request.urlopen(self.server.base + "/api/events", timeout=60) as stream:
            stream.readline()  # the greeting: whoever has read it misses nothing after
            stream.readline()
            lines = iter(stream.readline, b"")
            yield (json.loads(line[5:]) for line in lines if line.startswith(b"data:"))

    def picks(self, id, body, kind) -> list[dict]:
        """Picks of all faces or edges of a body, as the screen makes them."""
        key = next(b["key"] for b in self.build(id)["bodies"] if b["id"] == body)
        _, data = self.get(f"/api/meshes/{key}")
        size = int.from_bytes(data[28:32], "little")
        raw = json.loads(data[-size:])
        t = Topology(
            faces=tuple(FaceInfo(**f) for f in raw["faces"]),
            edges=tuple(EdgeInfo(**{"ends": (), **e}) for e in raw["edges"]),
            vertices=tuple(VertexInfo(**v) for v in raw["vertices"]),
        )
        count = len(t.names[kind])
        return [make_pick(t, body, kind, i).model_dump(mode="json") for i in range(count)]

    def build(self, id, **query):
        text = "&".join(f"{k}={v}" for k, v in query.items())
        status, found = self.get(f"/api/documents/{id}/build?{text}")
        assert status == 200, found
        return found


@pytest.fixture(scope="session")
def api(tmp_path_factory):
    server = Server(tmp_path_factory.mktemp("server") / "data", VIREO_STEP_SECONDS="30")
    yield Api(server)
    server.stop()
