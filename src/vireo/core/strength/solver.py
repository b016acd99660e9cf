"""Second-order curved tetrahedra, linear elasticity, direct solution, averaged stresses.

a(u, v) = integral of sigma(u) : eps(v), sigma = 2 mu eps + lambda tr(eps) I
(e.g. Zienkiewicz, Taylor, Zhu: The Finite Element Method, ch. 2). Stresses: a linear fit in
each element to the solution's stress, averaged at the nodes.
"""

from __future__ import annotations

import itertools
import math
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import netgen.meshing as nm
import netgen.occ as no
import ngsolve as ngs
import numpy as np
import scipy.sparse
import scipy.sparse.csgraph
from numpy.typing import NDArray

from vireo.core.strength.problem import Answer, Compared, Problem, Slide, Triple
from vireo.core.strength.supports import (
    Elastic,
    free_unknowns,
    reactions,
    regions,
    rigid_motions,
    sliding_terms,
)
from vireo.core.trouble import BadInput, Trouble

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

#: Nodes aimed at when no mesh size is given.
AIM = 9000
MOST_NODES = 400_000


class StrengthTrouble(Trouble):
    code = "strength"


@dataclass
class Field:
    """Values at nodes: first the corners of elements, then the middles of their edges.

    `surface` are triangles (m, 6) of node numbers: corners, then middles of 01, 12, 20.
    """

    points: Floats
    displacement: Floats
    stress: Floats
    von_mises: Floats
    jump: Floats
    surface: Ints
    face: Ints


def choose_size(problem: Problem, thickness: float) -> float:
    """Element size in mm for about `AIM` nodes, no coarser than the part is thick."""
    # A regular tetrahedron of edge h fills 0.118 h3; a mesh has about 1.7 nodes per element.
    h = (problem.volume / (0.118 * AIM / 1.7)) ** (1 / 3)
    return float(min(h, 1.6 * thickness))


def _name_edges(shape: Any) -> list[float]:
    """Call each edge e<index> in the kernel's order (first meeting); their lengths in mm."""
    lengths: list[float] = []
    for edge in shape.edges:  # an edge comes once for every face it bounds
        if not str(edge.name or "").startswith("e"):
            edge.name = f"e{len(lengths)}"
            lengths.append(edge.mass)
    return lengths


def make_mesh(shape: Any, size: float) -> Any:
    """Curved second-order mesh; faces are called f<index>, edges e<index>."""
    mesh = no.OCCGeometry(shape).GenerateMesh(
        nm.MeshingParameters(
            maxh=size, grading=0.35, curvaturesafety=2.0, segmentsperedge=1.0, optsteps3d=3
        )
    )
    if mesh.Elements3D().NumPy().size > MOST_NODES:
        raise StrengthTrouble("this mesh is too fine to solve here; choose a larger mesh size")
    for i in range(len(list(shape.faces))):
        mesh.SetBCName(i, f"f{i}")
    found = ngs.Mesh(mesh)
    found.Curve(2)
    return found


def run(
    brep: str, problem: Problem, say: Callable[[float, str], None] = lambda share, stage: None
) -> tuple[Answer, Field]:
    """Solve. `brep` is the path of the body's file.

    Raises StrengthTrouble when nothing holds the part, when loads or supports are missing, or
    when the faces of the file are not those of the problem.
    """
    _sane(problem)
    shape = no.OCCGeometry(brep).shape
    faces = list(shape.faces)
    if len(faces) != len(problem.areas) or any(
        abs(f.mass - a) > 1e-3 * max(a, 1e-6) for f, a in zip(faces, problem.areas, strict=True)
    ):
        raise StrengthTrouble("the faces handed to the mesher are not those of the part")
    lengths = _name_edges(shape)
    for i in {i for h in problem.held for i in h.edges}:
        if i >= len(lengths) or abs(lengths[i] - problem.lengths[i]) > 1e-3 * lengths[i]:
            raise StrengthTrouble("the edges handed to the mesher are not those of the part")
    # Twice the volume by the skin is the thickness of a plate, and less than that of a block.
    plate = 2.0 * problem.volume / sum(problem.areas)
    size = problem.mesh_size or choose_size(problem, 1.5 * plate)
    say = _rising(say)
    answer, field = _once(shape, problem, size, say, 0.0, 0.6, compare=size > 0.8 * plate)
    corner = _at_corner(answer, problem)
    if corner is None:
        return answer, field
    # A peak at such a corner is asked whether it would ever stop growing.
    growth, unfinished = None, None
    if answer.nodes < 60_000:
        say(0.6, "finer mesh, to see whether the peak at the corner grows")
        try:
            finer, fine_field = _once(
                shape, problem, 0.6 * size, say, 0.6, 0.4, compare=0.6 * size > 0.8 * plate
            )
        except (MemoryError, StrengthTrouble, ngs.NgException) as error:
            # The first answer stands; that the finer one is missing is told.
            unfinished = "memory" if isinstance(error, MemoryError) else str(error)[:200]
        else:
            growth = finer.peak / answer.peak if answer.peak > 0 else None
            answer, field, size = finer, fine_field, 0.6 * size
    away = _away(field, problem, 1.5 * size)
    return answer.model_copy(
        update={
            "corner": corner, "growth": growth, "away_from_corners": away,
            "unfinished": unfinished,
        }
    ), field  # fmt: skip


def _rising(say: Callable[[float, str], None]) -> Callable[[float, str], None]:
    """Progress that never runs back."""
    most = 0.0

    def told(share: float, stage: str) -> None:
        nonlocal most
        most = max(most, share)
        say(most, stage)

    return told


def _sane(problem: Problem) -> None:
    if not problem.held:
        raise StrengthTrouble(
            "nothing holds the part: it can shift along X, Y and Z and turn about X, Y and Z; "
            "add a support on at least one face or edge"
        )
    if not problem.loads:
        raise StrengthTrouble("there is no load yet: add a force, a pressure or gravity")
    if problem.mesh_size is not None and not problem.mesh_size > 0:
        raise BadInput("the mesh size must be more than zero")


def _once(
    shape: Any,
    problem: Problem,
    size: float,
    say: Callable[[float, str], None],
    base: float,
    share: float,
    compare: bool = False,
) -> tuple[Answer, Field]:
    clock = {"start": time.perf_counter()}

    def tick(name: str) -> None:
        now = time.perf_counter()
        clock[name] = now - clock["start"]
        clock["start"] = now

    say(base + 0.02 * share, f"meshing at {size:.3g} mm")
    # The mesher gains nothing from several threads and spins on all of them.
    mesh = make_mesh(shape, size)
    tick("mesh")
    with ngs.TaskManager():
        _no_rigid_motion(mesh, problem)
        say(base + 0.35 * share, f"assembling {mesh.ne} elements")
        solution = _solve(mesh, problem, 2, lambda s: say(base + share * s, "solving"))
        u = solution.displacement
        tick("solve")
        say(base + 0.8 * share, "stresses and reactions")
        field = recover(mesh, u, problem, 2)
        volume = float(ngs.Integrate(ngs.CF(1), mesh))
        motions = rigid_motions(u.space, np.array(field.points).mean(axis=0))
        taken = reactions(mesh, u, solution.residual, problem, 2, motions)
        pushed = np.array([float(solution.load @ g) for g in motions])
        tick("stress")
        compared = None
        if compare and u.space.ndof < MOST_COMPARED:
            say(base + 0.88 * share, "third-order elements, to compare")
            compared = _third(mesh, problem, field)
            tick("compare")
    del clock["start"]
    peak = int(np.argmax(field.von_mises))
    size_of = np.linalg.norm(field.displacement, axis=1)
    most = int(np.argmax(size_of))
    total = np.array([forces for _, forces in taken]).sum(axis=0)
    jump = float(field.jump[peak])
    answer = Answer(
        nodes=len(field.points),
        unknowns=u.space.ndof,
        mesh_size=size,
        volume_error=abs(volume - problem.volume) / problem.volume,
        peak=float(field.von_mises[peak]),
        peak_at=_triple(field.points[peak]),
        peak_jump=jump if math.isfinite(jump) else None,
        safety=problem.strength / max(float(field.von_mises[peak]), 1e-12),
        deflection=float(size_of[most]),
        deflection_at=_triple(field.points[most]),
        reactions=tuple(support for support, _ in taken),
        reaction=_triple(total),
        load=_triple(pushed),
        imbalance=_imbalance(total, pushed, solution.applied, field.points),
        compared=compared,
        seconds={k: round(v, 3) for k, v in clock.items()},
    )
    return answer, field


#: Unknowns of second order up to which third-order elements are asked as well.
MOST_COMPARED = 120_000


def _third(mesh: Any, problem: Problem, field: Field) -> Compared:
    """What third-order elements give on the same mesh, as a share of second-order ones."""
    other = recover(mesh, _solve(mesh, problem, 3).displacement, problem, 3)
    moved = [float(np.linalg.norm(f.displacement, axis=1).max()) for f in (field, other)]
    peak = [float(f.von_mises.max()) for f in (field, other)]
    return Compared(
        deflection=moved[1] / max(moved[0], 1e-300), peak=peak[1] / max(peak[0], 1e-300)
    )


def _imbalance(total: Floats, pushed: Floats, applied: float, points: Floats) -> float:
    """What is left of forces, and of moments about the middle, as a share of all that is applied:
    opposite forces of a couple count each."""
    left = total + pushed
    reach = float(np.linalg.norm(np.ptp(points, axis=0)))
    scale = max(applied, 1e-12)
    turn = float(np.linalg.norm(left[3:])) / (scale * reach)
    return max(float(np.linalg.norm(left[:3])) / scale, turn)


def _triple(v: Floats) -> Triple:
    return (float(v[0]), float(v[1]), float(v[2]))


def _pieces(mesh: Any) -> Ints:
    """For each vertex, which connected piece of the mesh it belongs to (0, 1, ...)."""
    rows = np.array([[v.nr for v in e.vertices] for e in mesh.Elements(ngs.VOL)])
    i, j = np.repeat(rows[:, 0], 3), rows[:, 1:].ravel()
    graph = scipy.sparse.coo_matrix((np.ones(len(i)), (i, j)), shape=(mesh.nv, mesh.nv))
    return np.asarray(scipy.sparse.csgraph.connected_components(graph, directed=False)[1])


def _held_ways(mesh: Any, problem: Problem) -> tuple[Ints, Floats]:
    """Vertices that are held, each with a unit direction it is held in (one row per pair)."""
    vertices, ways = [], []
    places = np.array([v.point for v in mesh.vertices])
    faces: dict[str, list[tuple[int, ...]]] = {}
    for e in mesh.Elements(ngs.BND):
        faces.setdefault(e.mat, []).append(tuple(v.nr for v in e.vertices))
    edges: dict[str, list[tuple[int, ...]]] = {}
    for e in mesh.Elements(ngs.BBND):
        edges.setdefault(e.mat, []).append(tuple(v.nr for v in e.vertices))
    for held in problem.held:
        for slide in held.slides:
            own = np.unique(np.array(faces.get(f"f{slide.face}", [()])).ravel()).astype(int)
            vertices.append(own)
            ways.append(_normals(slide, places[own]))
        if held.slides:
            continue
        cells = [c for i in held.faces for c in faces.get(f"f{i}", ())]
        cells += [c for i in held.edges for c in edges.get(f"e{i}", ())]
        own = np.unique([v for c in cells for v in c])
        for k in range(3):
            if held.ways[k]:
                vertices.append(own)
                ways.append(np.tile(np.eye(3)[k], (len(own), 1)))
    return np.concatenate(vertices), np.concatenate(ways)


def _normals(slide: Slide, points: Floats) -> Floats:
    """True unit normals of a sliding face at points on it."""
    if slide.kind == "plane":
        return np.tile(np.array(slide.direction), (len(points), 1))
    out = points - np.array(slide.origin)
    if slide.kind == "cylinder":
        axis = np.array(slide.direction)
        out = out - (out @ axis)[:, None] * axis
    return np.asarray(out / np.linalg.norm(out, axis=1)[:, None])


#: A rigid motion resisted less than this (mean over held points, turning scaled to the part's
#: size) is free. Held points and normals are exact, so rounding is all that is left below.
_FREE = 1e-6


def _no_rigid_motion(mesh: Any, problem: Problem) -> None:
    """Every connected piece must be held against shifting and turning.

    The rigid motions t + w x (x - c) that no support resists are the null space of the rows
    n . (t + w x (x - c)) over held points x and held directions n.
    """
    places = np.array([v.point for v in mesh.vertices])
    piece = _pieces(mesh)
    vertices, ways = _held_ways(mesh, problem)
    for number in range(int(piece.max()) + 1):
        own = places[piece == number]
        centre, size = own.mean(axis=0), float(np.linalg.norm(np.ptp(own, axis=0)))
        here = piece[vertices] == number
        n, arm = ways[here], (places[vertices[here]] - centre) / size
        rows = np.concatenate([n, np.cross(arm, n)], axis=1)
        if len(rows):
            values, basis = np.linalg.eigh(rows.T @ rows / len(rows))
            free = basis[:, np.sqrt(np.maximum(values, 0.0)) < _FREE].T
        else:
            free = np.eye(6)
        if len(free):
            pieces = int(piece.max()) + 1
            which = f"piece {number + 1} of {pieces} of this body" if pieces > 1 else "the part"
            raise StrengthTrouble(
                f"{which} can {_motions(free)}: no support holds it there; "
                "hold more faces, or hold these in more directions"
            )


def _motions(free: Floats) -> str:
    """Free rigid motions in words; rows are (t, w)."""
    said = []
    for k, name in enumerate("XYZ"):
        if np.linalg.norm(free @ np.eye(6)[k]) > 0.99:
            said.append(f"shift along {name}")
    for k, name in enumerate("XYZ"):
        # Turning about an axis parallel to this one, wherever it lies.
        w = free[:, 3:]
        if len(w) and np.linalg.norm(np.linalg.pinv(w.T) @ np.eye(3)[k] @ w - np.eye(3)[k]) < 0.01:
            said.append(f"turn about {name}")
    if not said:
        t, w = free[0, :3], free[0, 3:]
        way = t if np.linalg.norm(t) > np.linalg.norm(w) else w
        way = way / np.linalg.norm(way)
        verb = "shift along" if way is not w and np.linalg.norm(w) < 1e-6 else "turn about"
        said.append(f"{verb} ({way[0]:.2f}, {way[1]:.2f}, {way[2]:.2f})")
    return ", ".join(said[:-1]) + (" and " if len(said) > 1 else "") + said[-1]


@dataclass
class Solution:
    """Displacement, residual K u - f (the reactions at held unknowns), loads as a vector of the
    unknowns, and the sum of the sizes of all loads (N)."""

    displacement: Any
    residual: Floats
    load: Floats
    applied: float


def _solve(
    mesh: Any, problem: Problem, order: int, say: Callable[[float], None] = lambda share: None
) -> Solution:
    elastic = Elastic.of(problem)
    space = ngs.VectorH1(mesh, order=order)
    free = free_unknowns(mesh, space, problem)
    u, v = space.TnT()
    a = ngs.BilinearForm(space, symmetric=True)
    a += ngs.InnerProduct(elastic.stress(u), elastic.strain(v)).Compile() * ngs.dx
    for term in sliding_terms(problem, mesh, order, u, v):
        a += term
    f = ngs.LinearForm(space)
    applied = 0.0
    normal = ngs.specialcf.normal(3)
    for load in problem.loads:
        size = float(np.linalg.norm(load.vector))
        if load.kind == "gravity":
            f += ngs.CF(tuple(problem.density * c for c in load.vector)) * v * ngs.dx
            applied += problem.density * problem.volume * size
            continue
        on = mesh.Boundaries(regions(load.faces))
        area = float(ngs.Integrate(ngs.CF(1), mesh, definedon=on))
        if load.kind == "force":
            f += ngs.CF(tuple(c / area for c in load.vector)) * v * ngs.ds(definedon=on)
            applied += size
        else:
            f += -load.pressure * normal * v * ngs.ds(definedon=on)
            applied += abs(load.pressure) * area
    a.Assemble()
    f.Assemble()
    say(0.5)
    found = ngs.GridFunction(space)
    inverse = a.mat.Inverse(free, inverse="sparsecholesky")
    found.vec.data = inverse * f.vec
    if not math.isfinite(ngs.Norm(found.vec)):
        raise StrengthTrouble("the solution is not finite: the part is not held well enough")
    residual = f.vec.CreateVector()
    residual.data = a.mat * found.vec - f.vec
    return Solution(found, np.array(residual.FV()), np.array(f.vec.FV()), applied)


_TET = [(1, 0, 0), (0, 1, 0), (0, 0, 1), (0, 0, 0)]
_EDGES = [(0, 1), (0, 2), (0, 3), (1, 2), (1, 3), (2, 3)]


def recover(mesh: Any, u: Any, problem: Problem, order: int) -> Field:
    """Displacements and averaged stresses at corners and edge middles. `jump` is how far the
    elements that meet at a node differ there, infinite where only one does."""
    stress = Elastic.of(problem).stress(u)
    linear = ngs.GridFunction(ngs.L2(mesh, order=order - 1) ** 6)
    linear.Set(
        ngs.CF(tuple(stress[i, j] for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (0, 2))))
    )
    middles = [tuple(0.5 * (np.array(_TET[a]) + np.array(_TET[b]))) for a, b in _EDGES]
    rule = ngs.IntegrationRule([*_TET, *middles], [1.0] * 10)
    spots = mesh.MapToAllElements({ngs.ET.TET: rule}, ngs.VOL)
    at = np.asarray(ngs.CF((ngs.x, ngs.y, ngs.z))(spots)).reshape(-1, 10, 3)
    moved = np.asarray(u(spots)).reshape(-1, 10, 3)
    values = np.asarray(linear(spots)).reshape(-1, 10, 6)
    corners = np.array([[v.nr for v in e.vertices] for e in mesh.Elements(ngs.VOL)], dtype=np.int64)
    pairs = np.sort(corners[:, np.array(_EDGES)], axis=2)
    code = pairs[..., 0] * mesh.nv + pairs[..., 1]
    known, edge = np.unique(code, return_inverse=True)
    nodes = np.concatenate([corners, mesh.nv + edge.reshape(code.shape)], axis=1)
    count = mesh.nv + len(known)
    flat = nodes.ravel()
    share = np.bincount(flat, minlength=count).astype(float)
    points, displacement = np.zeros((count, 3)), np.zeros((count, 3))
    points[flat] = at.reshape(-1, 3)
    displacement[flat] = moved.reshape(-1, 3)
    average = np.stack(
        [np.bincount(flat, values[..., k].ravel(), count) / np.maximum(share, 1) for k in range(6)],
        axis=1,
    )
    von_mises = mises(average)
    raw = mises(values.reshape(-1, 6))
    jump = np.zeros(count)
    np.maximum.at(jump, flat, np.abs(raw - von_mises[flat]))
    jump[share < 2] = np.inf
    surface, face = [], []
    for e in mesh.Elements(ngs.BND):
        surface.append([v.nr for v in e.vertices])
        face.append(int(e.mat[1:]))
    tri = np.array(surface, dtype=np.int64)
    sides = np.sort(tri[:, [[0, 1], [1, 2], [2, 0]]], axis=2)
    mid = np.searchsorted(known, sides[..., 0] * mesh.nv + sides[..., 1]) + mesh.nv
    return Field(
        points, displacement, average, von_mises, jump,
        np.concatenate([tri, mid], axis=1), np.array(face, dtype=np.int64),
    )  # fmt: skip


def mises(s: Floats) -> Floats:
    """Von Mises stress of rows (xx, yy, zz, xy, yz, xz)."""
    xx, yy, zz, xy, yz, xz = s.T
    deviator = 0.5 * ((xx - yy) ** 2 + (yy - zz) ** 2 + (zz - xx) ** 2)
    return np.asarray(np.sqrt(deviator + 3.0 * (xy**2 + yz**2 + xz**2)))


def _distance_to(lines: tuple[tuple[Triple, ...], ...], points: Floats) -> Floats:
    best = np.full(len(points), np.inf)
    for line in lines:
        for p, q in itertools.pairwise(line):
            a, d = np.array(p), np.array(q) - np.array(p)
            length = float(d @ d)
            t = np.clip((points - a) @ d / length, 0, 1) if length > 0 else np.zeros(len(points))
            best = np.minimum(best, np.linalg.norm(points - a - t[:, None] * d, axis=1))
    return best


def _at_corner(answer: Answer, problem: Problem) -> Any:
    at = np.array([answer.peak_at])
    if _distance_to(problem.inner_corners, at)[0] < 0.75 * answer.mesh_size:
        return "inner"
    if _distance_to(problem.support_borders, at)[0] < 0.75 * answer.mesh_size:
        return "support"
    return None


def _away(field: Field, problem: Problem, reach: float) -> float | None:
    """Largest stress further than `reach` from all such corners."""
    lines = (*problem.inner_corners, *problem.support_borders)
    far = _distance_to(lines, field.points) > reach
    return float(field.von_mises[far].max()) if far.any() else None
