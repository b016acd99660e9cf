"""Curves of a 2D layout that lies under the sketch."""

from __future__ import annotations

import math
from functools import lru_cache

from vireo.core.declared.fields import Brought, LayoutItem, LayoutPick, Underlay
from vireo.core.part.context import Context
from vireo.core.part.links.base import Found, LinkWay, Place, register, short
from vireo.core.part.trouble import LostPick
from vireo.core.sketch.exchange.files import read_sheet
from vireo.core.sketch.exchange.sheet import Item, Sheet, likeness, mapped
from vireo.core.trouble import Offer


@lru_cache(maxsize=8)
def sheet_of(data: bytes) -> Sheet:
    """A file read once per content. Raises BadInput."""
    return read_sheet(data)


def item_of(item: Item) -> LayoutItem:
    """What a link remembers of a curve."""
    return LayoutItem(
        key=item.key, form=item.form, layer=item.layer, at=item.at, length=item.length
    )


def chain_of(sheet: Sheet, key: str) -> list[str]:
    """Keys of the curves of the same layer that hang together with one, end to end."""
    start = sheet.by_key[key]
    ends: dict[tuple[int, int], list[Item]] = {}

    def cell(p: tuple[float, float]) -> tuple[int, int]:
        return (round(p[0] * 1e4), round(p[1] * 1e4))

    for i in sheet.items:
        if i.layer == start.layer and i.form != "point" and math.dist(*i.ends) > 1e-6:
            for p in i.ends:
                ends.setdefault(cell(p), []).append(i)
    found, front = {key: start}, [start]
    while front:
        here = front.pop()
        for p in here.ends:
            for other in ends.get(cell(p), ()):
                if other.key not in found:
                    found[other.key] = other
                    front.append(other)
    return list(found)


@register
class FromLayout(LinkWay):
    name = "seen"
    label = "As drawn"
    order = 3
    line = "Curves of a DXF or SVG layout lying under the sketch"
    takes = ("layout",)
    nothing = "the layout brings nothing"

    def bring(self, one: Brought, place: Place, ctx: Context) -> Found:
        assert one.layout is not None
        under = next((u for u in place.underlays if u.id == one.layout.underlay), None)
        if under is None:
            raise LostPick("the layout it was taken from is gone", [f"step:{ctx.step}"])
        sheet = sheet_of(ctx.blob(under.file))
        found: Found = []
        for wanted in one.layout.items:
            item = sheet.by_key.get(wanted.key)
            if item is None or item.form != wanted.form:
                raise _lost(wanted, one.layout, under, sheet, ctx)
            curve = mapped(item.curve, under.at, math.radians(under.turn), under.scale)
            found.append((short(wanted.key, letters=8), curve))
        return found


def _lost(
    wanted: LayoutItem, layout: LayoutPick, under: Underlay, sheet: Sheet, ctx: Context
) -> LostPick:
    xs = [i.at for i in sheet.items]
    size = max(math.dist(a, xs[0]) for a in xs) or 1.0

    def score(i: Item) -> float:
        return likeness(wanted, i, size)

    best = max(sheet.items, key=score)
    offers = []
    if score(best) > 0.4:
        items = [item_of(best) if i == wanted else i for i in layout.items]
        put = layout.model_copy(update={"items": tuple(items)}).model_dump(mode="json")
        label = f"Use the nearest {best.form} ({score(best):.0%} alike)"
        offers.append(Offer(label=label, fields={"brought": put}))
    rest = [i for i in layout.items if i != wanted]
    if rest:
        put = layout.model_copy(update={"items": tuple(rest)}).model_dump(mode="json")
        offers.append(Offer(label="Leave this curve out", fields={"brought": put}))
    x, y = wanted.at
    return LostPick(
        f"a {wanted.form} taken from {under.source or 'the layout'} (layer {wanted.layer}, near "
        f"{x:.1f}, {y:.1f} in the file) is not there any more",
        [f"step:{ctx.step}"],
        offers,
    )
