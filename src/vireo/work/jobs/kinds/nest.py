"""Blanks of a part laid on stock sheets."""

from __future__ import annotations

import math
from typing import Any

from pydantic import Field

from vireo.core.sheet.blanks import flattened
from vireo.core.sheet.nesting import Piece, Stock, nest_dxf, nested, used
from vireo.core.trouble import BadInput
from vireo.work.jobs.kind import Json, Options, job
from vireo.work.tasks.part import build_part
from vireo.work.tasks.sheets import all_built, points, sheet_of, titles
from vireo.work.worker import Bench

#: Angles (deg) a blank may lie at, by how freely it is turned.
_TURNS = {
    "fixed": (0.0,), "halves": (0.0, 180.0), "quarters": (0.0, 90.0, 180.0, 270.0),
    "free": tuple(15.0 * k for k in range(24)),
}  # fmt: skip


class NestOptions(Options):
    """`counts` says of each sheet of the part (by its body) how often it is cut. The stock sheet is `width` by
    `height`, `margin` is left along its rims and `gap` between pieces (mm); `turns` is how freely blanks are turned:
    fixed, halves, quarters, free. A blank with a grain is turned so that this runs along the stock, which is rolled
    along its width, and by halves only."""

    counts: dict[str, int] = Field(min_length=1, max_length=60)
    width: float = Field(default=1500.0, gt=0, le=20_000, allow_inf_nan=False)
    height: float = Field(default=750.0, gt=0, le=20_000, allow_inf_nan=False)
    margin: float = Field(default=10.0, ge=0, le=500, allow_inf_nan=False)
    gap: float = Field(default=3.0, ge=0, le=200, allow_inf_nan=False)
    turns: str = Field(default="quarters", pattern="^(fixed|halves|quarters|free)$")
    seconds: float = Field(default=6.0, gt=0, le=600)


#: So many blanks in all are laid at once.
_MOST = 500


@job("nest", ("part",), NestOptions)
def nest(bench: Bench, request: Json, options: NestOptions) -> dict[str, Any]:
    """What lies on each stock sheet, which share of it is used, outlines by sheet, and all of it as DXF."""
    found = build_part(bench, request)
    all_built(found, titles(request))
    if not all(0 <= n <= _MOST for n in options.counts.values()) or not (
        0 < sum(options.counts.values()) <= _MOST
    ):
        raise BadInput(f"between one and {_MOST} blanks are laid at once")
    stock = Stock((options.width, options.height), options.margin, options.gap)
    pieces, thick = [], {}
    for id, count in options.counts.items():
        if not count:
            continue
        _, body = sheet_of(found, id)
        flat = flattened(body)
        if flat.laps:
            raise BadInput(
                f"the blank of {found.bodies[id]['name']} lies on itself: it cannot be cut out of one sheet"
            )
        turns = _TURNS[options.turns]
        if flat.grain is not None:
            along = -math.degrees(flat.grain)
            turns = (along % 360.0, (along + 180.0) % 360.0)
        pieces.append(Piece(id, flat, count, turns))
        thick[round(body.sheet.thickness, 6)] = found.bodies[id]["name"]
    if len(thick) > 1:
        one, two = list(thick.items())[:2]
        raise BadInput(
            f"{one[1]} is {one[0]:g} mm thick and {two[1]} {two[0]:g} mm: they are cut from different sheets"
        )
    lying = nested(
        pieces, stock, options.seconds,
        lambda share: bench.report({"share": share, "stage": "blanks laid"}),
    )  # fmt: skip
    return {
        "size": stock.size, "margin": stock.margin, "gap": stock.gap,
        "sheets": [
            {"pieces": [{"id": x.id, "turn": x.turn, "at": x.at} for x in s], "used": used(s, pieces, stock)}
            for s in lying
        ],
        "outlines": {p.id: [points(lp) for lp in p.flat.outline.loops] for p in pieces},
        "names": {p.id: found.bodies[p.id]["name"] for p in pieces},
        "dxf": nest_dxf(lying, pieces, stock),
    }  # fmt: skip
