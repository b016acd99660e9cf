"""Parts built in tests, without a server."""

from __future__ import annotations

import math

from tests.core.drawings import plate
from vireo.core.documents import load_document, new_document
from vireo.core.documents.commands import parse
from vireo.core.documents.commands.base import run
from vireo.core.material import LIBRARY
from vireo.core.naming import make_pick
from vireo.core.part.build import Builder
from vireo.core.part.cache import Cache
from vireo.core.part.context import topology_by_key
from vireo.work.script import Sketcher

MATERIALS = {m.id: m for m in LIBRARY}


class Maker:
    """A part under construction with its own builder."""

    def __init__(self, cache: Cache | None = None) -> None:
        self.part = new_document("part", "Test")
        self.cache = cache or Cache()
        self.ran: list[str] = []
        self.builder = Builder(self.cache, on_step=lambda i, id, key: self.ran.append(id))

    def do(self, command: str, /, **fields):
        self.part = run(parse({"do": command, **fields}), self.part)
        return self

    def step(self, kind: str, **fields) -> str:
        self.do("add_step", kind=kind, fields=fields)
        return self.part.steps[-1].id

    def sketch(self, s: Sketcher, plane=None) -> str:
        return self.step("sketch", drawing=s.drawing, plane=plane or {"base": "XY", "face": None})

    def build(self, **how):
        self.ran.clear()
        return self.builder.build(self.part, MATERIALS, **how)

    def body(self, id: str | None = None):
        found = self.build()
        key = found.bodies[id or next(iter(found.bodies))]["key"]
        return key, self.cache.body(key)

    def topology(self, id: str | None = None):
        return topology_by_key(*self.body(id))

    def pick(self, kind: str, test, id: str | None = None):
        """Picks of all faces or edges for which `test(info)` holds."""
        t = self.topology(id)
        body = id or next(iter(self.build().bodies))
        group = t.faces if kind == "face" else t.edges
        return [
            make_pick(t, body, kind, i).model_dump(mode="json")
            for i, x in enumerate(group)
            if test(x)
        ]

    def reload(self) -> None:
        self.part = load_document(self.part.model_dump(mode="json"))


def upright(e) -> bool:
    return e.kind == "line" and e.direction is not None and abs(e.direction[2]) > 0.99


def block(width="60 mm", height="40 mm", depth="10 mm", holes=()) -> Maker:
    m = Maker()
    m.do("add_parameter", name="w", formula=width)
    s = m.sketch(plate("w", height, holes))
    m.step("extrude", sketch=s, depth=depth)
    return m


def near(a, b, tolerance=1e-6) -> bool:
    return math.dist(a, b) < tolerance
