"""An order in which the bends of a sheet can be struck on a press brake, or what stops them."""

from __future__ import annotations

from typing import Any

from pydantic import Field

from vireo.core.documents.kinds.part import Part
from vireo.core.naming.grammar import step_of
from vireo.core.sheet.brake import Strike, bend_order
from vireo.core.sheet.striking import Seen, seen
from vireo.work.jobs.kind import Json, Options, Telling, job
from vireo.work.tasks.part import build_part
from vireo.work.tasks.sheets import sheet_of
from vireo.work.worker import Bench


class BendOrderOptions(Options):
    """`body` is the sheet, the first there is where none is named; it is looked for at most `seconds`."""

    body: str = Field(default="", max_length=60)
    seconds: float = Field(default=30.0, gt=0, le=600)


def told(result: Json, telling: Telling) -> Json:
    """By the names of the steps that made bends and flat pieces."""
    document = telling.document
    assert isinstance(document, Part)
    names = {s.id: s.name for s in document.steps}

    def title(id: str) -> str:
        return names.get(step_of(id), id)

    return {
        **result,
        "strikes": [{**s, "name": title(s["bend"])} for s in result["strikes"]],
        "stops": [{**s, "name": title(s["bend"]), "meets": title(s["panel"])} for s in result["stops"]],
    }  # fmt: skip


#: Shares of its angle a strike is shown at.
_SHOWN = (0.0, 0.5, 1.0)


def _seen(view: Seen) -> Json:
    return {
        "share": view.share, "punch": view.punch, "die": view.die,
        "patches": [{"id": id, "points": points} for id, points in view.patches],
    }  # fmt: skip


@job("bend_order", ("part",), BendOrderOptions, told=told, about="body", version=2)
def order(bench: Bench, request: Json, options: BendOrderOptions) -> dict[str, Any]:
    """The strikes in order with few turns, all of them where it is `whole`; else as far as it went, and what stops
    the bends that are left."""
    _, body = sheet_of(build_part(bench, request), options.body)
    found = bend_order(
        body.sheet, options.seconds,
        progress=lambda share: bench.report({"share": share, "stage": "bends tried"}),
    )  # fmt: skip
    done: list[str] = []
    shown = []
    for strike in found.strikes:
        shown.append([_seen(seen(body.sheet, strike, done, share)) for share in _SHOWN])
        done.append(strike.bend)
    stops = [
        _seen(seen(body.sheet, Strike(s.bend, s.punch, False, s.round), done, s.share)) for s in found.stops
    ]  # fmt: skip
    return {
        "body": options.body, "whole": found.whole, "turns": found.turns, "in_time": found.in_time,
        "strikes": [
            {"bend": s.bend, "punch": s.punch, "over": s.over, "round": s.round, "pressed": s.pressed, "seen": views}
            for s, views in zip(found.strikes, shown, strict=True)
        ],
        "stops": [
            {"bend": s.bend, "share": s.share, "panel": s.panel, "tool": s.tool, "punch": s.punch, "seen": view}
            for s, view in zip(found.stops, stops, strict=True)
        ],
    }  # fmt: skip
