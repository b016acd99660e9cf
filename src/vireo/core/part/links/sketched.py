"""Curves and points of other sketches."""

from __future__ import annotations

from vireo.core.curves import Curve2
from vireo.core.declared.fields import Brought
from vireo.core.kernel.outline import placed_edge
from vireo.core.kernel.project import projected_edge, projected_point
from vireo.core.part.context import Context
from vireo.core.part.links.base import Found, LinkWay, Place, register, short
from vireo.core.part.sketchdata import SketchData
from vireo.core.part.trouble import LostPick


def chosen_curves(one: Brought, ctx: Context) -> tuple[SketchData, list[tuple[str, Curve2]]]:
    """The sketch of a link and its chosen curves (all when none are), by name in the link."""
    assert one.sketch is not None
    data = ctx.sketch(one.sketch)
    curves = dict(data.curves)
    gone = [id for id in one.curves if id not in curves and id not in data.points]
    if gone:
        raise LostPick(
            f"{', '.join(gone[:4])} of the sketch {data.name} {'are' if gone[1:] else 'is'} gone",
            [f"step:{ctx.step}", f"step:{one.sketch}"],
        )
    wanted = [id for id in one.curves if id in curves] if one.curves else list(curves)
    return data, [(named(id), curves[id]) for id in wanted]


def named(id: str) -> str:
    """The id itself while it is short and one word: ids of sketches end at 24 letters."""
    return id if len(id) <= 8 and id.isidentifier() else short(id, letters=8)


@register
class Sketched(LinkWay):
    name = "seen"
    label = "As seen"
    order = 2
    line = "Curves and points of another sketch, dropped straight on the plane"
    takes = ("curve",)
    nothing = "the sketch is empty"

    def bring(self, one: Brought, place: Place, ctx: Context) -> Found:
        data, curves = chosen_curves(one, ctx)
        found: Found = []
        for suffix, curve in curves:
            edge = placed_edge(curve, data.frame)
            if edge is not None:
                found.append((suffix, projected_edge(edge, place.frame)))
        for id, at in data.points.items():
            if not one.curves or id in one.curves:
                found.append((named(id), projected_point(data.frame.out(at), place.frame)))
        return found
