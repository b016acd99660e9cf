"""Bodies: a kernel shape with a name for each of its faces, and access to its parts."""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any, TypeVar

from OCP.BinTools import BinTools
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.collections import (
    IndexedDataMap_TopoDS_Shape_List_TopoDS_Shape_TopTools_ShapeMapHasher as AncestorMap,
)
from OCP.collections import (
    IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap,
)
from OCP.collections import List_TopoDS_Shape as ShapeList
from OCP.TopAbs import (
    TopAbs_EDGE,
    TopAbs_FACE,
    TopAbs_ShapeEnum,
    TopAbs_SOLID,
    TopAbs_VERTEX,
)
from OCP.TopExp import TopExp
from OCP.TopoDS import (
    TopoDS,
    TopoDS_Compound,
    TopoDS_Edge,
    TopoDS_Face,
    TopoDS_Shape,
    TopoDS_Vertex,
)

KERNEL_VERSION = "8.0.1.1"

T = TypeVar("T")


class Key:
    """A shape as a dictionary key: same underlying geometry and place, orientation ignored."""

    __slots__ = ("hash", "shape")

    def __init__(self, shape: TopoDS_Shape) -> None:
        self.shape = shape
        self.hash = hash(shape)

    def __hash__(self) -> int:
        return self.hash

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Key) and bool(self.shape.IsSame(other.shape))


def items(shapes: Any) -> list[TopoDS_Shape]:
    """The members of a kernel list. Iterating the list itself costs 0.8 ms each time."""
    if shapes.IsEmpty():
        return []
    copy = ShapeList(shapes)
    found = []
    while copy.Size():
        found.append(copy.First())
        copy.RemoveFirst()
    return found


def mapped(shape: TopoDS_Shape, kind: TopAbs_ShapeEnum) -> list[TopoDS_Shape]:
    found = ShapeMap()
    TopExp.MapShapes_s(shape, kind, found)
    return [found.FindKey(i) for i in range(1, found.Extent() + 1)]


def faces_of(shape: TopoDS_Shape) -> list[TopoDS_Face]:
    return [TopoDS.Face(s) for s in mapped(shape, TopAbs_FACE)]


def edges_of(shape: TopoDS_Shape) -> list[TopoDS_Edge]:
    return [TopoDS.Edge(s) for s in mapped(shape, TopAbs_EDGE)]


def vertices_of(shape: TopoDS_Shape) -> list[TopoDS_Vertex]:
    return [TopoDS.Vertex(s) for s in mapped(shape, TopAbs_VERTEX)]


def solids_of(shape: TopoDS_Shape) -> list[TopoDS_Shape]:
    return mapped(shape, TopAbs_SOLID)


def compound_of(shapes: list[TopoDS_Shape]) -> TopoDS_Compound:
    builder, compound = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(compound)
    for shape in shapes:
        builder.Add(compound, shape)
    return compound


def unwrap(shape: TopoDS_Shape) -> TopoDS_Shape:
    """The one solid inside a compound, or a plain compound of its solids."""
    solids = solids_of(shape)
    return solids[0] if len(solids) == 1 else compound_of(solids)


def ancestors(shape: TopoDS_Shape, of: TopAbs_ShapeEnum, among: TopAbs_ShapeEnum) -> AncestorMap:
    found = AncestorMap()
    TopExp.MapShapesAndUniqueAncestors_s(shape, of, among, found)
    return found


@dataclass(frozen=True, eq=False)
class Body:
    """A sound shape of some form (`kernel.forms`) with `names[i]` for its i-th face, or edge where
    it has no faces.

    Faces, edges and vertices are counted in the kernel's map order, which survives storing.
    """

    shape: TopoDS_Shape
    names: tuple[str, ...]

    @cached_property
    def faces(self) -> list[TopoDS_Face]:
        return faces_of(self.shape)

    @cached_property
    def edges(self) -> list[TopoDS_Edge]:
        """All edges with a length; the kernel's degenerate ones (at a cone's tip) left out."""
        return [e for e in edges_of(self.shape) if not BRep_Tool.Degenerated_s(e)]

    @cached_property
    def vertices(self) -> list[TopoDS_Vertex]:
        return vertices_of(self.shape)

    @cached_property
    def edge_faces(self) -> list[tuple[int, ...]]:
        """For each edge the indices of the faces it bounds (one for a seam, else two)."""
        index = {Key(f): i for i, f in enumerate(self.faces)}
        found = ancestors(self.shape, TopAbs_EDGE, TopAbs_FACE)
        if not index:
            return [() for _ in self.edges]
        return [
            tuple(sorted({index[Key(f)] for f in items(found.FindFromKey(e))})) for e in self.edges
        ]

    def named_faces(self) -> Iterator[tuple[TopoDS_Face, str]]:
        return zip(self.faces, self.names if self.faces else (), strict=True)

    def to_bytes(self) -> bytes:
        """Shape only; names travel beside it in map order."""
        stream = io.BytesIO()
        BinTools.Write_s(self.shape, stream)
        return stream.getvalue()

    @staticmethod
    def from_bytes(data: bytes, names: tuple[str, ...]) -> Body:
        shape = TopoDS_Shape()
        BinTools.Read_s(shape, io.BytesIO(data))
        if shape.IsNull():
            raise ValueError("the stored shape is empty")
        body = Body(shape, names)
        if len(body.faces or body.edges) != len(names):
            raise ValueError("the stored shape and its names do not match")
        return body
