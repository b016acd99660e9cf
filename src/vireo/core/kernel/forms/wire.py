"""A wire: curves in space that hang together or lie apart; its names are those of its edges."""

from __future__ import annotations

import numpy as np
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_WIRE
from OCP.TopoDS import TopoDS_Shape

from vireo.core.kernel.forms.kind import BodyForm, register
from vireo.core.kernel.measure import MassProperties
from vireo.core.kernel.shape import Body, Key, compound_of, edges_of, mapped


@register
class Wire(BodyForm):
    word, article, order = "wire", "a wire", 30
    hint = "sweep along it or sketch on it"
    faced = False

    def proper(self, shape: TopoDS_Shape) -> TopoDS_Shape | None:
        edges = edges_of(shape)
        if not edges:
            return None
        wires = mapped(shape, TopAbs_WIRE)
        held = {Key(e) for w in wires for e in edges_of(w)}
        pieces = [*wires, *(e for e in edges if Key(e) not in held)]
        return pieces[0] if len(pieces) == 1 else compound_of(pieces)

    def mass(self, body: Body) -> MassProperties:
        """Neither volume nor area; centre and inertia are those of the length."""
        found = GProp_GProps()
        BRepGProp.LinearProperties_s(body.shape, found)
        c, m = found.CentreOfMass(), found.MatrixOfInertia()
        inertia = np.array([[m.Value(i, j) for j in (1, 2, 3)] for i in (1, 2, 3)])
        return MassProperties(0.0, 0.0, (c.X(), c.Y(), c.Z()), inertia)
