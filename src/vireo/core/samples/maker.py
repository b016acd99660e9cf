"""Parts made in memory, without a store: for pictures in the help, and for tests."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

from vireo.core.documents import load_document, new_document
from vireo.core.documents.commands import parse
from vireo.core.documents.commands.base import run
from vireo.core.kernel.shape import Body
from vireo.core.material import LIBRARY
from vireo.core.naming import Topology, make_pick
from vireo.core.part.build import Builder
from vireo.core.part.cache import Cache
from vireo.core.part.report import PartBuild
from vireo.core.part.state import topology_by_key
from vireo.script.sketch import Sketch

MATERIALS = {m.id: m for m in LIBRARY}


class Maker:
    """A part under construction with its own builder."""

    def __init__(self, cache: Cache | None = None) -> None:
        self.part: Any = new_document("part", "Sample")
        self.cache = cache or Cache()
        self.ran: list[str] = []
        self.builder = Builder(self.cache, on_step=lambda i, id, key: self.ran.append(id))

    def do(self, command: str, /, **fields: Any) -> Maker:
        self.part = run(parse({"do": command, **fields}), self.part)
        return self

    def step(self, kind: str, **fields: Any) -> str:
        self.do("add_step", kind=kind, fields=fields)
        made: str = self.part.steps[-1].id
        return made

    def sketch(self, s: Sketch, plane: dict[str, Any] | None = None) -> str:
        return self.step("sketch", drawing=s.drawing, plane=plane or {"base": "XY", "face": None})

    def build(self, **how: Any) -> PartBuild:
        self.ran.clear()
        return self.builder.build(self.part, MATERIALS, **how)

    def body(self, id: str | None = None) -> tuple[str, Body]:
        found = self.build()
        key = found.bodies[id or next(iter(found.bodies))]["key"]
        return key, self.cache.body(key)

    def topology(self, id: str | None = None) -> Topology:
        return topology_by_key(*self.body(id))

    def pick(
        self, kind: Literal["face", "edge"], test: Callable[[Any], bool], id: str | None = None
    ) -> list[dict[str, Any]]:
        """Picks of all faces or edges for which `test(info)` holds."""
        t = self.topology(id)
        body = id or next(iter(self.build().bodies))
        group: Any = t.faces if kind == "face" else t.edges
        return [
            make_pick(t, body, kind, i).model_dump(mode="json")
            for i, x in enumerate(group)
            if test(x)
        ]

    def reload(self) -> None:
        self.part = load_document(self.part.model_dump(mode="json"))
