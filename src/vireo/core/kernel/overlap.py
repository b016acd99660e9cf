"""The common solid of two placed bodies, and how deep one reaches into the other."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from OCP.BOPAlgo import BOPAlgo_BOP, BOPAlgo_Operation
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Pnt, gp_Pnt2d
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_IN, TopAbs_ON, TopAbs_SHELL
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS_Shape

from vireo.core.geometry import Vector
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.measure import box_of
from vireo.core.kernel.place import located
from vireo.core.kernel.shape import Body, Key, compound_of, faces_of, items, solids_of


@dataclass(frozen=True)
class Overlap:
    """`volume` mm3, `thickness` mm, centre in mm in the first body's coordinates, and which
    faces of each bound it. `certain` is False for a finding from samples."""

    volume: float
    thickness: float
    at: tuple[float, float, float]
    faces_a: tuple[str, ...]
    faces_b: tuple[str, ...]
    certain: bool = True


def common(a: Body, b: Body, rotation: Vector, position: Vector) -> Overlap | None:
    """Exact overlap of `a` with `b` turned and moved, or None when they share no volume."""
    moved = located(b.shape, rotation, position)
    builder = BOPAlgo_BOP()
    builder.SetOperation(BOPAlgo_Operation.BOPAlgo_COMMON)
    builder.AddArgument(a.shape)
    builder.AddTool(moved)
    builder.SetRunParallel(False)
    builder.SetNonDestructive(True)
    builder.SetToFillHistory(True)
    builder.Perform()
    if builder.HasErrors():
        raise KernelTrouble("the overlap of two components could not be computed")
    solids = solids_of(builder.Shape())
    if not solids:
        return None
    whole = compound_of(solids)
    solid, skin = GProp_GProps(), GProp_GProps()
    BRepGProp.VolumeProperties_s(whole, solid)
    BRepGProp.SurfaceProperties_s(whole, skin)
    volume, area = abs(float(solid.Mass())), float(skin.Mass())
    if volume <= 0.0 or area <= 0.0:
        return None
    c = solid.CentreOfMass()
    present = {Key(f) for f in faces_of(whole)}

    def names(body: Body, shape: TopoDS_Shape) -> tuple[str, ...]:
        found = set()
        for face, name in zip(faces_of(shape), body.names, strict=True):
            pieces = items(builder.Modified(face)) or [face]
            if any(Key(p) in present for p in pieces):
                found.add(name)
        return tuple(sorted(found))

    return Overlap(
        volume, 2.0 * volume / area, (c.X(), c.Y(), c.Z()), names(a, a.shape), names(b, moved)
    )


def _samples(shape: TopoDS_Shape, low: Vector, high: Vector) -> list[tuple[int, gp_Pnt]]:
    """Points on the true faces of a shape that lie inside a box, about one per millimetre."""
    found = []
    for index, face in enumerate(faces_of(shape)):
        surface = BRepAdaptor_Surface(face)
        u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
        along_u = _steps(surface, u0, u1, 0.5 * (v0 + v1), True)
        along_v = _steps(surface, v0, v1, 0.5 * (u0 + u1), False)
        for i in range(along_u):
            for j in range(along_v):
                u = u0 + (i + 0.5) * (u1 - u0) / along_u
                v = v0 + (j + 0.5) * (v1 - v0) / along_v
                p = surface.Value(u, v)
                at = np.array([p.X(), p.Y(), p.Z()])
                if not (np.all(at >= low) and np.all(at <= high)):
                    continue
                state = BRepClass_FaceClassifier()
                state.Perform(face, gp_Pnt2d(u, v), 1e-7)
                if state.State() in (TopAbs_IN, TopAbs_ON):
                    found.append((index, p))
    return found


def _steps(surface: BRepAdaptor_Surface, a: float, b: float, other: float, along_u: bool) -> int:
    points = []
    for k in range(5):
        t = a + (b - a) * k / 4
        points.append(surface.Value(t, other) if along_u else surface.Value(other, t))
    length = sum(p.Distance(q) for p, q in itertools.pairwise(points))
    return int(min(max(length, 6), 32))


def deepest(
    a: Body, b: Body, rotation: Vector, position: Vector, tolerance: float
) -> Overlap | None:
    """The deepest sample of either body's faces inside the other, when deeper than `tolerance`.

    The volume told is depth times the area sampled inside: a bound, not a measure.
    """
    moved = located(b.shape, rotation, position)
    best: Overlap | None = None
    for first, second, swapped in ((a.shape, moved, False), (moved, a.shape, True)):
        low, high = (np.array(c) for c in box_of(second))
        inner = BRepClass3d_SolidClassifier(second)
        explorer = TopExp_Explorer(second, TopAbs_SHELL)
        for index, p in _samples(first, low, high):
            inner.Perform(p, 1e-7)
            if inner.State() != TopAbs_IN:
                continue
            vertex = BRepBuilderAPI_MakeVertex(p).Vertex()
            depth = float(BRepExtrema_DistShapeShape(vertex, explorer.Current()).Value())
            if depth > tolerance and (best is None or depth > best.thickness):
                name = (b if swapped else a).names[index]
                best = Overlap(
                    volume=depth**3,
                    thickness=depth,
                    at=(p.X(), p.Y(), p.Z()),
                    faces_a=() if swapped else (name,),
                    faces_b=(name,) if swapped else (),
                    certain=False,
                )
    return best
