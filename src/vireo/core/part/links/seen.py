"""Edges, outlines of faces and corners as they are seen straight on from the sketch plane."""

from __future__ import annotations

from vireo.core.declared.fields import Brought
from vireo.core.kernel.project import projected_edge, projected_point
from vireo.core.part.context import Context
from vireo.core.part.links.base import Found, LinkWay, Place, picked, register, short


@register
class Seen(LinkWay):
    name = "seen"
    label = "As seen"
    order = 1
    line = "An edge, the edges around a face, or a corner, dropped straight on the plane"
    takes = ("edge", "face", "vertex")
    nothing = "the face has no edges to take"

    def bring(self, one: Brought, place: Place, ctx: Context) -> Found:
        assert one.pick is not None
        index, topology = picked(one, ctx)
        body = ctx.seen(one.pick.body)
        if one.pick.kind == "vertex":
            return [("", projected_point(topology.vertices[index].at, place.frame))]
        if one.pick.kind == "edge":
            return [("", projected_edge(body.edges[index], place.frame))]
        around = [i for i, e in enumerate(topology.edges) if index in e.faces]
        return [
            (short(*topology.edge_name(i)), projected_edge(body.edges[i], place.frame))
            for i in around
        ]
