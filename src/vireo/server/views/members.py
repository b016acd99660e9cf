"""Variants and options of a document, as the table shows them."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field

from vireo.core.documents.driver import CellKind


class ColumnView(BaseModel):
    """A column: what it drives in words (empty: gone), how its cells are typed; of an option or of the
    table."""

    id: str
    drives: str
    of: dict[str, str]
    option: str | None
    name: str
    cell: CellKind
    dimension: str | None
    words: dict[str, str]
    where: str


class CellView(BaseModel):
    """A cell as it is read. `own` are said for the row itself, others are as drawn; `value` is what a
    formula comes to, `number` that of a number (mm, rad, g) to
    sort and compare by."""

    text: str
    own: bool
    value: str | None = None
    number: float | None = None


class RowView(BaseModel):
    """A row; without an id that of what is as drawn."""

    id: str | None
    name: str
    cells: dict[str, CellView]


class OptionValueView(BaseModel):
    name: str
    cells: dict[str, CellView]


class OptionView(BaseModel):
    id: str
    name: str
    kind: str
    default: str
    chosen: str
    least: str | None
    most: str | None
    values: list[OptionValueView]


class MembersView(BaseModel):
    """`name` is that of the member the document stands as, `row` its row."""

    name: str
    row: str | None
    columns: list[ColumnView]
    rows: list[RowView]
    options: list[OptionView]
    combinations: int


class ChangedCell(BaseModel):
    row: str
    column: str
    was: str
    now: str


class BadCell(BaseModel):
    """A cell that cannot be taken, by its address in the file."""

    cell: str
    text: str


class IncomingView(BaseModel):
    """What a table would do: rows it adds, cells it changes; headings it has and columns it has not;
    `rows` are what `put_rows` takes."""

    rows: list[dict[str, Any]]
    adds: list[str]
    changes: list[ChangedCell]
    passed: list[str]
    missing: list[str]
    bad: list[BadCell]


class RowsChosen(BaseModel):
    """Rows by their ids, "" for what is as drawn; none means all."""

    rows: list[str] = Field(default=[], max_length=2000)


class FilesOfRows(RowsChosen):
    form: str = Field(max_length=16)


class WrittenView(BaseModel):
    """A file of a row as it was handed out last; `old` where it would be another now."""

    form: str
    revision: int
    at: float
    old: bool


class FollowerView(BaseModel):
    """A document that follows a row; `old` where its properties are not those of the row now."""

    id: str
    name: str
    old: bool


class HandedRowView(BaseModel):
    row: str | None
    files: list[WrittenView]
    documents: list[FollowerView]


class HandedView(BaseModel):
    rows: list[HandedRowView]


class HandedDocumentsView(BaseModel):
    """Ids of the documents by row."""

    documents: dict[str, str]
