"""What an assembly is made of, as a list: structured, of its top level, or of parts only."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Literal

from vireo.core.documents import Document
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.documents.kinds.part import Part

Way = Literal["structured", "top", "parts"]
#: More lines than this are no list anybody reads.
MOST = 20_000


@dataclass
class Line:
    """A document that stands in an assembly `quantity` times. `mass` is that of one (g), `level` how
    deep it stands; `paths` lead to all of its occurrences: component ids from the top down."""

    document: str
    kind: str
    name: str
    level: int
    quantity: int
    mass: float
    material: str
    properties: dict[str, str]
    tags: list[str] = field(default_factory=list)
    paths: list[tuple[str, ...]] = field(default_factory=list)

    @property
    def total(self) -> float:
        return self.mass * self.quantity


def parts_list(
    assembly: Assembly,
    other: Callable[[str], Document | None],
    mass: Mapping[str, float],
    way: Way = "structured",
) -> list[Line]:
    """Lines of an assembly. `other` gives documents by their ids, `mass` the mass (g) of one of each.

    Equal documents of one assembly share a line; in a structured list what is inside follows its
    assembly, counted for one of it. Documents that are gone stand with what they are called.
    """
    lines: list[Line] = []
    if way == "parts":
        _parts(assembly, other, mass, (), {}, lines)
    else:
        _level(assembly, other, mass, (), 0, way == "structured", lines)
    return lines


def _line(
    id: str, document: Document | None, called: str, level: int, mass: Mapping[str, float]
) -> Line:
    return Line(
        document=id,
        kind=document.kind if document else "gone",
        name=document.name if document else called,
        level=level,
        quantity=0,
        mass=mass.get(id, 0.0),
        material=document.material if isinstance(document, Part) else "",
        properties={p.name: p.value for p in document.properties} if document else {},
    )


def _level(
    assembly: Assembly, other: Callable[[str], Document | None], mass: Mapping[str, float],
    above: tuple[str, ...], level: int, deep: bool, into: list[Line],
) -> None:  # fmt: skip
    found: dict[str, Line] = {}
    for component in assembly.components:
        id = component.document
        line = found.get(id)
        if line is None:
            line = found[id] = _line(id, other(id), component.name, level, mass)
        line.quantity += 1
        line.paths.append((*above, component.id))
        if component.tag:
            line.tags.append(component.tag)
    for id, line in found.items():
        into.append(line)
        inner = other(id)
        if deep and isinstance(inner, Assembly) and len(into) < MOST:
            _level(inner, other, mass, line.paths[0], level + 1, deep, into)


def _parts(
    assembly: Assembly, other: Callable[[str], Document | None], mass: Mapping[str, float],
    above: tuple[str, ...], found: dict[str, Line], into: list[Line],
) -> None:  # fmt: skip
    for component in assembly.components:
        id, path = component.document, (*above, component.id)
        inner = other(id)
        if isinstance(inner, Assembly):
            _parts(inner, other, mass, path, found, into)
            continue
        line = found.get(id)
        if line is None:
            line = found[id] = _line(id, inner, component.name, 0, mass)
            into.append(line)
        line.quantity += 1
        line.paths.append(path)
        if component.tag:
            line.tags.append(component.tag)
