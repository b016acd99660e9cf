"""Parameters of a document: where they are used, as tables, and what a change would do."""

from __future__ import annotations

import re
from dataclasses import asdict
from typing import Any
from urllib.parse import quote

from flask import Response

from vireo.core.documents.uses import uses
from vireo.core.quantity import evaluate_parameters
from vireo.core.quantity.help import words
from vireo.core.quantity.tables import read_table, write_table
from vireo.core.trouble import BadInput
from vireo.server.api import Room, services
from vireo.server.views.documents import Trial
from vireo.server.views.parameters import (
    ForeseenView,
    FormulaWordsView,
    TableRead,
    TableText,
    UsesView,
)
from vireo.work.foresight import foreseen

room = Room("parameters")


@room.route("GET", "/formula-words", answer=FormulaWordsView)
def formula_words() -> Any:
    """Functions, signs and units of formulas, each with an example."""
    return {"words": [asdict(w) for w in words()]}


@room.route("GET", "/documents/<id>/uses", answer=UsesView)
def where_used(id: str) -> Any:
    """For every parameter, what its formulas stand in."""
    found = uses(services().store.document(id).document)
    return {"uses": {name: [asdict(u) for u in list] for name, list in found.items()}}


@room.route("POST", "/documents/<id>/foresee", body=Trial, answer=ForeseenView)
def foresee(id: str, body: Trial) -> Any:
    """What commands would break and mend, and what they would change, keeping nothing."""
    record = services().store.document(id)
    changed, _ = services().builds.applied(record, body.commands)
    return foreseen(services().builds, record, changed)


@room.route("GET", "/documents/<id>/parameters.csv")
def as_table(id: str) -> Response:
    """The parameters as a CSV file that can be read in again."""
    document = services().store.document(id).document
    values = {n: e.value for n, e in evaluate_parameters(document.parameters).items()}
    # The mark tells spreadsheets that this is UTF-8.
    data = b"\xef\xbb\xbf" + write_table(document.parameters, values).encode()
    name = re.sub(r'[\\/:*?"<>|]+', " ", f"{document.name} parameters.csv")
    return Response(
        data,
        mimetype="text/csv",
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"},
    )


@room.route("POST", "/documents/<id>/parameters/table", body=TableText, answer=TableRead)
def from_table(id: str, body: TableText) -> Any:
    """The commands that put a pasted or read table in, by line; nothing is changed yet."""
    document = services().store.document(id).document
    known = {p.name for p in document.parameters}
    commands: list[dict[str, Any]] = []
    rows = read_table(body.text.lstrip("\ufeff"))
    for row in rows:
        said = {k: v for k, v in row.said.items() if k != "unit"}
        do = "edit_parameter" if row.name in known else "add_parameter"
        if do == "add_parameter" and "formula" not in said:
            raise BadInput(f"line {row.line}: {row.name} is new and has no formula or value")
        commands.append({"do": do, "name": row.name, **said})
    return {"commands": commands, "new": sum(c["do"] == "add_parameter" for c in commands)}
