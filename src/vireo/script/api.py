"""The objects a script holds. Every change is a command; lengths in mm, masses in g."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import Any

#: Asks the program around the script: a method's name and what it takes.
Ask = Callable[..., Any]


class Refused(Exception):
    """A command that was not taken, or a step that did not build, with the reason."""


class Project:
    """The project a script works in. `picked` is what was picked when it was started."""

    def __init__(self, ask: Ask, picks: list[dict[str, Any]] | None = None) -> None:
        self._ask = ask
        self._picks = picks or []

    @property
    def documents(self) -> list[Document]:
        """All documents of the project."""
        return [_opened(self._ask, d) for d in self._ask("documents")]

    def document(self, name: str) -> Any:
        """The document of that name. Raises Refused when there is none."""
        for d in self._ask("documents"):
            if d["name"] == name:
                return _opened(self._ask, d)
        raise Refused(f"there is no document called {name} in this project")

    def part(self, name: str, material: str | None = None) -> Part:
        """A new part."""
        made = Part(self._ask, self._ask("create", kind="part", name=name), name)
        if material is not None:
            made.do("set_material", material=material)
        return made

    def assembly(self, name: str) -> Assembly:
        """A new assembly."""
        return Assembly(self._ask, self._ask("create", kind="assembly", name=name), name)

    def study(self, name: str, part: Part | str) -> Study:
        """A new strength study of a part (or of the part with an id)."""
        id = part if isinstance(part, str) else part.id
        return Study(self._ask, self._ask("create", kind="study", name=name, part=id), name)

    def __getattr__(self, kind: str) -> Callable[..., Any]:
        """A new document of any other kind there is, with what its kind asks for:
        ``project.study("Lever", part=lever)``."""
        if kind.startswith("_"):
            raise AttributeError(kind)

        def new(name: str, **given: Any) -> Document:
            id = self._ask("create", kind=kind, name=name, **_plain(given))
            return _opened(self._ask, {"kind": kind, "id": id, "name": name})

        return new

    @property
    def current(self) -> Any:
        """The document that was open when the script was started."""
        found = self._ask("current")
        if found is None:
            raise Refused("no document is open")
        return _opened(self._ask, found)

    @property
    def picked(self) -> list[Face | Edge | Vertex]:
        """Faces, edges and corners that were picked in the open part, in order."""
        found: list[Face | Edge | Vertex] = []
        if not self._picks:
            return found
        part = self.current
        for pick in self._picks:
            body = next((b for b in part.bodies if b.id == pick["body"]), None)
            group = {"face": "faces", "edge": "edges", "vertex": "vertices"}.get(pick["kind"])
            every = getattr(body, group) if body and group else []
            alike = [i for i in every if i.pick["name"] == pick["name"]]
            if not alike:
                raise Refused("something that was picked is not in the open part")
            # Pieces of one face share their name; which is meant, its place tells.
            at = (pick.get("witness") or {}).get("at") or alike[0].at
            found.append(min(alike, key=lambda i: math.dist(i.at, at)))
        return found


class Document:
    """A document being read or changed. Nothing is kept until the script has run to its end."""

    kind = ""

    def __init__(self, ask: Ask, id: str, name: str) -> None:
        self._ask, self.id, self.name = ask, id, name

    def do(self, command: str, /, **fields: Any) -> str | None:
        """Run a command by its name; the id of what it made, if it made something."""
        made: str | None = self._ask("do", id=self.id, command={"do": command, **_plain(fields)})
        return made

    def parameter(self, name: str, formula: str, **more: Any) -> str:
        """Add a parameter; more: note, group, unit, limits."""
        self.do("add_parameter", name=name, formula=formula, **more)
        return name

    def set(self, **formulas: Any) -> None:
        """Give parameters other formulas: ``part.set(wall="3 mm")``."""
        for name, formula in formulas.items():
            self.do("edit_parameter", name=name, formula=str(formula))

    def check(self, kind: str, name: str, limit: str, **more: Any) -> str | None:
        """Add a check; more: relation (at_most, at_least), fields."""
        return self.do("add_check", kind=kind, name=name, limit=limit, **more)

    @property
    def data(self) -> dict[str, Any]:
        """The whole document as plain data."""
        found: dict[str, Any] = self._ask("view", id=self.id)
        return found

    def values(self) -> dict[str, float]:
        """Values of all parameters in mm, degrees, kg and so on; broken ones are left out."""
        return dict(self._ask("values", id=self.id))


class Part(Document):
    """A part. Every kind of step is a method: ``part.extrude("Plate", sketch=s, depth="4 mm")``.

    A plain number is in mm, of angles in degrees: ``part.extrude(sketch=s, depth=4, draft=2)``."""

    kind = "part"

    def __getattr__(self, kind: str) -> Callable[..., str]:
        if kind.startswith("_"):
            raise AttributeError(kind)

        def add(name: str | None = None, /, **fields: Any) -> str:
            return self.step(kind, name, **fields)

        return add

    def step(
        self, kind: str, name: str | None = None, /, position: int | None = None, **fields: Any
    ) -> str:
        """Add a step of a kind at the end (or at a position in the build list); its id."""
        made = self.do("add_step", kind=kind, name=name, at=position, fields=fields)
        assert made is not None
        return made

    def edit(self, step: str, /, **fields: Any) -> None:
        """Change fields of a step."""
        self.do("edit_step", id=step, fields=fields)

    def regions(self, sketch: str) -> list[Region]:
        """The regions of a sketch step, the largest first: what `regions=` of steps takes."""
        found = self._ask("regions", id=self.id, sketch=sketch)
        return sorted((Region(r) for r in found), key=lambda r: -r.area)

    def outlines(self, sketch: str) -> list[Region]:
        """All that can be taken as everything inside an outline, the largest first, whatever is
        drawn in it: what `regions=` of steps takes as well."""
        found = self._ask("outlines", id=self.id, sketch=sketch)
        return sorted((Region(r) for r in found), key=lambda r: -r.area)

    def curves(self, sketch: str) -> dict[str, list[tuple[float, float]]]:
        """Curves of a sketch step by their ids, those linked from elsewhere too, each as points
        along it (mm, in the plane of the sketch)."""
        found = self._ask("curves", id=self.id, sketch=sketch)
        return {c["id"]: [(x, y) for x, y in c["points"]] for c in found}

    def build(self) -> dict[str, Any]:
        """Build it: steps with their status, mass, volume. Raises Refused for the first step
        that does not build."""
        found: dict[str, Any] = self._ask("build", id=self.id)
        for step in found["steps"]:
            if step["error"]:
                raise Refused(f"{step['name']}: {step['error']}")
        return found

    @property
    def bodies(self) -> list[Body]:
        """The bodies as they stand."""
        return [Body(self._ask, b) for b in self.build()["bodies"]]

    @property
    def body(self) -> Body:
        """The one body. Raises Refused when there are none or several."""
        found = self.bodies
        if len(found) != 1:
            raise Refused(f"{self.name} has {len(found)} bodies, not one")
        return found[0]

    @property
    def mass(self) -> float:
        """Mass in g."""
        return float(self.build()["mass"])

    @property
    def volume(self) -> float:
        """Volume in mm3."""
        return float(self.build()["volume"])

    def export(self, file: str, deviation: float = 0.05) -> None:
        """Write a STEP, STL or 3MF file, by its ending, into the script's folder."""
        self._ask("export", id=self.id, file=file, deviation=deviation)


class Region:
    """A region of a sketch. `area` in mm2; `at` a place inside (mm); `depth` 0 for outer regions, 1 for
    what lies in their holes; `curves` the ids of what bounds it."""

    def __init__(self, data: dict[str, Any]) -> None:
        self.id: str = data["id"]
        self.area: float = data["area"]
        self.at: tuple[float, float] = tuple(data["at"])
        self.depth: int = data["depth"]
        self.curves: list[str] = data["curves"]
        self.pick: dict[str, Any] = {
            "id": self.id, "at": list(self.at), "area": self.area, "curves": self.curves,
        }  # fmt: skip

    def __repr__(self) -> str:
        return f"<Region {self.id} of {self.area:.6g} mm2>"


class Assembly(Document):
    kind = "assembly"

    def place(self, document: Document | str, name: str, **more: Any) -> str | None:
        """Bring a document in; more: anchored, placement."""
        id = document if isinstance(document, str) else document.id
        return self.do("add_component", document=id, name=name, **more)

    def join(self, kind: str, name: str, **ends: Any) -> str | None:
        """Join two components: a and b are ``{"component": id, "pick": pick}``."""
        return self.do("add_joint", kind=kind, name=name, **ends)


class Study(Document):
    kind = "study"


class Body:
    """A body with its faces, edges and corners."""

    def __init__(self, ask: Ask, data: dict[str, Any]) -> None:
        self._ask = ask
        self.id: str = data["id"]
        self.name: str = data["name"]
        self.mass: float = data["mass"]
        self.volume: float = data["volume"]
        self._key: str = data["key"]
        self._topology: dict[str, Any] | None = None

    def _items(self, group: str, cls: Any) -> list[Any]:
        if self._topology is None:
            self._topology = self._ask("topology", key=self._key, body=self.id)
        return [cls(self, i, data) for i, data in enumerate(self._topology[group])]

    @property
    def faces(self) -> list[Face]:
        return self._items("faces", Face)

    @property
    def edges(self) -> list[Edge]:
        return self._items("edges", Edge)

    def face_at(self, x: float, y: float, z: float) -> Face:
        """The face whose middle (`at`) is nearest to a place (mm)."""
        return min(self.faces, key=lambda f: _apart(f.at, (x, y, z)))

    def edge_at(self, x: float, y: float, z: float) -> Edge:
        """The edge whose middle (`at`) is nearest to a place (mm)."""
        return min(self.edges, key=lambda e: _apart(e.at, (x, y, z)))

    @property
    def vertices(self) -> list[Vertex]:
        return self._items("vertices", Vertex)


def _apart(a: tuple[float, ...], b: tuple[float, ...]) -> float:
    return sum((p - q) ** 2 for p, q in zip(a, b, strict=True))


class _Item:
    """Something of a body: `pick` is what steps and joints take."""

    def __init__(self, body: Body, index: int, data: dict[str, Any]) -> None:
        self.body, self.index, self._data = body, index, data
        self.pick: dict[str, Any] = data["pick"]
        self.at: tuple[float, float, float] = tuple(data["at"])

    def __repr__(self) -> str:
        return f"<{type(self).__name__} {self.index} of {self.body.name}>"


class Face(_Item):
    @property
    def kind(self) -> str:
        """plane, cylinder, cone, sphere, torus, freeform."""
        return str(self._data["kind"])

    @property
    def area(self) -> float:
        return float(self._data["area"])

    @property
    def radius(self) -> float | None:
        found: float | None = self._data.get("radius")
        return found

    @property
    def normal(self) -> tuple[float, float, float] | None:
        """Outward normal of a flat face, axis of a round one."""
        d = self._data.get("direction")
        return tuple(d) if d else None

    @property
    def edges(self) -> list[Edge]:
        """The edges around it."""
        return [e for e in self.body.edges if self.index in e.faces]


class Edge(_Item):
    @property
    def kind(self) -> str:
        """line, circle, curve."""
        return str(self._data["kind"])

    @property
    def length(self) -> float:
        return float(self._data["length"])

    @property
    def radius(self) -> float | None:
        found: float | None = self._data.get("radius")
        return found

    @property
    def direction(self) -> tuple[float, float, float] | None:
        d = self._data.get("direction")
        return tuple(d) if d else None

    @property
    def faces(self) -> list[int]:
        """Indices of the faces it lies between."""
        return list(self._data["faces"])


class Vertex(_Item):
    pass


#: Kinds of document that have more to call than commands.
_CLASSES: dict[str, type[Document]] = {c.kind: c for c in (Part, Assembly, Study)}


def _opened(ask: Ask, d: dict[str, Any]) -> Document:
    made = _CLASSES.get(d["kind"], Document)(ask, d["id"], d["name"])
    made.kind = d["kind"]
    return made


def _plain(value: Any) -> Any:
    """Values as JSON: picks of items, drawings of sketches, ids of documents and parts."""
    if isinstance(value, _Item | Region):
        return value.pick
    if isinstance(value, Document):
        return value.id
    if hasattr(value, "drawing"):
        return value.drawing
    if isinstance(value, dict):
        return {k: _plain(v) for k, v in value.items()}
    if isinstance(value, str | bytes):
        return value
    if isinstance(value, list | tuple | set | frozenset | Iterator):
        return [_plain(v) for v in value]
    return value
