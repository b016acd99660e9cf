"""Silhouettes: where a face turns away, and the outline of all a body covers."""

from __future__ import annotations

from vireo.core.declared.fields import Brought
from vireo.core.kernel.outline import shadow, silhouette
from vireo.core.part.context import Context
from vireo.core.part.links.base import Found, LinkWay, Place, picked, register, short


@register
class Silhouette(LinkWay):
    name = "silhouette"
    label = "Silhouette"
    order = 4
    line = "The outline of all a body covers seen straight on, or where one curved face turns away"
    takes = ("face", "body")
    nothing = "the face does not turn away anywhere, seen from the sketch plane"

    def bring(self, one: Brought, place: Place, ctx: Context) -> Found:
        if one.pick is not None:
            index, _ = picked(one, ctx)
            body = ctx.seen(one.pick.body)
            return [("", c) for c in silhouette(body.faces[index], place.frame)]
        assert one.body is not None
        topology = ctx.topology(one.body)
        found: Found = []
        for kind, index, curve in shadow(ctx.seen(one.body), place.frame):
            edge = kind == "edge"
            name = topology.edge_name(index) if edge else (topology.faces[index].name,)
            found.append((short(*name), curve))
        return found
