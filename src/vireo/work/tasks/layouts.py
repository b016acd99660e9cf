"""Tasks on 2D files: reading, comparing two states of one, chains of curves."""

from __future__ import annotations

from typing import Any

from vireo.core.part.links.layout import chain_of, item_of, sheet_of
from vireo.core.sketch.exchange.drawing import as_drawing
from vireo.core.sketch.exchange.sheet import Item, difference
from vireo.core.trouble import BadInput
from vireo.work.worker import Bench, task


@task("layout_drawing")
def layout_drawing(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """A 2D file as a drawing of its own, with its layers and what could not be taken."""
    sheet = sheet_of(request["data"])
    drawing = as_drawing(i.curve for i in sheet.items)
    return {
        "drawing": drawing.model_dump(mode="json"),
        "layers": sheet.layers,
        "left": sheet.left,
    }


@task("layout")
def layout(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """A 2D file to be shown: its curves as polylines (mm, in the file), layers."""
    sheet = sheet_of(request["data"])
    return {
        "layers": sheet.layers,
        "left": sheet.left,
        "items": [item_view(i) for i in sheet.items],
    }


def item_view(item: Item) -> dict[str, Any]:
    curve = item.curve
    points = [curve] if isinstance(curve, tuple) else curve.points(0.15)
    places = [[round(x, 5), round(y, 5)] for x, y in points]
    return {**item_of(item).model_dump(mode="json"), "points": places}


@task("layout_chain")
def layout_chain(bench: Bench, request: dict[str, Any]) -> list[dict[str, Any]]:
    """What hangs together with one curve of a file, end to end, as items of a link."""
    sheet = sheet_of(request["data"])
    if request["key"] not in sheet.by_key:
        raise BadInput("this curve is not in the layout")
    return [
        item_of(sheet.by_key[k]).model_dump(mode="json") for k in chain_of(sheet, request["key"])
    ]


@task("layout_difference")
def layout_difference(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """What became of the curves of an older state of a file, listed."""
    old, new = sheet_of(request["old"]), sheet_of(request["data"])
    found = difference(old, new)
    follow = {**found.same, **found.changed}
    return {
        "same": len(found.same),
        "changed": [
            {**item_view(new.by_key[b]), "was": a, "guessed": a in found.guessed}
            for a, b in found.changed.items()
        ],
        "gone": [item_view(old.by_key[k]) for k in found.gone],
        "new": [item_view(new.by_key[k]) for k in found.new],
        "follow": {a: item_of(new.by_key[b]).model_dump(mode="json") for a, b in follow.items()},
    }
