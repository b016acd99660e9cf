"""A solid, or several that belong together."""

from __future__ import annotations

from OCP.TopoDS import TopoDS_Shape

from vireo.core.kernel.forms.kind import BodyForm, register
from vireo.core.kernel.measure import MassProperties, mass_properties
from vireo.core.kernel.shape import Body, solids_of, unwrap


@register
class Solid(BodyForm):
    word, article, order = "solid", "a solid", 10

    def proper(self, shape: TopoDS_Shape) -> TopoDS_Shape | None:
        return unwrap(shape) if solids_of(shape) else None

    def mass(self, body: Body) -> MassProperties:
        return mass_properties(body)
