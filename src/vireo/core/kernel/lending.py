"""Faces, edges or all of a body, lent to another part: the same geometry where it stands seen from
there, stored by itself."""

from __future__ import annotations

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.TopoDS import TopoDS_Shape

from vireo.core.geometry import Vector
from vireo.core.kernel.forms.kind import form_of, sound
from vireo.core.kernel.gate import checked
from vireo.core.kernel.place import location
from vireo.core.kernel.shape import Body, compound_of
from vireo.core.kernel.trouble import KernelTrouble

Picked = tuple[tuple[int, ...], tuple[int, ...]]


def lent(
    body: Body, picked: Picked | None, names: tuple[str, ...], at: tuple[Vector, Vector]
) -> Body:
    """Faces (or, without any, edges) of a body by index, all of it without `picked`, carried by a
    3x3 rotation and a shift in mm. Edges are called by `names`, faces keep theirs.

    Raises KernelTrouble.
    """
    shape, called = _taken(body, picked, names)
    move = location(*at).Transformation()
    moved = BRepBuilderAPI_Transform(shape, move, True, False).Shape()
    form = form_of(Body(shape, called)).word
    made = Body(kept_whole(moved, form), called)
    if len(made.faces or made.edges) != len(called):
        raise KernelTrouble("what was taken did not come back whole")
    return made


def kept_whole(shape: TopoDS_Shape, form: str) -> TopoDS_Shape:
    """A lent shape of a form past its gate. Raises KernelTrouble."""
    what = "taking it over"
    return checked(what, shape) if form == "solid" else sound(what, shape, form)


def _taken(
    body: Body, picked: Picked | None, names: tuple[str, ...]
) -> tuple[TopoDS_Shape, tuple[str, ...]]:
    if picked is None:
        return body.shape, body.names
    faces, edges = picked
    if faces:
        return compound_of([body.faces[i] for i in faces]), tuple(body.names[i] for i in faces)
    return compound_of([body.edges[i] for i in edges]), names


def same_shape(a: Body, b: Body, within: float = 1e-6) -> bool:
    """Whether two bodies of equal names are of one form and size and stand in one place, piece by
    piece: the centre of each (mm), its size and its second moments, by the kernel's quadrature."""
    if a.names != b.names or len(a.faces) != len(b.faces):
        return False
    return all(
        bool(np.all(np.abs(_moments(x, flat) - _moments(y, flat)) < within))
        for flat in [bool(a.faces)]
        for x, y in zip(a.faces or a.edges, b.faces or b.edges, strict=True)
    )


def _moments(shape: TopoDS_Shape, flat: bool) -> Vector:
    """Centre, the edge of a square (a line) of its size, radii of gyration about the axes: mm."""
    found = GProp_GProps()
    (BRepGProp.SurfaceProperties_s if flat else BRepGProp.LinearProperties_s)(shape, found)
    size, c, m = found.Mass(), found.CentreOfMass(), found.MatrixOfInertia()
    if size <= 0:
        return np.zeros(9)
    inertia = np.array([[m.Value(i, j) for j in (1, 2, 3)] for i in (1, 2, 3)]) / size
    spread = np.sqrt(np.abs(np.diag(inertia)))
    length = float(np.sqrt(size)) if flat else size
    # The mixed moments tell a thing from its mirror image.
    mixed = inertia[np.triu_indices(3, 1)] / max(float(spread.max()), 1e-9)
    return np.array([c.X(), c.Y(), c.Z(), length, *spread, *mixed[:2]])
