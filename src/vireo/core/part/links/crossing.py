"""Points where edges and curves of other sketches go through the sketch plane."""

from __future__ import annotations

from vireo.core.declared.fields import Brought
from vireo.core.kernel.outline import piercings, placed_edge
from vireo.core.part.context import Context
from vireo.core.part.links.base import Found, LinkWay, Place, picked, register
from vireo.core.part.links.sketched import chosen_curves


@register
class Crossing(LinkWay):
    name = "crossing"
    label = "Crossing"
    order = 7
    line = "Points where an edge or a curve of another sketch goes through the sketch plane"
    takes = ("edge", "curve")
    nothing = "it does not go through the sketch plane"

    def bring(self, one: Brought, place: Place, ctx: Context) -> Found:
        if one.pick is not None:
            index, _ = picked(one, ctx)
            edge = ctx.seen(one.pick.body).edges[index]
            return [("", p) for p in piercings(edge, place.frame)]
        found: Found = []
        data, curves = chosen_curves(one, ctx)
        for suffix, curve in curves:
            made = placed_edge(curve, data.frame)
            found += [(suffix, p) for p in piercings(made, place.frame)] if made else []
        return found
