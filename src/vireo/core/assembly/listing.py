"""What an assembly is made of, as a list: structured, of its top level, or of parts only."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from vireo.core.documents import Document
from vireo.core.documents.base import Choice, key_parts
from vireo.core.documents.kinds.assembly import Assembly, Component
from vireo.core.documents.kinds.part import Part
from vireo.core.documents.members import called
from vireo.core.naming.grammar import original_of

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
    #: Which member of the document it is, and what that is called: nothing where it is as drawn.
    choice: Choice = field(default_factory=Choice)
    variant: str = ""
    tags: list[str] = field(default_factory=list)
    paths: list[tuple[str, ...]] = field(default_factory=list)

    @property
    def total(self) -> float:
        return self.mass * self.quantity


@dataclass(frozen=True)
class Around:
    """What a list is made from: documents by their ids, the mass (g) of one of each, and the paths
    from the top to all that is copied, its own last."""

    other: Callable[[str], Document | None]
    mass: Mapping[str, float]
    copies: frozenset[tuple[str, ...]] = frozenset()

    def occurrences(
        self, assembly: Assembly, above: tuple[str, ...]
    ) -> Iterator[tuple[Component, str]]:
        """The components of an assembly with the ids they and their copies stand under."""
        for component in assembly.components:
            if component.reference or component.absent:
                continue
            yield component, component.id
            for id in self._copied.get((*above, component.id), ()):
                yield component, id

    @cached_property
    def _copied(self) -> dict[tuple[str, ...], list[str]]:
        """Copies by the path to what they were made of."""
        found: dict[tuple[str, ...], list[str]] = {}
        for path in sorted(self.copies):
            if original_of(path[-1]) != path[-1]:
                found.setdefault((*path[:-1], original_of(path[-1])), []).append(path[-1])
        return found


def parts_list(assembly: Assembly, around: Around, way: Way = "structured") -> list[Line]:
    """Lines of an assembly.

    Equal documents of one assembly share a line; in a structured list what is inside follows its
    assembly, counted for one of it. Documents that are gone stand with what they are called.
    """
    lines: list[Line] = []
    if way == "parts":
        _parts(assembly, around, (), {}, lines)
    else:
        _level(assembly, around, (), 0, way == "structured", lines)
    return lines


def _line(id: str, own: str, level: int, around: Around) -> Line:
    document = around.other(id)
    return Line(
        document=key_parts(id)[0],
        kind=document.kind if document else "gone",
        name=document.name if document else own,
        level=level,
        quantity=0,
        mass=around.mass.get(id, 0.0),
        material=document.material if isinstance(document, Part) else "",
        properties={p.name: p.value for p in document.properties} if document else {},
        choice=key_parts(id)[1],
        variant=called(document, key_parts(id)[1]) if document and "@" in id else "",
    )


def _level(
    assembly: Assembly, around: Around,
    above: tuple[str, ...], level: int, deep: bool, into: list[Line],
) -> None:  # fmt: skip
    found: dict[str, Line] = {}
    for component, own in around.occurrences(assembly, above):
        id = component.key
        line = found.get(id)
        if line is None:
            line = found[id] = _line(id, component.name, level, around)
        line.quantity += 1
        line.paths.append((*above, own))
        if component.tag and own == component.id:
            line.tags.append(component.tag)
    for id, line in found.items():
        into.append(line)
        inner = around.other(id)
        if deep and isinstance(inner, Assembly) and len(into) < MOST:
            _level(inner, around, line.paths[0], level + 1, deep, into)


def _parts(
    assembly: Assembly, around: Around,
    above: tuple[str, ...], found: dict[str, Line], into: list[Line],
) -> None:  # fmt: skip
    for component, own in around.occurrences(assembly, above):
        id, path = component.key, (*above, own)
        inner = around.other(id)
        if isinstance(inner, Assembly):
            _parts(inner, around, path, found, into)
            continue
        line = found.get(id)
        if line is None:
            line = found[id] = _line(id, component.name, 0, around)
            into.append(line)
        line.quantity += 1
        line.paths.append(path)
        if component.tag and own == component.id:
            line.tags.append(component.tag)
