"""Least distance between shapes, exact and quick: most pairs of faces are told apart by boxes.

The kernel's own call on whole bodies compares everything with everything, and takes seconds for
two flat faces with many holes; those are settled by the gap of their planes.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_FACE, TopAbs_IN, TopAbs_ON, TopAbs_VERTEX
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Shape

from vireo.core.geometry import Triple, Vector
from vireo.core.kernel.measure import describe_face, distance_between
from vireo.core.kernel.mesh import read_triangles
from vireo.core.kernel.place import point
from vireo.core.kernel.shape import edges_of, faces_of, vertices_of

#: Boxes reach past their pieces by the kernel's tolerance: nearer than this none is told (mm).
_HAIR = 1e-6


@dataclass(frozen=True)
class Nearest:
    """Least distance in mm and where it is."""

    distance: float
    a: Triple
    b: Triple


@dataclass(frozen=True)
class _Piece:
    """A face, edge or vertex with its box and places on it."""

    shape: TopoDS_Shape
    low: Vector
    high: Vector
    points: Vector
    #: Of a flat face: a place on it and its normal.
    plane: tuple[Vector, Vector] | None


#: Normals whose product is as near to one belong to parallel planes.
_PARALLEL = 1e-12
_NO_PLANE = (np.zeros(3), np.zeros(3))


def _pieces(shape: TopoDS_Shape) -> list[_Piece]:
    faces = faces_of(shape)
    if faces:
        parts: Sequence[TopoDS_Shape] = faces
    else:
        parts = edges_of(shape) or vertices_of(shape)
    return [_piece(p) for p in parts]


def _piece(part: TopoDS_Shape) -> _Piece:
    box = Bnd_Box()
    BRepBndLib.Add_s(part, box, False)
    low, high = box.CornerMin(), box.CornerMax()
    plane = None
    if part.ShapeType() == TopAbs_FACE:
        kind, at, way, _ = describe_face(TopoDS.Face(part))
        plane = (np.array(at), np.array(way)) if kind == "plane" and way else None
    return _Piece(
        part,
        np.array([low.X(), low.Y(), low.Z()]),
        np.array([high.X(), high.Y(), high.Z()]),
        _places(part),
        plane,
    )


def _places(part: TopoDS_Shape) -> Vector:
    """Places on a piece: corners of a coarse mesh, which lie on the surface itself."""
    if part.ShapeType() == TopAbs_VERTEX:
        p = BRep_Tool.Pnt_s(TopoDS.Vertex(part))
        return np.array([[p.X(), p.Y(), p.Z()]])
    if part.ShapeType() != TopAbs_FACE:
        curve = BRepAdaptor_Curve(TopoDS.Edge(part))
        a, b = curve.FirstParameter(), curve.LastParameter()
        along = [curve.Value(a + (b - a) * k / 16) for k in range(17)]
        return np.array([(p.X(), p.Y(), p.Z()) for p in along])
    face = TopoDS.Face(part)
    if BRep_Tool.Triangulation_s(face, TopLoc_Location()) is None:
        BRepMesh_IncrementalMesh(face, 1.0, True, 0.5, False)
    points, triangles = read_triangles(face)
    if describe_face(face)[0] != "plane" or len(triangles) == 0:
        return points
    # Middles of triangles lie on flat faces too: more places to look down from.
    return np.concatenate([points, points[triangles].mean(1)])


def _bounds(ones: Sequence[_Piece], twos: Sequence[_Piece]) -> tuple[Vector, NDArray[np.bool_]]:
    """For every pair what no two places of it can be nearer than, and whether both are flat and
    parallel."""
    (al, ah), (bl, bh) = (
        (np.array([p.low for p in pieces]), np.array([p.high for p in pieces]))
        for pieces in (ones, twos)
    )
    square = np.zeros((len(ones), len(twos)))
    for k in range(3):
        gap = np.maximum(al[:, k, None] - bh[None, :, k], bl[None, :, k] - ah[:, k, None])
        square += np.maximum(gap, 0.0) ** 2
    apart = np.sqrt(square)
    facing = np.zeros(apart.shape, dtype=bool)
    flat = [[k for k, p in enumerate(pieces) if p.plane is not None] for pieces in (ones, twos)]
    if all(flat):
        mine, theirs = (
            [pieces[k].plane or _NO_PLANE for k in which]
            for pieces, which in zip((ones, twos), flat, strict=True)
        )
        at, way = (np.array([plane[k] for plane in mine]) for k in (0, 1))
        other_at, other_way = (np.array([plane[k] for plane in theirs]) for k in (0, 1))
        level = np.abs(np.abs(way @ other_way.T) - 1.0) <= _PARALLEL
        between = np.abs(way @ other_at.T - np.einsum("ik,ik->i", at, way)[:, None])
        pairs = np.ix_(*flat)
        facing[pairs] = level
        apart[pairs] = np.where(level, np.maximum(apart[pairs], between), apart[pairs])
    return apart, facing


def _facing(a: _Piece, b: _Piece) -> float | None:
    """The gap of two parallel planes."""
    if (
        a.plane is None
        or b.plane is None
        or abs(abs(float(a.plane[1] @ b.plane[1])) - 1) > _PARALLEL
    ):
        return None
    return abs(float((b.plane[0] - a.plane[0]) @ a.plane[1]))


def _over(a: _Piece, b: _Piece) -> Nearest | None:
    """Two places right over each other on parallel flat faces, if a few tries find them."""
    gap = _facing(a, b)
    if gap is None or a.plane is None or b.plane is None:
        return None
    inside = BRepClass_FaceClassifier()
    for one, two, swapped in ((a, b, False), (b, a, True)):
        assert two.plane is not None
        at, n = two.plane
        down = one.points - ((one.points - at) @ n)[:, None] * n
        near = np.all((down >= two.low - 1e-9) & (down <= two.high + 1e-9), axis=1)
        for k in np.flatnonzero(near)[:60]:
            for face, place in ((two.shape, down[k]), (one.shape, one.points[k])):
                inside.Perform(TopoDS.Face(face), gp_Pnt(*map(float, place)), 1e-7)
                if inside.State() not in (TopAbs_IN, TopAbs_ON):
                    break
            else:
                p, q = _triple(one.points[k]), _triple(down[k])
                return Nearest(gap, q, p) if swapped else Nearest(gap, p, q)
    return None


def _triple(p: Vector) -> Triple:
    return (float(p[0]), float(p[1]), float(p[2]))


def nearest(a: TopoDS_Shape, b: TopoDS_Shape) -> Nearest:
    """Least distance of two faces, edges, corners or whole bodies (mm)."""
    ones, twos = _pieces(a), _pieces(b)
    best = _guess(ones, twos)
    apart, facing = _bounds(ones, twos)
    # Nearest first, and of those flat faces that look at each other: they need no kernel.
    order = np.lexsort((~facing.ravel(), np.round(apart.ravel(), 6)))
    exact = False
    for at in order:
        i, j = divmod(int(at), len(twos))
        low = float(apart[i, j])
        if low > best.distance + _HAIR or (exact and low >= best.distance - _HAIR):
            break
        found = _over(ones[i], twos[j]) or _settled(ones[i], twos[j])
        if found.distance <= best.distance:
            best, exact = found, True
        if best.distance <= 0.0:
            break
    return best


def _settled(a: _Piece, b: _Piece) -> Nearest:
    """The least distance of two pieces: of what the kernel finds, and of where its own search
    goes on to from the nearest known places.

    The kernel misses the foot of a border on a curved face now and then (a cone beside a disc),
    so places are walked to each other's nearest until they rest: each step is a place against one
    face, which it does find.
    """
    d, p, q = distance_between(a.shape, b.shape)
    best = Nearest(d, p, q)
    start = _guess([a], [b])
    for one in (start.a, p):
        walked = _walked(a.shape, b.shape, one)
        if walked.distance < best.distance:
            best = walked
    return best


def _walked(a: TopoDS_Shape, b: TopoDS_Shape, start: Triple) -> Nearest:
    """From a place to the nearest on the other piece and back, until nothing is gained."""
    p, last = start, np.inf
    q = p
    for _ in range(200):
        _, _, q = distance_between(_corner(p), b)
        gap, _, p = distance_between(_corner(q), a)
        if last - gap <= 1e-12 + 1e-9 * gap:
            break
        last = gap
    return Nearest(float(np.linalg.norm(np.subtract(p, q))), p, q)


def _corner(at: Triple) -> TopoDS_Shape:
    return BRepBuilderAPI_MakeVertex(point(at)).Vertex()


def _guess(ones: Sequence[_Piece], twos: Sequence[_Piece]) -> Nearest:
    """Nearest of the places known on both: never less than the truth."""
    a, b = (np.concatenate([p.points for p in pieces]) for pieces in (ones, twos))
    found = scipy.spatial.cKDTree(b).query(a)
    distance, index = np.asarray(found[0]), np.asarray(found[1])
    k = int(np.argmin(distance))
    return Nearest(float(distance[k]), _triple(a[k]), _triple(b[int(index[k])]))
