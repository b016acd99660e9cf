"""Faces, edges or all of a body, lent to another part: the same geometry where it stands seen from
there, stored by itself."""

from __future__ import annotations

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.TopoDS import TopoDS_Shape

from vireo.core.geometry import Vector
from vireo.core.kernel.exchange import unmatched
from vireo.core.kernel.forms.kind import form_of, sound
from vireo.core.kernel.gate import checked
from vireo.core.kernel.intake import binary_shape
from vireo.core.kernel.measure import topology_of
from vireo.core.kernel.place import location
from vireo.core.kernel.shape import Body, compound_of
from vireo.core.kernel.trouble import KernelTrouble
from vireo.core.trouble import BadInput

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


def taken_up(data: bytes, names: tuple[str, ...]) -> Body:
    """A lent body as it was stored, past the gate of its form. Raises BadInput and KernelTrouble."""
    shape = binary_shape(data)
    if shape.IsNull():
        raise BadInput("this file holds nothing")
    body = Body(shape, names)
    if len(body.faces or body.edges) != len(names):
        raise BadInput("this file holds other faces than were taken")
    return Body(kept_whole(shape, form_of(body).word), names)


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


def same_shape(a: Body, b: Body, within: float = 1e-4) -> bool:
    """Whether two bodies of equal names are of one form and size and stand in one place (mm): every
    piece by its centre, size and second moments, which a mirror image changes, and all edges and
    corners, for a pattern turned by its own step has the moments it had."""
    if a.names != b.names or len(a.faces) != len(b.faces):
        return False
    pieces = zip(a.faces or a.edges, b.faces or b.edges, strict=True)
    flat = bool(a.faces)
    if any(np.any(np.abs(_moments(x, flat) - _moments(y, flat)) > within) for x, y in pieces):
        return False
    return all(
        len(x) == len(y) and unmatched(x, y, within) is None
        for x, y in zip(_bounds(a), _bounds(b), strict=True)
    )


def _bounds(body: Body) -> tuple[Vector, Vector]:
    """Edges by a middle, a length and a centre, and corners: rows of mm."""
    found = topology_of(body)
    edges = [[*e.at, e.length, *(e.centre or e.at)] for e in found.edges]
    corners = [v.at for v in found.vertices]
    return np.array(edges).reshape(-1, 7), np.array(corners).reshape(-1, 3)


def _moments(shape: TopoDS_Shape, flat: bool) -> Vector:
    """Centre, the edge of a square (a line) of its size, radii of gyration about the axes, and
    products of inertia over the largest of them: mm."""
    found = GProp_GProps()
    (BRepGProp.SurfaceProperties_s if flat else BRepGProp.LinearProperties_s)(shape, found)
    size, c, m = found.Mass(), found.CentreOfMass(), found.MatrixOfInertia()
    if size <= 0:
        return np.zeros(10)
    inertia = np.array([[m.Value(i, j) for j in (1, 2, 3)] for i in (1, 2, 3)]) / size
    spread = np.sqrt(np.abs(np.diag(inertia)))
    length = float(np.sqrt(size)) if flat else size
    mixed = inertia[np.triu_indices(3, 1)] / max(float(spread.max()), 1e-9)
    return np.array([c.X(), c.Y(), c.Z(), length, *spread, *mixed])
