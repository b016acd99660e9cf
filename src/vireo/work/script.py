"""Building documents by script: the same commands the screen sends, with picks by place."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Any

from vireo.core.documents import new_document
from vireo.core.documents.commands import parse
from vireo.core.documents.commands.base import run
from vireo.core.naming import Topology, make_pick
from vireo.core.naming.topology import EdgeInfo, FaceInfo, Triple, VertexInfo
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
        step: str = record.document.steps[-1].id  # type: ignore[union-attr]
        report = self.build()["steps"][-1]
        if report["status"] != "ok":
            raise AssertionError(f"{name}: {report['error']}")
        return step

    def topology(self, body: str) -> Topology:
        """Faces, edges and corners of a body as they stand."""
        key = next(b["key"] for b in self.build()["bodies"] if b["id"] == body)
        raw = self.script.builds.topology(key)

        def read(cls: Any, data: dict[str, Any]) -> Any:
            return cls(**{k: tuple(v) if isinstance(v, list) else v for k, v in data.items()})

        return Topology(
            faces=tuple(read(FaceInfo, f) for f in raw["faces"]),
            edges=tuple(read(EdgeInfo, e) for e in raw["edges"]),
            vertices=tuple(read(VertexInfo, v) for v in raw["vertices"]),
        )

    def face(self, body: str, near: Triple, kind: str = "") -> dict[str, Any]:
        """The pick of the face whose middle is nearest to a place."""
        t = self.topology(body)
        found = [i for i, f in enumerate(t.faces) if not kind or f.kind == kind]
        best = min(found, key=lambda i: math.dist(t.faces[i].at, near))
        return make_pick(t, body, "face", best).model_dump(mode="json")

    def edge(self, body: str, near: Triple, kind: str = "") -> dict[str, Any]:
        """The pick of the edge whose middle (for circles: centre) is nearest to a place."""
        t = self.topology(body)

        def at(e: EdgeInfo) -> Triple:
            return e.centre if e.kind == "circle" and e.centre else e.at

        found = [i for i, e in enumerate(t.edges) if not kind or e.kind == kind]
        best = min(found, key=lambda i: math.dist(at(t.edges[i]), near))
        return make_pick(t, body, "edge", best).model_dump(mode="json")


@dataclass
class AssemblyScript(DocumentScript):
    components: dict[str, str] = field(default_factory=dict)

    def place(self, part: DocumentScript, name: str, **more: Any) -> str:
        record = self.do("add_component", document=part.id, name=name, **more)
        id: str = record.document.components[-1].id  # type: ignore[union-attr]
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
        id: str = record.document.joints[-1].id  # type: ignore[union-attr]
        return id


class Sketcher:
    """A drawing built up by coordinates; the conditions given must settle it."""

    def __init__(self) -> None:
        self.entities: list[dict[str, Any]] = []
        self.constraints: list[dict[str, Any]] = []

    def point(self, x: float, y: float) -> str:
        id = f"p{len(self.entities) + 1}"
        self.entities.append({"type": "point", "id": id, "x": x, "y": y})
        return id

    def line(self, a: str, b: str, construction: bool = False) -> str:
        id = f"l{len(self.entities) + 1}"
        self.entities.append(
            {"type": "line", "id": id, "a": a, "b": b, "construction": construction}
        )
        return id

    def circle(self, centre: str, radius: float) -> str:
        id = f"c{len(self.entities) + 1}"
        self.entities.append({"type": "circle", "id": id, "centre": centre, "radius": radius})
        return id

    def arc(self, centre: str, start: str, end: str) -> str:
        id = f"a{len(self.entities) + 1}"
        self.entities.append(
            {"type": "arc", "id": id, "centre": centre, "start": start, "end": end}
        )
        return id

    def add(self, type: str, **fields: Any) -> str:
        """Any other entity by its fields."""
        id = f"e{len(self.entities) + 1}"
        self.entities.append({"type": type, "id": id, **fields})
        return id

    def put(self, type: str, *on: str, formula: str | None = None) -> str:
        """A constraint, or with a formula a dimension."""
        id = f"k{len(self.constraints) + 1}"
        self.constraints.append({"id": id, "type": type, "on": list(on), "formula": formula})
        return id

    def box(self, x0: float, y0: float, x1: float, y1: float) -> list[str]:
        """Corners of a level rectangle, from the lower left counter-clockwise."""
        corners = [self.point(*c) for c in ((x0, y0), (x1, y0), (x1, y1), (x0, y1))]
        for i in range(4):
            side = self.line(corners[i], corners[(i + 1) % 4])
            self.put("vertical" if i % 2 else "horizontal", side)
        return corners

    def at(self, point: str, x: str, y: str) -> None:
        """Hold a point at distances from the origin; zero puts it on the axis."""
        for axis, formula, line in (("distance_x", x, "y_axis"), ("distance_y", y, "x_axis")):
            if formula == "0":
                self.put("on_curve", point, line)
            else:
                self.put(axis, "origin", point, formula=formula)

    def polygon(self, points: list[tuple[float, float]]) -> list[str]:
        """Corners of a closed outline; level and upright sides are made so."""
        ids = [self.point(*p) for p in points]
        for i, (p, q) in enumerate(zip(points, points[1:] + points[:1], strict=True)):
            side = self.line(ids[i], ids[(i + 1) % len(ids)])
            if p[1] == q[1]:
                self.put("horizontal", side)
            elif p[0] == q[0]:
                self.put("vertical", side)
        return ids

    @property
    def drawing(self) -> dict[str, Any]:
        return {"entities": self.entities, "constraints": self.constraints}
