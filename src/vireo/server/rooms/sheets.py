"""Blanks of sheets: to be seen, and handed over."""

from __future__ import annotations

import re
from typing import Any

from flask import Response

from vireo.core.documents.kinds.part import as_part
from vireo.core.sheet.files import LAYERS
from vireo.core.sheet.library import LIBRARY, SheetRule
from vireo.core.trouble import BadInput
from vireo.server.api import Room, services
from vireo.server.rooms.exchange import attachment
from vireo.server.views.documents import Done
from vireo.server.views.sheets import (
    FlatAsk,
    FlatView,
    SheetRulesView,
    SheetSizesAsk,
    SheetSizesView,
)

room = Room("sheets")

_ASKED = {"body": str, "side": str, "turn": float}
_MIMES = {
    "dxf": "image/vnd.dxf", "svg": "image/svg+xml", "csv": "text/csv", "step": "model/step",
    "pdf": "application/pdf",
}  # fmt: skip


def _ask(id: str, ask: FlatAsk) -> tuple[str, Any]:
    """The name of a part, and what asks for a blank of it."""
    record = services().store.document(id)
    document = record.document
    if ask.commands:
        document, _ = services().builds.applied(record, ask.commands)
    part = as_part(document, "only parts have sheets")
    _, request = services().builds.request(record.project, part, ask.upto)
    return part.name, {"request": request, **ask.model_dump(include={"body", "side", "turn"})}


@room.route("GET", "/projects/<id>/sheet_rules", answer=SheetRulesView)
def sheet_rules(id: str) -> Any:
    """Rules of sheets: those kept in the project, and the library."""
    own = services().store.settings(id).get("sheet_rules", [])
    return {"own": own, "library": [r.model_dump() for r in LIBRARY]}


@room.route("POST", "/projects/<id>/sheet_rules", body=SheetRule, answer=Done)
def keep_sheet_rule(id: str, body: SheetRule) -> Done:
    """Keep rules of one's own, or others under a name that is kept already; without any they are forgotten."""
    settings = services().store.settings(id)
    rest = [r for r in settings.get("sheet_rules", []) if r["name"] != body.name]
    kept = [*rest, body.model_dump()] if body.sets else rest
    if len(kept) > 500:
        raise BadInput("a project keeps at most 500 rules of sheets")
    services().store.set_settings(id, {**settings, "sheet_rules": kept})
    return Done()


@room.route("POST", "/documents/<id>/sheet_sizes", body=SheetSizesAsk, answer=SheetSizesView)
def sheet_sizes(id: str, body: SheetSizesAsk) -> Any:
    """Thickness and bend radius of a body of a part, a sheet or a solid that is one."""
    record = services().store.document(id)
    part = as_part(record.document, "only parts have sheets")
    _, request = services().builds.request(record.project, part, None)
    return services().builds.run("sheet_sizes", {"request": request, "body": body.body}, sticky=id)


@room.route("POST", "/documents/<id>/flat", body=FlatAsk, answer=FlatView)
def flat_of(id: str, body: FlatAsk) -> Any:
    """The blank of a sheet of a part."""
    return services().builds.run("flat", _ask(id, body)[1], sticky=id)


def _layers(told: str | None) -> dict[str, str] | None:
    """Layers of a DXF by what they are called: ``OUTER=cut,BEND_UP=bends``; what is not named is left out. Raises
    BadInput."""
    if not told:
        return None
    found = {}
    for one in told.split(","):
        kind, _, name = one.partition("=")
        if kind not in LAYERS or not re.fullmatch(r"[A-Za-z0-9_\- ]{1,31}", name):
            raise BadInput(
                f"a layer is told as KIND=name, with a name of at most 31 plain letters, and the kinds are "
                f"{', '.join(LAYERS)}"
            )
        found[kind] = name
    return found


def _file(
    form: str, id: str, body: str | None, side: str | None, turn: float | None, layers: str | None = None
) -> Response:  # fmt: skip
    if side not in (None, "top", "bottom"):
        raise BadInput("the side kept up is top or bottom")
    if turn is not None and not -360.0 <= turn <= 360.0:
        raise BadInput("the blank is turned by at most 360 degrees")
    asked = FlatAsk(body=body or "", side="bottom" if side == "bottom" else "top", turn=turn or 0.0)
    name, ask = _ask(id, asked)
    data = services().builds.run(
        "flat_file", {**ask, "form": form, "layers": _layers(layers)}, sticky=id
    )
    return attachment(data, f"{name} blank.{form}", _MIMES[form])


@room.route("GET", "/documents/<id>/flat.dxf", query={**_ASKED, "layers": str})
def flat_dxf(
    id: str, body: str | None, side: str | None, turn: float | None, layers: str | None
) -> Response:
    """The blank as DXF with its bend lines and what they say, layers by kind: all of them as they are called by
    themselves, or those named (``OUTER=cut,BEND_UP=bends``)."""
    return _file("dxf", id, body, side, turn, layers)


@room.route("GET", "/documents/<id>/flat.pdf", query=_ASKED)
def flat_pdf(id: str, body: str | None, side: str | None, turn: float | None) -> Response:
    """The blank as PDF at true size, on a page of its own."""
    return _file("pdf", id, body, side, turn)


@room.route("GET", "/documents/<id>/flat.svg", query=_ASKED)
def flat_svg(id: str, body: str | None, side: str | None, turn: float | None) -> Response:
    """The blank as SVG at true size."""
    return _file("svg", id, body, side, turn)


@room.route("GET", "/documents/<id>/flat.csv", query=_ASKED)
def flat_bends(id: str, body: str | None, side: str | None, turn: float | None) -> Response:
    """The bends of a sheet as a table."""
    return _file("csv", id, body, side, turn)


@room.route("GET", "/documents/<id>/flat.step", query=_ASKED)
def flat_step(id: str, body: str | None, side: str | None, turn: float | None) -> Response:
    """The sheet laid flat as a solid."""
    return _file("step", id, body, side, turn)
