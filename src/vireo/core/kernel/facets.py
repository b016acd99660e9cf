"""Triangle meshes as bodies: flat neighbours become one face, so that they can be picked, cut,
measured and snapped to."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepLib import BRepLib
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shell, TopoDS_Solid, TopoDS_Vertex

from vireo.core.exchange.meshfile import Triangles
from vireo.core.kernel.gate import MAX_SIZE, KernelTrouble, checked
from vireo.core.kernel.shape import Body, faces_of
from vireo.core.naming.grammar import face_name

MOST_FACES = 6000

Floats = NDArray[np.float64]
Loop = list[int]


class Open(KernelTrouble):
    """The mesh does not close; the loops of its open edges are its lines."""

    code = "open_mesh"


class TooFine(KernelTrouble):
    """The mesh has more flat patches than are made into a body."""


def closed(mesh: Triangles, close: bool) -> Triangles:
    """The mesh, its holes closed with flat lids where that is asked for.

    Raises Open with the open edges when it has any and is not to be closed, KernelTrouble for one
    that is too large or meets itself along an edge.
    """
    points, corners = mesh.points, mesh.corners
    if float(np.abs(points).max(initial=0.0)) > MAX_SIZE:
        raise KernelTrouble("the mesh is larger than a model may be: look at its unit")
    loops = _open_loops(corners)
    if loops and not close:
        count = sum(len(x) for x in loops)
        raise Open(
            f"the mesh is not closed: {count} open edges round {len(loops)} "
            f"{'hole' if len(loops) == 1 else 'holes'}",
            lines=[[_triple(points[i]) for i in [*loop, loop[0]]] for loop in loops[:50]],
        )
    for loop in loops:
        corners = np.vstack(
            [corners, [(loop[0], loop[k + 1], loop[k]) for k in range(1, len(loop) - 1)]]
        )
    return Triangles(points, corners)


def facet_body(mesh: Triangles, step: str) -> Body:
    """A solid with a face for each flat patch of a closed mesh, named ``<step>/facet<k>`` in the
    order of its triangles.

    Raises TooFine when it has too many flat patches, KernelTrouble when it cannot be made a solid.
    """
    patch = _patches(mesh.points, mesh.corners)
    count = int(patch.max()) + 1
    if count > MOST_FACES:
        raise TooFine(f"the mesh has {count} flat patches; up to {MOST_FACES} are made into a body")
    return _body(mesh.points, mesh.corners, patch, step)


def _triple(p: Floats) -> tuple[float, float, float]:
    return (float(p[0]), float(p[1]), float(p[2]))


def _open_loops(corners: NDArray[np.int64]) -> list[Loop]:
    """Runs of edges that bound one triangle only, against the way those run."""
    count: dict[tuple[int, int], int] = defaultdict(int)
    for a, b, c in corners.tolist():
        for e in ((a, b), (b, c), (c, a)):
            count[e] += 1
    left = {}
    for (a, b), n in count.items():
        if n > 1:
            raise KernelTrouble("more than two triangles of the mesh meet in one edge")
        if (b, a) not in count:
            left[b] = a
    loops = []
    while left:
        start, at = next(iter(left.items()))
        del left[start]
        loop = [start]
        while at != start:
            loop.append(at)
            if at not in left:
                raise KernelTrouble("the open edges of the mesh do not run round holes")
            at = left.pop(at)
        loops.append(loop[::-1])
    return loops


def _patches(points: Floats, corners: NDArray[np.int64]) -> NDArray[np.int64]:
    """Which flat patch each triangle belongs to, in order of the first triangle."""
    a, b, c = (points[corners[:, k]] for k in range(3))
    n = np.cross(b - a, c - a)
    length = np.linalg.norm(n, axis=1, keepdims=True)
    n = n / np.where(length > 0, length, 1.0)
    size = float(np.ptp(points, axis=0).max())
    beside: dict[tuple[int, int], list[int]] = defaultdict(list)
    for t, tri in enumerate(corners.tolist()):
        for i in range(3):
            e = (tri[i], tri[(i + 1) % 3])
            beside[(min(e), max(e))].append(t)
    near: list[list[int]] = [[] for _ in range(len(corners))]
    for pair in beside.values():
        if len(pair) == 2:
            near[pair[0]].append(pair[1])
            near[pair[1]].append(pair[0])
    patch = np.full(len(corners), -1, dtype=np.int64)
    count = 0
    # The largest triangle of a patch sets its plane: slivers have no direction to speak of.
    for seed in np.argsort(-length[:, 0], kind="stable"):
        if patch[seed] >= 0:
            continue
        plane, at = n[seed], points[corners[seed, 0]]
        patch[seed] = count
        todo = [int(seed)]
        while todo:
            for t in near[todo.pop()]:
                if patch[t] >= 0:
                    continue
                off = np.abs((points[corners[t]] - at) @ plane).max()
                if off < 2e-6 * size and (
                    float(n[t] @ plane) > 0.99 or length[t, 0] < 1e-9 * size**2
                ):
                    patch[t] = count
                    todo.append(t)
        count += 1
    order = {int(k): i for i, k in enumerate(dict.fromkeys(patch.tolist()))}
    return np.array([order[int(k)] for k in patch])


def _body(points: Floats, corners: NDArray[np.int64], patch: NDArray[np.int64], step: str) -> Body:
    sides: dict[int, dict[int, list[int]]] = defaultdict(lambda: defaultdict(list))
    owner: dict[tuple[int, int], int] = {}
    for t, tri in enumerate(corners.tolist()):
        for i in range(3):
            owner[(tri[i], tri[(i + 1) % 3])] = int(patch[t])
    for (a, b), p in owner.items():
        if owner.get((b, a)) != p:
            sides[p][a].append(b)
    vertices: dict[int, TopoDS_Vertex] = {}
    edges: dict[tuple[int, int], TopoDS_Edge] = {}

    def vertex(i: int) -> TopoDS_Vertex:
        if i not in vertices:
            vertices[i] = BRepBuilderAPI_MakeVertex(gp_Pnt(*map(float, points[i]))).Vertex()
        return vertices[i]

    def edge(a: int, b: int) -> TopoDS_Edge:
        key = (min(a, b), max(a, b))
        if key not in edges:
            edges[key] = BRepBuilderAPI_MakeEdge(vertex(key[0]), vertex(key[1])).Edge()
        return edges[key] if a < b else TopoDS.Edge(edges[key].Reversed())

    builder, shell = BRep_Builder(), TopoDS_Shell()
    builder.MakeShell(shell)
    planes = _planes(points, corners, patch)
    for p, (at, normal) in enumerate(planes):
        builder.Add(shell, _flat(points, sides[p], normal, at, edge))
    # Points of a file lie beside the planes of their patches by its rounding: told to the kernel.
    off: dict[int, float] = defaultdict(float)
    for p, (at, normal) in enumerate(planes):
        for i in sides[p]:
            off[i] = max(off[i], abs(float((points[i] - at) @ normal)))
    for i, made in vertices.items():
        builder.UpdateVertex(made, 1.1 * off[i] + 1e-7)
    for (i, k), line in edges.items():
        builder.UpdateEdge(line, 1.1 * max(off[i], off[k]) + 1e-7)
    shell.Closed(BRep_Tool.IsClosed_s(shell))
    solid = TopoDS_Solid()
    builder.MakeSolid(solid)
    builder.Add(solid, shell)
    BRepLib.OrientClosedSolid_s(solid)
    shape = checked("the mesh", solid)
    names = tuple(face_name(step, f"facet{k}") for k in range(len(faces_of(shape))))
    return Body(shape, names)


def _planes(
    points: Floats, corners: NDArray[np.int64], patch: NDArray[np.int64]
) -> list[tuple[Floats, Floats]]:
    """Of each patch a point and the outward unit normal: the means of its triangles by area."""
    a, b, c = (points[corners[:, k]] for k in range(3))
    n = np.cross(b - a, c - a)
    weight = np.linalg.norm(n, axis=1)
    count = int(patch.max()) + 1
    sums, middles, whole = np.zeros((count, 3)), np.zeros((count, 3)), np.zeros(count)
    np.add.at(sums, patch, n)
    np.add.at(middles, patch, weight[:, None] * (a + b + c) / 3)
    np.add.at(whole, patch, weight)
    normals = sums / np.linalg.norm(sums, axis=1, keepdims=True)
    return list(zip(middles / whole[:, None], normals, strict=True))


def _flat(
    points: Floats,
    sides: dict[int, list[int]],
    normal: Floats,
    at: Floats,
    edge: Callable[[int, int], TopoDS_Edge],
) -> TopoDS_Face:
    """A flat face from the directed sides of its border, holes included."""
    loops = []
    left = {a: list(b) for a, b in sides.items()}
    while left:
        start = next(iter(left))
        loop, a = [start], start
        while True:
            b = _leftmost(points, left[a], loop, normal) if len(left[a]) > 1 else left[a][0]
            left[a].remove(b)
            if not left[a]:
                del left[a]
            if b == start:
                break
            loop.append(b)
            a = b
            if a not in left:
                raise KernelTrouble("the border of a flat patch of the mesh does not close")
        loops.append(loop)

    if len(loops) > 1:
        # The border round the patch goes before those of its holes.
        loops.sort(key=lambda loop: _area(points[loop], normal), reverse=True)
    plane = gp_Pln(gp_Pnt(*map(float, at)), gp_Dir(*map(float, normal)))
    maker = None
    for loop in loops:
        wire = BRepBuilderAPI_MakeWire()
        for a, b in zip(loop, [*loop[1:], loop[0]], strict=True):
            wire.Add(edge(a, b))
        if not wire.IsDone():
            raise KernelTrouble("the border of a flat patch of the mesh does not close")
        if maker is None:
            maker = BRepBuilderAPI_MakeFace(plane, wire.Wire(), True)
        else:
            maker.Add(wire.Wire())
    if maker is None or not maker.IsDone():
        raise KernelTrouble("a flat patch of the mesh is no face")
    face = maker.Face()
    return TopoDS.Face(face.Reversed()) if face.Orientation() == TopAbs_REVERSED else face


def _area(loop: Floats, normal: Floats) -> float:
    """Area a closed run of points goes round, seen against a unit normal (Stokes)."""
    return float(np.cross(loop, np.roll(loop, -1, axis=0)).sum(axis=0) @ normal) / 2


def _leftmost(points: Floats, ways: list[int], loop: Loop, normal: Floats) -> int:
    """Where two borders touch in a point, the way that keeps the patch to the left."""
    back = (
        points[loop[-2]] - points[loop[-1]] if len(loop) > 1 else points[ways[0]] - points[loop[-1]]
    )

    def turn(b: int) -> float:
        d = points[b] - points[loop[-1]]
        angle = float(np.arctan2(np.cross(back, d) @ normal, back @ d))
        return angle if angle > 1e-9 else angle + 2 * np.pi

    return max(ways, key=turn)
