"""What supports do to a discretised part: sliding ones by consistent terms, reactions as forces
and moments.

A sliding face is held along its normal by Nitsche's method: with the normal traction
s(u) = n . sigma(u) n, a(u, v) gains the integral over the face of
- s(u) (v . n) - s(v) (u . n) + (g / h) (u . n)(v . n)
(J. Nitsche 1971; e.g. Juntunen, Stenberg: Nitsche's method for general boundary conditions,
Math. Comp. 78, 2009). It is consistent, so that g stays moderate and a curved face is not made
stiff by the interpolation of its normals, as stiff springs along them do.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import ngsolve as ngs
import numpy as np
from numpy.typing import NDArray

from vireo.core.strength.problem import Held, Problem, Slide, SupportAnswer, Triple

Floats = NDArray[np.float64]

#: Times the square of the order and the modulus of compression: well above what keeps the form
#: definite on well-shaped elements.
_FIRM = 8.0


def regions(indices: Any, letter: str = "f") -> str:
    """The mesher's names of faces (f) or edges (e) by index."""
    return "|".join(f"{letter}{i}" for i in sorted(set(indices)))


def normal_of(slide: Slide) -> Any:
    """True unit normal of a sliding face as a function of place: those of the mesh differ a
    little from it and would keep a cylinder from turning in its seat."""
    if slide.kind == "plane":
        return ngs.CF(slide.direction)
    out = ngs.CF((ngs.x, ngs.y, ngs.z)) - ngs.CF(slide.origin)
    if slide.kind == "cylinder":
        axis = ngs.CF(slide.direction)
        out = out - (out * axis) * axis
    return out / ngs.Norm(out)


@dataclass(frozen=True)
class Elastic:
    """Isotropic linear elasticity: sigma = 2 mu eps + lambda tr(eps) I (MPa)."""

    mu: float
    lam: float

    @staticmethod
    def of(problem: Problem) -> Elastic:
        young, nu = problem.young, problem.poisson
        return Elastic(young / (2 * (1 + nu)), young * nu / ((1 + nu) * (1 - 2 * nu)))

    def strain(self, w: Any) -> Any:
        return 0.5 * (ngs.Grad(w) + ngs.Grad(w).trans)

    def stress(self, w: Any) -> Any:
        e = self.strain(w)
        return 2 * self.mu * e + self.lam * ngs.Trace(e) * ngs.Id(3)


def sliding_terms(problem: Problem, mesh: Any, order: int, u: Any, v: Any) -> list[Any]:
    """What sliding supports add to a(u, v)."""
    elastic = Elastic.of(problem)
    terms = []
    for slide in (s for h in problem.held for s in h.slides):
        n = normal_of(slide)
        firm = _firm(elastic, order)
        terms.append(
            (
                -_traction(elastic, u, n) * (v * n)
                - _traction(elastic, v, n) * (u * n)
                + firm * (u * n) * (v * n)
            )
            * ngs.ds(skeleton=True, definedon=mesh.Boundaries(regions([slide.face])))
        )
    return terms


def _traction(elastic: Elastic, w: Any, n: Any) -> Any:
    return (elastic.stress(w) * n) * n


def _firm(elastic: Elastic, order: int) -> Any:
    return _FIRM * order**2 * (2 * elastic.mu + elastic.lam) / ngs.specialcf.mesh_size


def free_unknowns(mesh: Any, space: Any, problem: Problem) -> Any:
    """The unknowns no support takes away."""
    free = ngs.BitArray(space.ndof)
    free.Set()
    for held in problem.held:
        for k, own in _taken(mesh, space, held):
            for i in own:
                free[int(i) + k * (space.ndof // 3)] = False
    return free


def _taken(mesh: Any, space: Any, held: Held) -> list[tuple[int, Any]]:
    """Unknowns of one component that a support holds, with the directions it holds."""
    if held.slides:
        return []
    own = space.components[0].GetDofs(mesh.Boundaries(regions(held.faces)))
    if held.edges:
        own |= space.components[0].GetDofs(mesh.BBoundaries(regions(held.edges, "e")))
    taken = np.flatnonzero(np.array(list(own)))
    return [(k, taken) for k in range(3) if held.ways[k]]


def rigid_motions(space: Any, about: Floats) -> list[Floats]:
    """Vectors of unknowns of unit shifts along X, Y, Z and unit turns (rad) about a place."""
    x, y, z = (c - float(o) for c, o in zip((ngs.x, ngs.y, ngs.z), about, strict=True))
    fields = [
        ngs.CF((1, 0, 0)), ngs.CF((0, 1, 0)), ngs.CF((0, 0, 1)),
        ngs.CF((0, -z, y)), ngs.CF((z, 0, -x)), ngs.CF((-y, x, 0)),
    ]  # fmt: skip
    found = []
    for field in fields:
        g = ngs.GridFunction(space)
        g.Set(field)
        found.append(np.array(g.vec.FV()))
    return found


def reactions(
    mesh: Any, u: Any, residual: Floats, problem: Problem, order: int, motions: list[Floats]
) -> list[tuple[SupportAnswer, Floats]]:
    """Force of each support on the part, and its force and moment (six numbers, N and N mm).

    By virtual work of rigid motions: of held unknowns the residual K u - f, of sliding faces
    their consistent traction. What two supports hold alike counts with the first.
    """
    space = u.space
    size = space.ndof // 3
    taken = np.zeros(space.ndof, dtype=bool)
    found = []
    for held in problem.held:
        if held.slides:
            forces = sum(
                (_slide_force(mesh, u, problem, s, order, motions) for s in held.slides),
                np.zeros(6),
            )
        else:
            own = np.zeros(space.ndof, dtype=bool)
            for k, dofs in _taken(mesh, space, held):
                own[dofs + k * size] = True
            fresh = own & ~taken
            taken |= own
            forces = np.array([float(residual[fresh] @ g[fresh]) for g in motions])
        force: Triple = (float(forces[0]), float(forces[1]), float(forces[2]))
        found.append((SupportAnswer(id=held.id, force=force), forces))
    return found


def _slide_force(
    mesh: Any, u: Any, problem: Problem, slide: Slide, order: int, motions: list[Floats]
) -> Floats:
    elastic, n = Elastic.of(problem), normal_of(slide)
    v = u.space.TestFunction()
    push = ngs.LinearForm(u.space)
    traction = _traction(elastic, u, n) - _firm(elastic, order) * (u * n)
    on = mesh.Boundaries(regions([slide.face]))
    push += traction * (v * n) * ngs.ds(skeleton=True, definedon=on)
    push.Assemble()
    work = np.array(push.vec.FV())
    return np.array([float(work @ g) for g in motions])
