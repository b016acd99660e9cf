"""The outside of bodies: without voids, with inner faces and small holes closed, or as a box."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid
from OCP.BRepClass3d import BRepClass3d
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_SHELL
from OCP.TopoDS import TopoDS, TopoDS_Shape

from vireo.core.kernel.boolean import NothingLeft, combine
from vireo.core.kernel.dress import without_faces
from vireo.core.kernel.gate import checked
from vireo.core.kernel.measure import box_of, topology_of, volume_of
from vireo.core.kernel.shape import Body, Key, compound_of, faces_of, mapped, solids_of
from vireo.core.kernel.trouble import KernelTrouble
from vireo.core.naming import Topology
from vireo.core.naming.grammar import answers

#: More faces that hang together than this are not closed.
_MOST = 40


@dataclass(frozen=True)
class Outside:
    """A body's outside. `closed` counts the faces that are gone; `left` are those that should be and
    could not be closed, by their place in the body it was made of."""

    body: Body
    closed: int
    left: tuple[int, ...]


def outside(body: Body, inner: Iterable[int], small: float, deep: Iterable[int] = ()) -> Outside:
    """A solid without its voids, with faces (by index) and holes up to a diameter (mm) closed by what is
    around them. Where that does not work, the whole of the hole or pocket they are in is: what hangs together
    of `deep` faces. Nothing of the solid is lost: what is closed only adds material within its box."""
    marked = Body(body.shape, tuple(f"f{i}" for i in range(len(body.faces))))
    made = _without_voids(marked)
    kept = set(made.names)
    topology = topology_of(body)
    wanted = {i for i in inner if f"f{i}" in kept} | {
        i for i in _small_holes(topology, small) if f"f{i}" in kept
    }
    every = hanging(wanted, topology)
    groups = [g for g in every if _plain(g, topology)]
    left = [i for g in every if g not in groups for i in g]
    whole = _closed(made, [i for g in groups for i in g]) if groups else made
    if whole is None:
        whole = made
        for group in sorted(groups, key=len):
            without = _closed(whole, group)
            if without is None:
                left += group
            else:
                whole = without
    for pocket in [set(g) for g in hanging({*deep, *left}, topology)] if left else []:
        if pocket & set(left) and _plain(sorted(pocket), topology):
            without = _closed(whole, sorted(pocket))
            if without is not None:
                whole, left = without, [i for i in left if i not in pocket]
    found = Body(whole.shape, tuple(f"skin/{k}" for k in range(len(whole.faces))))
    return Outside(found, max(len(body.faces) - len(found.faces), 0), tuple(sorted(left)))


def boxed(low: Sequence[float], high: Sequence[float]) -> Body:
    """A box between two corners (mm), as thick as a hair where it has no extent."""
    a = np.asarray(low, float)
    b = np.maximum(np.asarray(high, float), a + 1e-3)
    shape = BRepPrimAPI_MakeBox(gp_Pnt(*a.tolist()), gp_Pnt(*b.tolist())).Solid()
    return Body(checked("the box", shape), tuple(f"box/{k}" for k in range(6)))


def together(bodies: Sequence[Body]) -> Body:
    """Solids as one where they touch; several beside each other where they do not, or cannot be
    made one."""
    if len(bodies) == 1:
        return bodies[0]
    first, *rest = bodies
    try:
        whole = combine("add", first, list(rest), "the outside").shape
        if volume_of(whole) < max(volume_of(b.shape) for b in bodies) - 1e-6:
            raise KernelTrouble("the outside lost material")
    except KernelTrouble:
        whole = compound_of([b.shape for b in bodies])
    return Body(whole, tuple(f"skin/{k}" for k in range(len(faces_of(whole)))))


def shells_in(shape: TopoDS_Shape) -> int:
    """How many shells its solids have: more than solids where there are voids."""
    return sum(len(mapped(s, TopAbs_SHELL)) for s in solids_of(shape))


def _without_voids(body: Body) -> Body:
    solids = solids_of(body.shape)
    if shells_in(body.shape) == len(solids):
        return body
    names = {Key(f): n for f, n in body.named_faces()}
    made = []
    for solid in solids:
        shell = BRepClass3d.OuterShell_s(TopoDS.Solid(solid))
        made.append(BRepBuilderAPI_MakeSolid(shell).Solid())
    shape = checked("taking the voids away", made[0] if len(made) == 1 else compound_of(made))
    return Body(shape, tuple(names[Key(f)] for f in faces_of(shape)))


def _small_holes(topology: Topology, small: float) -> set[int]:
    """Hollow round faces up to a diameter, with the bottoms that only they bound."""
    faces = topology.faces
    round_ = {
        i for i, f in enumerate(faces)
        if f.hollow and f.radius is not None and 2 * f.radius <= small
        and f.kind in ("cylinder", "cone", "sphere", "torus")
    }  # fmt: skip
    while True:
        more = {
            i for i, f in enumerate(faces)
            if i not in round_ and f.neighbours and set(f.neighbours) <= round_
        }  # fmt: skip
        if not more:
            return round_
        round_ |= more


def _plain(faces: Sequence[int], topology: Topology) -> bool:
    """Whether faces can be closed at all: running free-form ones on does not end."""
    return len(faces) <= _MOST and all(topology.faces[i].kind != "freeform" for i in faces)


def hanging(wanted: set[int], topology: Topology) -> list[list[int]]:
    """Faces in groups that hang together."""
    left, groups = set(wanted), []
    while left:
        waiting, group = [min(left)], set()
        while waiting:
            i = waiting.pop()
            if i in left:
                left.discard(i)
                group.add(i)
                waiting += [n for n in topology.faces[i].neighbours if n in left]
        groups.append(sorted(group))
    return groups


def _closed(body: Body, faces: Sequence[int]) -> Body | None:
    """The body with faces, by their marks, closed; None where that does not work out."""
    there = [k for k, name in enumerate(body.names) if any(answers(name, f"f{i}") for i in faces)]
    if not there or len(there) == len(body.names):
        return None
    try:
        made = without_faces(body, there)
    except KernelTrouble:
        return None
    return made if _holds(made, body) else None


def _holds(outer: Body, inner: Body) -> bool:
    """Whether a solid lies within another and that within the box of the first: asked of the boolean,
    not of what closed it."""
    volume = volume_of(inner.shape)
    if volume_of(outer.shape) < volume * (1 - 1e-9):
        return False
    (low, high), (at, to) = box_of(outer.shape), box_of(inner.shape)
    room = 1e-3 + 1e-4 * float(np.linalg.norm(np.subtract(to, at)))
    if max(*np.subtract(at, low), *np.subtract(high, to)) > room:
        return False
    try:
        rest = combine("cut", inner, [outer], "the outside")
    except NothingLeft:
        return True
    except KernelTrouble:
        return False
    return volume_of(rest.shape) < 1e-6 * volume
