"""A surface: faces that hang together or lie apart, without a volume."""

from __future__ import annotations

import numpy as np
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_SHELL
from OCP.TopoDS import TopoDS_Shape

from vireo.core.kernel.forms.kind import BodyForm, register
from vireo.core.kernel.measure import MassProperties
from vireo.core.kernel.shape import Body, Key, compound_of, faces_of, mapped
from vireo.core.kernel.trouble import KernelTrouble


@register
class Surface(BodyForm):
    word, article, order = "surface", "a surface", 20
    hint = "thicken it first"

    def proper(self, shape: TopoDS_Shape) -> TopoDS_Shape | None:
        faces = faces_of(shape)
        if not faces:
            return None
        shells = mapped(shape, TopAbs_SHELL)
        held = {Key(f) for s in shells for f in faces_of(s)}
        pieces = [*shells, *(f for f in faces if Key(f) not in held)]
        return pieces[0] if len(pieces) == 1 else compound_of(pieces)

    def check(self, operation: str, shape: TopoDS_Shape) -> None:
        if not _skin(shape).Mass() > 0.0:
            raise KernelTrouble(f"{operation} gave a surface without an area")

    def mass(self, body: Body) -> MassProperties:
        """No volume; centre and inertia are those of the area (mm4, per mm of thickness)."""
        found = _skin(body.shape)
        c, m = found.CentreOfMass(), found.MatrixOfInertia()
        inertia = np.array([[m.Value(i, j) for j in (1, 2, 3)] for i in (1, 2, 3)])
        return MassProperties(0.0, float(found.Mass()), (c.X(), c.Y(), c.Z()), inertia)


def _skin(shape: TopoDS_Shape) -> GProp_GProps:
    found = GProp_GProps()
    BRepGProp.SurfaceProperties_s(shape, found)
    return found
