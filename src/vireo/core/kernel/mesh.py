"""Triangles and edge polylines of a body, for the screen, for STL and for collision tests."""

from __future__ import annotations

import ctypes
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
from OCP.BRepTools import BRepTools
from OCP.GCPnts import GCPnts_TangentialDeflection
from OCP.IMeshTools import IMeshTools_MeshAlgoType, IMeshTools_Parameters
from OCP.StdPrs import StdPrs_ToolTriangulatedShape
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Face

from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.measure import box_of
from vireo.core.kernel.shape import Body, faces_of

Floats = NDArray[np.float64]
Ints = NDArray[np.int32]


@dataclass(frozen=True)
class Mesh:
    """`triangles` index `points`; those of face i are `face_starts[i]:face_starts[i+1]`.

    Points are not shared between faces. `edge_points[edge_starts[i]:edge_starts[i+1]]` is the
    polyline of edge i. Lengths in mm.
    """

    points: Floats
    normals: Floats
    triangles: Ints
    face_starts: Ints
    edge_points: Floats
    edge_starts: Ints
    deflection: float


def _address(wrapped: Any) -> int:
    return int(ctypes.c_void_p.from_address(id(wrapped) + 16).value or 0)


def _array(wrapped: Any, dtype: Any, rows: int, columns: int, word: int) -> NDArray[Any]:
    """A kernel array read straight from memory. Which word holds the data pointer depends on
    this build of the bindings; `_fast` proves it before it is trusted."""
    data = int(ctypes.c_void_p.from_address(_address(wrapped) + 8 * word).value or 0)
    size = rows * columns * np.dtype(dtype).itemsize
    raw = (ctypes.c_char * size).from_address(data)
    return np.frombuffer(raw, dtype=dtype).reshape(rows, columns).copy()


def _read_fast(t: Any) -> tuple[Floats, Ints, Floats]:
    real = np.float64 if t.IsDoublePrecision() else np.float32
    points = _array(t.InternalNodes(), real, t.NbNodes(), 3, 0).astype(np.float64)
    triangles = _array(t.InternalTriangles(), np.int32, t.NbTriangles(), 3, 3) - 1
    normals = _array(t.InternalNormals(), np.float32, t.NbNodes(), 3, 3).astype(np.float64)
    return points, triangles, normals


def _read_plain(t: Any) -> tuple[Floats, Ints, None]:
    """Points and triangles alone: a mesh that was not made to be seen has no normals."""
    if _fast():
        real = np.float64 if t.IsDoublePrecision() else np.float32
        points = _array(t.InternalNodes(), real, t.NbNodes(), 3, 0).astype(np.float64)
        return points, _array(t.InternalTriangles(), np.int32, t.NbTriangles(), 3, 3) - 1, None
    nodes = [t.Node(i) for i in range(1, t.NbNodes() + 1)]
    corners = [t.Triangle(i).Get() for i in range(1, t.NbTriangles() + 1)]
    return (
        np.array([(p.X(), p.Y(), p.Z()) for p in nodes]),
        np.array([c[-3:] for c in corners], dtype=np.int32) - 1,
        None,
    )


def _read_slow(t: Any) -> tuple[Floats, Ints, Floats]:
    nodes = [t.Node(i) for i in range(1, t.NbNodes() + 1)]
    points = np.array([(p.X(), p.Y(), p.Z()) for p in nodes])
    corners = [t.Triangle(i).Get() for i in range(1, t.NbTriangles() + 1)]
    triangles = np.array([c[-3:] for c in corners], dtype=np.int32) - 1
    ways = [t.Normal(i) for i in range(1, t.NbNodes() + 1)]
    return points, triangles, np.array([(n.X(), n.Y(), n.Z()) for n in ways])


@lru_cache(maxsize=1)
def _fast() -> bool:
    """Whether direct memory access gives what the slow calls give, tried on a box."""
    face = faces_of(BRepPrimAPI_MakeBox(3.0, 5.0, 7.0).Shape())[3]
    BRepMesh_IncrementalMesh(face, 0.1)
    t = BRep_Tool.Triangulation_s(face, TopLoc_Location())
    StdPrs_ToolTriangulatedShape.ComputeNormals_s(face, t)
    fast, slow = _read_fast(t), _read_slow(t)
    return all(np.allclose(fast[k], slow[k]) for k in range(3))


_QUICK = IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Delabella
_SLOW = IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Watson


def _triangulate(body: Body, deflection: float, angle: float) -> None:
    parameters = IMeshTools_Parameters()
    parameters.Deflection = max(deflection, finest(body))
    parameters.Angle = max(angle, 0.05)
    parameters.InParallel = False
    # The quick way leaves a narrow free face empty now and then; the slow one takes it. All of
    # the body is done again then, so that neighbours keep meeting.
    for way in (_QUICK, _SLOW):
        parameters.MeshAlgo = way
        BRepTools.Clean_s(body.shape)
        BRepMesh_IncrementalMesh(body.shape, parameters)
        if all(BRep_Tool.Triangulation_s(f, TopLoc_Location()) for f in body.faces):
            return


def finest(body: Body) -> float:
    """The least deviation in mm that is meshed: finer, the kernel is known not to come back."""
    low, high = box_of(body.shape)
    return 1e-4 * float(np.linalg.norm(np.subtract(high, low)))


def preview_deflection(body: Body) -> float:
    """Chord error that looks smooth on screen: 0.1 % of the size."""
    return max(10 * finest(body), 1e-4)


def tessellate(body: Body, deflection: float | None = None, angle: float = 0.35) -> Mesh:
    """Triangles within `deflection` mm of the true faces and `angle` rad of their direction.

    Raises KernelTrouble when a face cannot be meshed.
    """
    chord = deflection if deflection is not None else preview_deflection(body)
    if not body.faces:
        return _lines_only(body, chord, angle)
    _triangulate(body, chord, angle)
    read = _read_fast if _fast() else _read_slow
    points, normals, triangles = [], [], []
    face_starts, offset, count = [0], 0, 0
    nodes_of: dict[int, Floats] = {}
    for i, face in enumerate(body.faces):
        location = TopLoc_Location()
        t = BRep_Tool.Triangulation_s(face, location)
        if t is None:
            raise KernelTrouble(f"the face {body.names[i]} could not be meshed")
        StdPrs_ToolTriangulatedShape.ComputeNormals_s(face, t)
        p, tri, n = read(t)
        if not location.IsIdentity():
            matrix = _matrix(location)
            p = p @ matrix[:, :3].T + matrix[:, 3]
            n = n @ matrix[:, :3].T
        if face.Orientation() == TopAbs_REVERSED:
            # The normals already look outwards; only the winding is the surface's own.
            tri = tri[:, ::-1]
        n = _outward(p, tri, n)
        nodes_of[i] = p
        points.append(p)
        normals.append(n)
        triangles.append(tri + offset)
        offset += len(p)
        count += len(tri)
        face_starts.append(count)
    edge_points, edge_starts = _edges(body, nodes_of)
    return Mesh(
        np.concatenate(points),
        np.concatenate(normals),
        np.concatenate(triangles).astype(np.int32),
        np.array(face_starts, dtype=np.int32),
        edge_points,
        edge_starts,
        chord,
    )


def _lines_only(body: Body, chord: float, angle: float) -> Mesh:
    """A wire: polylines of its edges, no triangles."""
    lines, starts = [], [0]
    for edge in body.edges:
        run = GCPnts_TangentialDeflection(BRepAdaptor_Curve(edge), angle, chord)
        at = [run.Value(i) for i in range(1, run.NbPoints() + 1)]
        lines.append(np.array([(p.X(), p.Y(), p.Z()) for p in at]))
        starts.append(starts[-1] + len(at))
    none = np.zeros((0, 3))
    return Mesh(
        none, none, np.zeros((0, 3), dtype=np.int32), np.zeros(1, dtype=np.int32),
        np.concatenate(lines), np.array(starts, dtype=np.int32), chord,
    )  # fmt: skip


def read_triangles(face: TopoDS_Face) -> tuple[Floats, Ints]:
    """Points and triangles of a face that was meshed, where it stands."""
    location = TopLoc_Location()
    t = BRep_Tool.Triangulation_s(face, location)
    if t is None:
        return np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int32)
    points, triangles, _ = _read_plain(t)
    if not location.IsIdentity():
        matrix = _matrix(location)
        points = points @ matrix[:, :3].T + matrix[:, 3]
    return points, triangles


def _outward(points: Floats, triangles: Ints, normals: Floats) -> Floats:
    """Normals turned to the side the winding says is outside."""
    a, b, c = (points[triangles[:, k]] for k in range(3))
    flat = np.cross(b - a, c - a)
    agree = np.einsum("ij,ij->i", flat, normals[triangles[:, 0]])
    return -normals if float(agree.sum()) < 0.0 else normals


def _matrix(location: TopLoc_Location) -> Floats:
    t = location.Transformation()
    return np.array([[t.Value(i, j) for j in (1, 2, 3, 4)] for i in (1, 2, 3)])


def _edges(body: Body, nodes_of: dict[int, Floats]) -> tuple[Floats, Ints]:
    lines, starts, count = [], [0], 0
    for edge, pair in zip(body.edges, body.edge_faces, strict=True):
        face: TopoDS_Face = body.faces[pair[0]]
        location = TopLoc_Location()
        t = BRep_Tool.Triangulation_s(face, location)
        polygon = BRep_Tool.PolygonOnTriangulation_s(TopoDS.Edge(edge), t, location)
        if polygon is None:
            starts.append(count)
            continue
        if _fast():
            index = _array(polygon.Nodes(), np.int32, polygon.NbNodes(), 1, 3)[:, 0] - 1
        else:
            index = np.array([polygon.Node(i) - 1 for i in range(1, polygon.NbNodes() + 1)])
        lines.append(nodes_of[pair[0]][index])
        count += len(index)
        starts.append(count)
    points = np.concatenate(lines) if lines else np.zeros((0, 3))
    return points, np.array(starts, dtype=np.int32)
