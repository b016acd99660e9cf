"""Making documents step by step with every revision kept, as a person would leave them: the same
commands the screen sends, with picks by place."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Any

from vireo.core.documents import new_document
from vireo.core.documents.commands import parse
from vireo.core.documents.commands.base import run
from vireo.core.naming import Topology, make_pick
from vireo.core.naming.topology import EdgeInfo, Triple
from vireo.core.viewmesh import topology_from
from vireo.store import DocumentRecord, Store
from vireo.work.builds import Builds


@dataclass
class Script:
    """A project being built. Every `do` is one durable revision."""

    store: Store
    builds: Builds
    project: str

    def part(self, name: str, material: str = "S235") -> PartScript:
        id = self.store.create_document(self.project, new_document("part", name))
        made = PartScript(self, id)
        made.do("set_material", material=material)
        return made

    def assembly(self, name: str) -> AssemblyScript:
        made = self.store.create_document(self.project, new_document("assembly", name))
        return AssemblyScript(self, made)

    def study(self, name: str, part: PartScript) -> DocumentScript:
        id = self.store.create_document(self.project, new_document("study", name, part=part.id))
        return DocumentScript(self, id)


@dataclass
class DocumentScript:
    script: Script
    id: str

    @property
    def record(self) -> DocumentRecord:
        return self.script.store.document(self.id)

    def do(self, name: str, /, **fields: Any) -> DocumentRecord:
        """Run one command. Raises Trouble when it is refused."""
        record = self.record
        command = parse({"do": name, **fields})
        changed = run(command, record.document)
        return self.script.store.commit(
            self.id,
            record.revision,
            changed,
            command.label(),
            {"commands": [{"do": name, **fields}]},
        )

    def parameter(self, name: str, formula: str, **more: Any) -> None:
        self.do("add_parameter", name=name, formula=formula, **more)

    def build(self) -> dict[str, Any]:
        return self.script.builds.build(self.id)


@dataclass
class PartScript(DocumentScript):
    def add(self, kind: str, name: str, **fields: Any) -> str:
        """Add a step; returns its id. Raises AssertionError when it does not build."""
        record = self.do("add_step", kind=kind, name=name, fields=fields)
        step: str = record.document.steps[-1].id  # type: ignore[attr-defined]
        report = self.build()["steps"][-1]
        if report["status"] != "ok":
            raise AssertionError(f"{name}: {report['error']}")
        return step

    def topology(self, body: str) -> Topology:
        """Faces, edges and corners of a body as they stand."""
        key = next(b["key"] for b in self.build()["bodies"] if b["id"] == body)
        return topology_from(self.script.builds.topology(key))

    def face(self, body: str, near: Triple, kind: str = "") -> dict[str, Any]:
        """The pick of the face whose middle is nearest to a place."""
        t = self.topology(body)
        found = [i for i, f in enumerate(t.faces) if not kind or f.kind == kind]
        best = min(found, key=lambda i: math.dist(t.faces[i].at, near))
        return make_pick(t, body, "face", best).model_dump(mode="json")

    def edge(
        self, body: str, near: Triple, kind: str = "", radius: float | None = None
    ) -> dict[str, Any]:
        """The pick of the edge whose middle (for circles: centre) is nearest to a place; of those
        of a radius (mm) where one is given."""
        t = self.topology(body)

        def at(e: EdgeInfo) -> Triple:
            return e.centre if e.kind == "circle" and e.centre else e.at

        found = [
            i for i, e in enumerate(t.edges)
            if (not kind or e.kind == kind)
            and (radius is None or abs((e.radius or 0.0) - radius) < 1e-6)
        ]  # fmt: skip
        best = min(found, key=lambda i: math.dist(at(t.edges[i]), near))
        return make_pick(t, body, "edge", best).model_dump(mode="json")


@dataclass
class AssemblyScript(DocumentScript):
    components: dict[str, str] = field(default_factory=dict)

    def place(self, part: DocumentScript, name: str, **more: Any) -> str:
        moving = more.pop("moving", False)
        record = self.do("add_component", document=part.id, name=name, **more)
        id: str = record.document.components[-1].id  # type: ignore[attr-defined]
        if moving:
            self.do("edit_component", id=id, moving=True)
        self.components[name] = id
        return id

    def join(
        self, kind: str, name: str, a: tuple[str, dict[str, Any]], b: tuple[str, dict[str, Any]],
        **more: Any,
    ) -> str:  # fmt: skip
        """Join two ends, each a component and a pick on it."""
        ends = {
            side: {"component": component, "pick": pick}
            for side, (component, pick) in (("a", a), ("b", b))
        }
        record = self.do("add_joint", kind=kind, name=name, **ends, **more)
        id: str = record.document.joints[-1].id  # type: ignore[attr-defined]
        return id
