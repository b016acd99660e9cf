"""The members of a document: its variants and options."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from flask import Response

from vireo.core.documents.base import Cell, Choice, Document
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.documents.members import AS_DRAWN, Owned, called, chosen_of
from vireo.core.documents.members import rows as every_row
from vireo.core.documents.membertable import cells_of, incoming, written
from vireo.core.documents.membertexts import Called, Heading, WorkedOut, headings, text_of
from vireo.core.tables import csv_of, xlsx_of
from vireo.server.api import Room, services
from vireo.server.rooms.exchange import attachment, upload
from vireo.server.rooms.listing import MIME
from vireo.server.views.members import (
    CellView,
    ColumnView,
    FilesOfRows,
    HandedDocumentsView,
    HandedView,
    IncomingView,
    MembersView,
    OptionValueView,
    OptionView,
    RowsChosen,
    RowView,
)
from vireo.store import DocumentRecord

room = Room("members")


@room.route("GET", "/documents/<id>/members", answer=MembersView)
def members(id: str) -> Any:
    """The table of variants and the options of a document, with what it stands as."""
    record = services().store.document(id)
    document, word = record.document, _word(record)
    heads = headings(document)
    value = WorkedOut(document, {c.variant or "": c for c in every_row(document)})

    found: list[RowView] = [
        RowView(id=None, name=AS_DRAWN, cells=_cells(heads, None, {}, word, value, ""))
    ]
    for variant in document.variants:
        cells = _cells(heads, None, variant.cells, word, value, variant.id)
        found.append(RowView(id=variant.id, name=variant.name, cells=cells))
    options = [
        OptionView(
            id=o.id, name=o.name, kind=o.kind, default=o.default, chosen=chosen_of(o, document.active),
            least=o.least, most=o.most,
            values=[
                OptionValueView(name=v.name, cells=_cells(heads, o.id, v.cells, word, value, ""))
                for v in o.values
            ],
        )
        for o in document.options
    ]  # fmt: skip
    return MembersView(
        name=called(document, document.active), row=document.active.variant,
        columns=[_column(h) for h in heads], rows=found, options=options,
        combinations=_combinations(document),
    )  # fmt: skip


@room.route("GET", "/documents/<id>/members.csv")
def members_csv(id: str) -> Response:
    """The table of variants as a CSV file that can be read in again."""
    record = services().store.document(id)
    data = csv_of(*written(record.document, _word(record)))
    return attachment(data, f"{record.document.name} variants.csv", MIME["csv"])


@room.route("GET", "/documents/<id>/members.xlsx")
def members_xlsx(id: str) -> Response:
    """The table of variants as a spreadsheet that can be read in again."""
    record = services().store.document(id)
    data = xlsx_of(record.document.name, *written(record.document, _word(record)))
    return attachment(data, f"{record.document.name} variants.xlsx", MIME["xlsx"])


@room.route("GET", "/documents/<id>/members/handed", answer=HandedView)
def members_handed(id: str) -> Any:
    """What was handed out of each row: files, with whether they are old, and documents that follow it."""
    return {"rows": [
        {
            "row": row or None,
            "files": [
                {"form": f.form, "revision": f.revision, "at": f.at, "old": not same}
                for f, same in handed.files
            ],
            "documents": [asdict(f) for f in handed.documents],
        }
        for row, handed in services().handing.standing(id).items()
    ]}  # fmt: skip


@room.route("POST", "/documents/<id>/members/files", body=FilesOfRows)
def members_files(id: str, body: FilesOfRows) -> Response:
    """A STEP or 3MF file of each row (or of those named), in one ZIP file; those that are not built are
    named in it. What was written is kept in mind."""
    data = services().handing.files(id, body.form, body.rows)
    name = services().store.document(id).document.name
    return attachment(data, f"{name} variants.zip", "application/zip")


@room.route(
    "POST", "/documents/<id>/members/documents", body=RowsChosen, answer=HandedDocumentsView
)
def members_documents(id: str, body: RowsChosen) -> Any:
    """Rows (all, or those named) as documents of their own that follow this one."""
    made = services().handing.documents(id, body.rows)
    services().events.publish("shelf")
    return {"documents": made}


@room.route("POST", "/documents/<id>/members/table", answer=IncomingView)
def members_table(id: str) -> Any:
    """What a table read from a file would do; nothing is changed yet."""
    record = services().store.document(id)
    _, data = upload()
    found = incoming(record.document, cells_of(data), _word(record))
    return {
        "rows": found.rows, "adds": found.adds, "changes": [asdict(c) for c in found.changes],
        "passed": found.passed, "missing": found.missing,
        "bad": [{"cell": cell, "text": text} for cell, text in found.bad],
    }  # fmt: skip


def _word(record: DocumentRecord) -> Called:
    """Tells what members of other documents are called, that components are."""
    around = services().builds.around(record.project)

    def word(owner: Owned, choice: Choice) -> str:
        whole = record.document
        there = (
            whole.component(owner.column.of["component"]) if isinstance(whole, Assembly) else None
        )
        inner = around.other(there.document) if there else None
        return called(inner, choice) if inner else AS_DRAWN

    return word


def _combinations(document: Document) -> int:
    count = len(document.variants) + 1
    for option in document.options:
        count *= len(option.values) or 1 + sum(x is not None for x in (option.least, option.most))
    return count


def _column(head: Heading) -> ColumnView:
    column, found = head.owner.column, head.driven
    return ColumnView(
        id=column.id, drives=column.drives, of=column.of, option=column.option,
        name=found.name if found else "", cell=found.cell if found else "text",
        dimension=found.dimension if found else None, words=dict(found.words) if found else {},
        where=found.where if found else "",
    )  # fmt: skip


def _cells(
    heads: list[Heading], option: str | None, said: Mapping[str, Cell], word: Called, value: WorkedOut,
    key: str,
) -> dict[str, CellView]:  # fmt: skip
    found = {}
    for head in heads:
        column = head.owner.column
        if column.option != option:
            continue
        cell = said.get(column.id, column.base)
        number = value.quantity(key, cell)
        found[column.id] = CellView(
            text=text_of(cell, head, word), own=column.id in said, value=value.shown(key, cell),
            number=None if number is None else number.value,
        )  # fmt: skip
    return found
