"""Second-order curved tetrahedra, linear elasticity, direct solution, averaged stresses.

a(u, v) = integral of sigma(u) : eps(v), sigma = 2 mu eps + lambda tr(eps) I
(e.g. Zienkiewicz, Taylor, Zhu: The Finite Element Method, ch. 2). Stresses: a linear fit in
each element to the solution's stress, averaged at the nodes.
"""

from __future__ import annotations

import itertools
import math
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

import netgen.meshing as nm
import netgen.occ as no
import ngsolve as ngs
import numpy as np
import scipy.sparse
import scipy.sparse.csgraph
from numpy.typing import NDArray

from vireo.core.strength.problem import Answer, Problem, Slide, SupportAnswer, Triple
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


def _regions(indices: Iterable[int], letter: str = "f") -> str:
    return "|".join(f"{letter}{i}" for i in sorted(set(indices)))


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
    thickness = 2.0 * problem.volume / sum(problem.areas) * 1.5
    size = problem.mesh_size or choose_size(problem, thickness)
    answer, field = _once(shape, problem, size, say, 0.0, 1.0)
    corner = _at_corner(answer, problem)
    if corner is None:
        return answer, field
    # A peak at such a corner is asked whether it would ever stop growing.
    growth = None
    if answer.nodes < 60_000:
        say(0.6, "finer mesh, to see whether the peak at the corner grows")
        finer, _ = _once(shape, problem, 0.6 * size, say, 0.6, 0.4)
        growth = finer.peak / answer.peak if answer.peak > 0 else None
    away = _away(field, problem, 1.5 * size)
    return answer.model_copy(
        update={"corner": corner, "growth": growth, "away_from_corners": away}
    ), field


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
) -> tuple[Answer, Field]:
    clock = {"start": time.perf_counter()}

    def tick(name: str) -> None:
        now = time.perf_counter()
        clock[name] = now - clock["start"]
        clock["start"] = now

    say(base + 0.02 * share, f"meshing at {size:.3g} mm")
    with ngs.TaskManager():
        mesh = make_mesh(shape, size)
        tick("mesh")
        _no_rigid_motion(mesh, problem)
        say(base + 0.35 * share, f"assembling {mesh.ne} elements")
        u, vector, load = _solve(mesh, problem, lambda s: say(base + share * s, "solving"))
        tick("solve")
        say(base + 0.85 * share, "stresses and reactions")
        field = recover(mesh, u, problem)
        reactions = _reactions(mesh, u, vector, problem)
        volume = float(ngs.Integrate(ngs.CF(1), mesh))
    tick("stress")
    del clock["start"]
    peak = int(np.argmax(field.von_mises))
    size_of = np.linalg.norm(field.displacement, axis=1)
    most = int(np.argmax(size_of))
    total = np.array([r.force for r in reactions]).sum(axis=0)
    scale = max(
        float(np.linalg.norm(load)),
        max((float(np.linalg.norm(r.force)) for r in reactions), default=0.0),
        1e-12,
    )
    answer = Answer(
        nodes=len(field.points),
        unknowns=u.space.ndof,
        mesh_size=size,
        volume_error=abs(volume - problem.volume) / problem.volume,
        peak=float(field.von_mises[peak]),
        peak_at=_triple(field.points[peak]),
        peak_jump=float(field.jump[peak]),
        safety=problem.strength / max(float(field.von_mises[peak]), 1e-12),
        deflection=float(size_of[most]),
        deflection_at=_triple(field.points[most]),
        reactions=tuple(reactions),
        reaction=_triple(total),
        load=_triple(load),
        imbalance=float(np.linalg.norm(total + load)) / scale,
        seconds={k: round(v, 3) for k, v in clock.items()},
    )
    return answer, field


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


def _normal(slide: Slide) -> Any:
    """The same as a function of place. True normals matter: those of the mesh differ a little
    from them, and stiff springs along them would stop a cylinder from turning in its seat."""
    if slide.kind == "plane":
        return ngs.CF(slide.direction)
    out = ngs.CF((ngs.x, ngs.y, ngs.z)) - ngs.CF(slide.origin)
    if slide.kind == "cylinder":
        axis = ngs.CF(slide.direction)
        out = out - (out * axis) * axis
    return out / ngs.Norm(out)


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


def _solve(mesh: Any, problem: Problem, say: Callable[[float], None]) -> tuple[Any, Any, Floats]:
    """Displacement, residual K u - f (the reactions), and the resultant of the loads in N."""
    young, nu = problem.young, problem.poisson
    mu, lam = young / (2 * (1 + nu)), young * nu / ((1 + nu) * (1 - 2 * nu))
    space = ngs.VectorH1(mesh, order=2)
    free = _free(mesh, space, problem)
    u, v = space.TnT()

    def eps(w: Any) -> Any:
        return 0.5 * (ngs.Grad(w) + ngs.Grad(w).trans)

    def sigma(e: Any) -> Any:
        return 2 * mu * e + lam * ngs.Trace(e) * ngs.Id(3)

    a = ngs.BilinearForm(space, symmetric=True)
    a += ngs.InnerProduct(sigma(eps(u)), eps(v)).Compile() * ngs.dx
    for slide in (s for h in problem.held for s in h.slides):
        on, n = mesh.Boundaries(_regions([slide.face])), _normal(slide)
        a += _spring(problem) * (u * n) * (v * n) * ngs.ds(definedon=on)
    f = ngs.LinearForm(space)
    total = np.zeros(3)
    normal = ngs.specialcf.normal(3)
    for load in problem.loads:
        if load.kind == "gravity":
            body = ngs.CF(tuple(problem.density * c for c in load.vector))
            f += body * v * ngs.dx
            total += problem.density * problem.volume * np.array(load.vector)
            continue
        on = mesh.Boundaries(_regions(load.faces))
        if load.kind == "force":
            area = float(ngs.Integrate(ngs.CF(1), mesh, definedon=on))
            f += ngs.CF(tuple(c / area for c in load.vector)) * v * ngs.ds(definedon=on)
            total += np.array(load.vector)
        else:
            f += -load.pressure * normal * v * ngs.ds(definedon=on)
            total += -load.pressure * np.array(ngs.Integrate(normal, mesh, definedon=on))
    a.Assemble()
    f.Assemble()
    say(0.55)
    found = ngs.GridFunction(space)
    inverse = a.mat.Inverse(free, inverse="sparsecholesky")
    found.vec.data = inverse * f.vec
    if not math.isfinite(ngs.Norm(found.vec)):
        raise StrengthTrouble("the solution is not finite: the part is not held well enough")
    residual = f.vec.CreateVector()
    residual.data = a.mat * found.vec - f.vec
    return found, residual, total


def _free(mesh: Any, space: Any, problem: Problem) -> Any:
    """The unknowns no support takes away."""
    free = ngs.BitArray(space.ndof)
    free.Set()
    count = space.ndof // 3
    for held in problem.held:
        if held.slides:
            continue
        own = space.components[0].GetDofs(mesh.Boundaries(_regions(held.faces)))
        if held.edges:
            own |= space.components[0].GetDofs(mesh.BBoundaries(_regions(held.edges, "e")))
        taken = np.flatnonzero(np.array(list(own)))
        for k in range(3):
            if held.ways[k]:
                for i in taken + k * count:
                    free[int(i)] = False
    return free


def _spring(problem: Problem) -> float:
    """Stiffness of sliding supports along their normals, N/mm3: so large that what they give
    is about 1e-6 of what the part gives."""
    return 1e6 * problem.young / float(problem.volume ** (1 / 3))


def _reactions(mesh: Any, u: Any, residual: Any, problem: Problem) -> list[SupportAnswer]:
    """Force of each support on the part.

    Of sliding ones, what their springs take. Of the others the residual tried with a rigid
    shift, which in this basis has ones at the corners and nothing on the edges; what two of
    them share is counted with the first that holds that direction.
    """
    values = np.array(residual.FV())
    count = u.space.ndof // 3
    corners = np.stack([values[k * count : k * count + mesh.nv] for k in range(3)], axis=1)
    found, taken = [], np.zeros((mesh.nv, 3), dtype=bool)
    cells: dict[str, set[int]] = {}
    for part in (ngs.BND, ngs.BBND):
        for element in mesh.Elements(part):
            cells.setdefault(element.mat, set()).update(v.nr for v in element.vertices)
    for held in problem.held:
        if held.slides:
            force = np.zeros(3)
            for slide in held.slides:
                on, n = mesh.Boundaries(_regions([slide.face])), _normal(slide)
                give = ngs.Integrate((u * n) * n, mesh, definedon=on)
                force -= _spring(problem) * np.array(give)
            found.append(SupportAnswer(id=held.id, force=_triple(force)))
            continue
        names = [f"f{i}" for i in held.faces] + [f"e{i}" for i in held.edges]
        own = np.zeros((mesh.nv, 3), dtype=bool)
        own[sorted(set().union(*(cells.get(n, set()) for n in names)))] = held.ways
        fresh = own & ~taken
        taken |= own
        found.append(SupportAnswer(id=held.id, force=_triple((corners * fresh).sum(axis=0))))
    return found


_TET = [(1, 0, 0), (0, 1, 0), (0, 0, 1), (0, 0, 0)]
_EDGES = [(0, 1), (0, 2), (0, 3), (1, 2), (1, 3), (2, 3)]


def recover(mesh: Any, u: Any, problem: Problem) -> Field:
    """Displacements and averaged stresses at corners and edge middles."""
    young, nu = problem.young, problem.poisson
    mu, lam = young / (2 * (1 + nu)), young * nu / ((1 + nu) * (1 - 2 * nu))
    strain = 0.5 * (ngs.Grad(u) + ngs.Grad(u).trans)
    stress = 2 * mu * strain + lam * ngs.Trace(strain) * ngs.Id(3)
    linear = ngs.GridFunction(ngs.L2(mesh, order=1) ** 6)
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
