"""What the faces, edges and vertices of a body are, as plain data. Knows no kernel."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

from vireo.core.naming.grammar import meeting

Triple = tuple[float, float, float]


@dataclass(frozen=True)
class FaceInfo:
    """`kind` plane, cylinder, cone, sphere, torus or freeform; lengths in mm, area in mm2."""

    name: str
    kind: str
    area: float
    at: Triple
    origin: Triple
    direction: Triple | None = None
    radius: float | None = None
    hollow: bool = False
    neighbours: tuple[int, ...] = ()


@dataclass(frozen=True)
class EdgeInfo:
    """`kind` line, circle or curve; `faces` index the one or two faces it bounds."""

    kind: str
    faces: tuple[int, ...]
    ends: tuple[int, ...]
    at: Triple
    length: float
    direction: Triple | None = None
    centre: Triple | None = None
    radius: float | None = None
    closed: bool = False
    #: Where a face closes upon itself: no border anybody sees.
    seam: bool = False
    #: What it is called where no face it bounds says so.
    own: str = ""


@dataclass(frozen=True)
class VertexInfo:
    at: Triple
    faces: tuple[int, ...]
    #: What it is called where no face meets in it: the edges that do.
    own: tuple[str, ...] = ()


@dataclass(frozen=True)
class Topology:
    faces: tuple[FaceInfo, ...] = ()
    edges: tuple[EdgeInfo, ...] = ()
    vertices: tuple[VertexInfo, ...] = ()
    size: float = field(default=0.0)

    @cached_property
    def names(self) -> dict[str, list[tuple[str, ...]]]:
        """The names of all faces, edges and vertices, as picks keep them."""
        return {
            "face": [(f.name,) for f in self.faces],
            "edge": [self.edge_name(i) for i in range(len(self.edges))],
            "vertex": [self.vertex_name(i) for i in range(len(self.vertices))],
        }

    def edge_name(self, index: int) -> tuple[str, ...]:
        """The names of the faces an edge bounds, sorted: its own name."""
        edge = self.edges[index]
        return meeting(self.faces[f].name for f in edge.faces) or (edge.own,)

    def vertex_name(self, index: int) -> tuple[str, ...]:
        vertex = self.vertices[index]
        return meeting(self.faces[f].name for f in vertex.faces) or meeting(vertex.own)

    def end_names(self, index: int) -> tuple[tuple[str, ...], ...]:
        """For each end of an edge the faces that meet there: the first tie-break."""
        return tuple(sorted(self.vertex_name(v) for v in self.edges[index].ends))

    def neighbour_names(self, index: int) -> tuple[str, ...]:
        return meeting(self.faces[n].name for n in self.faces[index].neighbours)
