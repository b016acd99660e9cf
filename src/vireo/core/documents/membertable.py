"""The table of variants as a spreadsheet, out and in. What comes in is only told: what it adds and
changes, and by address which cells cannot be taken."""

from __future__ import annotations

import csv
import io
import re
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from openpyxl import load_workbook
from openpyxl.utils import get_column_letter
from openpyxl.utils.exceptions import InvalidFileException

from vireo.core.documents.base import Document
from vireo.core.documents.commands.members import read_cell
from vireo.core.documents.members import AS_DRAWN, rows
from vireo.core.documents.membertexts import Called, Heading, headings, text_of
from vireo.core.quantity.units import UNITS
from vireo.core.trouble import BadInput, Trouble

MOST_ROWS = 2000
MOST_COLUMNS = 500
#: Bytes of a spreadsheet file, and of what is packed in it.
_MOST_BYTES = 20_000_000
_UNIT = re.compile(r"^(.*?)\s*[\[(]([^\[\]()]+)[\])]$")


@dataclass(frozen=True)
class Change:
    """A cell that would be otherwise: of which row and column, what it is and what it would be."""

    row: str
    column: str
    was: str
    now: str


@dataclass
class Incoming:
    """What a table would do: rows it adds, cells it changes, headings that name no column, cells that
    cannot be taken (address and why); and the rows as `put_rows` takes them."""

    rows: list[dict[str, Any]] = field(default_factory=list)
    adds: list[str] = field(default_factory=list)
    changes: list[Change] = field(default_factory=list)
    passed: list[str] = field(default_factory=list)
    missing: list[str] = field(default_factory=list)
    bad: list[tuple[str, str]] = field(default_factory=list)


def _table(document: Document) -> list[Heading]:
    return [h for h in headings(document) if h.owner.option is None and h.driven is not None]


def titles(document: Document) -> list[tuple[str, Heading]]:
    """Each column with a heading of its own."""
    found: list[tuple[str, Heading]] = []
    for head in _table(document):
        assert head.driven is not None
        name = head.driven.name
        taken = {t for t, _ in found}
        found.append((name if name not in taken else f"{name} {head.owner.column.id}", head))
    return found


def written(document: Document, word: Called) -> tuple[list[str], list[list[str]]]:
    """Heading and rows of the table; what a row does not say itself is empty."""
    named = titles(document)
    lines = []
    for choice in rows(document):
        variant = next((v for v in document.variants if v.id == choice.variant), None)
        line = [variant.name if variant else AS_DRAWN]
        for _, head in named:
            column = head.owner.column
            cell = variant.cells.get(column.id) if variant else column.base
            line.append("" if cell is None else text_of(cell, head, word))
        lines.append(line)
    return ["Variant", *(t for t, _ in named)], lines


def cells_of(data: bytes) -> list[list[str]]:
    """The cells of a file: XLSX (its first sheet, values only), or text with tabs, semicolons or commas.
    Raises BadInput for one that cannot be read or is too large."""
    if len(data) > _MOST_BYTES:
        raise BadInput(f"this file is larger than {_MOST_BYTES // 1_000_000} MB")
    found = _of_xlsx(data) if data[:2] == b"PK" else _of_text(data)
    found = [line for line in found if any(c.strip() for c in line)]
    if len(found) > MOST_ROWS + 1:
        # How many more is not known: reading stops where it is too many.
        raise BadInput(f"a table of variants has at most {MOST_ROWS} rows; this has more")
    return found


def _of_xlsx(data: bytes) -> list[list[str]]:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            if sum(i.file_size for i in packed.infolist()) > 10 * _MOST_BYTES:
                raise BadInput("this spreadsheet unpacks to more than is read")
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True)
        sheet = book.worksheets[0]
        found = []
        for row in sheet.iter_rows(max_row=MOST_ROWS + 2, max_col=MOST_COLUMNS, values_only=True):
            found.append(["" if v is None else _plain(v) for v in row])
    except BadInput:
        raise
    except (
        InvalidFileException,
        zipfile.BadZipFile,
        KeyError,
        ValueError,
        IndexError,
        OSError,
    ) as e:
        raise BadInput("this spreadsheet cannot be read: save it anew as XLSX, or as CSV") from e
    except Exception as e:  # its reader raises all sorts over damaged files
        raise BadInput("this spreadsheet is damaged: save it anew as XLSX, or as CSV") from e
    return found


def _plain(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    return str(value)


def _of_text(data: bytes) -> list[list[str]]:
    for code in ("utf-8-sig", "utf-16" if data[:2] in (b"\xff\xfe", b"\xfe\xff") else "cp1252"):
        try:
            text = data.decode(code)
            break
        except UnicodeDecodeError:
            continue
    else:
        raise BadInput("this file is no table: it holds no text")
    if "\x00" in text:
        raise BadInput("this file is no table: it holds no text")
    first = text.split("\n", 1)[0]
    sign = next((s for s in ("\t", ";") if s in first), ",")
    found = list(csv.reader(io.StringIO(text.replace("\r\n", "\n")), delimiter=sign))
    # An apostrophe before a sign keeps spreadsheets from taking it for a formula.
    return [[re.sub(r"^'(?='*[=+\-@\t\r])", "", c) for c in line] for line in found]


def incoming(document: Document, cells: Sequence[Sequence[str]], word: Called) -> Incoming:
    """What a table would do. Its first line names the columns, a unit of plain numbers in brackets; its
    first column names variants. Raises BadInput for one without."""
    if not cells:
        raise BadInput("there is nothing in this table")
    known = {t.casefold(): h for t, h in titles(document)}
    found = Incoming()
    order: list[tuple[Heading, str] | None] = []
    for text in cells[0][1:]:
        head, unit = known.get(text.strip().casefold()), ""
        if head is None and (match := _UNIT.match(text.strip())) and match[2].strip() in UNITS:
            head, unit = known.get(match[1].casefold()), match[2].strip()
        order.append((head, unit) if head else None)
        if head is None and text.strip():
            found.passed.append(text.strip())
    if not any(order):
        raise BadInput(
            "the first line names no column of this table: there "
            + (f"is {', '.join(t for t, _ in titles(document))}" if known else "are none yet")
        )
    there = {h.owner.column.id for x in order if x for h in [x[0]]}
    found.missing = [t for t, h in titles(document) if h.owner.column.id not in there]
    named = {v.name.casefold(): v for v in document.variants}
    seen: set[str] = set()
    for y, line in enumerate(cells[1:], start=2):
        name = " ".join(line[0].split()) if line else ""
        if not name:
            found.bad.append((f"A{y}", "this row names no variant"))
            continue
        if name.casefold() in seen:
            found.bad.append((f"A{y}", f"{name} stands in the table twice"))
            continue
        seen.add(name.casefold())
        drawn = name.casefold() == AS_DRAWN.casefold()
        variant = named.get(name.casefold())
        if variant is None and not drawn:
            found.adds.append(name)
        row: dict[str, Any] = {
            "name": AS_DRAWN if drawn else variant.name if variant else name,
            "cells": {},
        }
        for x, (entry, typed) in enumerate(zip(order, line[1:], strict=False), start=2):
            if entry is not None:
                address = f"{get_column_letter(x)}{y}"
                _take(document, found, row, entry, typed.strip(), variant, drawn, address, word)
        if row["cells"] or row["name"] in found.adds:
            found.rows.append(row)
    return found


def _take(
    document: Document, found: Incoming, row: dict[str, Any], entry: tuple[Heading, str], typed: str,
    variant: Any, drawn: bool, address: str, word: Called,
) -> None:  # fmt: skip
    """One cell: what it changes, or why it cannot be taken."""
    head, unit = entry
    column, driven = head.owner.column, head.driven
    assert driven is not None
    before = column.base if drawn else variant.cells.get(column.id) if variant else None
    was = "" if before is None else text_of(before, head, word)
    if typed == was:
        return
    if not typed:
        if drawn:
            found.bad.append((address, f"{driven.name} as drawn is empty"))
            return
        row["cells"][column.id] = None
        found.changes.append(Change(row["name"], driven.name, was, "as drawn"))
        return
    if driven.cell in ("picks", "member"):
        found.bad.append((address, f"{driven.name} is chosen in the picture, not typed"))
        return
    text = _with_unit(document, driven.dimension, typed, unit) if driven.cell == "number" else typed
    if text == was:
        return
    try:
        cell = read_cell(document, column, text)
    except Trouble as trouble:
        found.bad.append((address, trouble.report().text))
        return
    if cell == before:
        return
    row["cells"][column.id] = cell if isinstance(cell, bool | str) else cell.model_dump(mode="json")  # type: ignore[union-attr]
    if variant is not None or drawn:
        now = text_of(cell, head, word)
        found.changes.append(Change(row["name"], driven.name, was or "as drawn", now))


def _with_unit(document: Document, dimension: str | None, typed: str, unit: str) -> str:
    """A plain number with the unit of its column, else that of the document."""
    if not re.fullmatch(r"[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?", typed):
        return typed
    unit = unit or getattr(document.units, dimension or "", "")
    number = typed.replace(",", ".")
    return f"{number} {unit}" if unit and unit in UNITS else number
