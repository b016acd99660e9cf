"""The cut of a body, or of one of its faces, with the sketch plane."""

from __future__ import annotations

from vireo.core.declared.fields import Brought
from vireo.core.kernel.outline import cut
from vireo.core.part.context import Context
from vireo.core.part.links.base import Found, LinkWay, Place, picked, register, short


@register
class Cut(LinkWay):
    name = "cut"
    label = "Cut"
    order = 5
    line = "Where the sketch plane cuts through the body, or through one of its faces"
    takes = ("face", "body")
    nothing = "the sketch plane does not cut through it"

    def bring(self, one: Brought, place: Place, ctx: Context) -> Found:
        if one.pick is not None:
            index, topology = picked(one, ctx)
            body = ctx.seen(one.pick.body)
            return [("", c) for _, c in cut(body, place.frame, [index])]
        assert one.body is not None
        topology = ctx.topology(one.body)
        body = ctx.seen(one.body)
        return [(short(topology.faces[i].name), c) for i, c in cut(body, place.frame)]
