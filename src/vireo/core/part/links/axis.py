"""Axes of round faces, centres of spheres and of round edges."""

from __future__ import annotations

import math

from vireo.core.curves import Line2
from vireo.core.declared.fields import Brought
from vireo.core.kernel.outline import axis_of_face, centre_of_edge
from vireo.core.kernel.project import projected_point
from vireo.core.part.context import Context
from vireo.core.part.links.base import Found, LinkWay, Place, picked, register


@register
class Axis(LinkWay):
    name = "axis"
    label = "Axis or centre"
    order = 6
    line = "The axis of a round face (a point when it stands upright), the centre of a round edge"
    takes = ("face", "edge")
    construction = True
    nothing = "it is not round: it has no axis and no centre"

    def bring(self, one: Brought, place: Place, ctx: Context) -> Found:
        assert one.pick is not None
        index, _ = picked(one, ctx)
        body = ctx.seen(one.pick.body)
        if one.pick.kind == "edge":
            centre = centre_of_edge(body.edges[index])
            return [] if centre is None else [("", projected_point(centre, place.frame))]
        axis = axis_of_face(body.faces[index])
        if axis is None:
            return []
        if not isinstance(axis[0], tuple):
            return [("", projected_point(axis, place.frame))]
        a, b = (projected_point(p, place.frame) for p in axis)
        return [("", a if math.dist(a, b) < 1e-6 else Line2(a, b))]
