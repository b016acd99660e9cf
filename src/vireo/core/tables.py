"""Tables written as files: CSV and XLSX. Cells are values, never formulas or links."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence

from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font

Cell = str | float | int
#: What XML has no characters for.
_UNWRITABLE = re.compile("[^\\t\\n\\r -\\ud7ff\\ue000-\\ufffd\\U00010000-\\U0010ffff]")
#: What a spreadsheet takes for the beginning of a formula.
_ACTIVE = ("=", "+", "-", "@", "\t", "\r")


def csv_of(header: Sequence[str], rows: Sequence[Sequence[Cell]]) -> bytes:
    """UTF-8 with a mark, so that spreadsheets read it as such. A text that a spreadsheet would take
    for a formula gets an apostrophe before it (OWASP: CSV injection)."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    for row in (header, *rows):
        writer.writerow([_still(c) for c in row])
    return out.getvalue().encode("utf-8-sig")


def _still(cell: Cell) -> Cell:
    # One that has such an apostrophe already gets one more, so that one can be taken off again.
    return f"'{cell}" if isinstance(cell, str) and cell.lstrip("'").startswith(_ACTIVE) else cell


def xlsx_of(title: str, header: Sequence[str], rows: Sequence[Sequence[Cell]]) -> bytes:
    """One sheet, its first row bold and standing still, columns as wide as what they hold."""
    book = Workbook(write_only=True)
    named = "".join(c for c in title if c.isprintable() and c not in "[]:*?/\\'")
    sheet = book.create_sheet(named[:31].strip() or "List")
    sheet.freeze_panes = "A2"
    for k, name in enumerate(header):
        widest = max([len(name), *(len(str(r[k])) for r in rows)])
        sheet.column_dimensions[chr(65 + k) if k < 26 else f"A{chr(39 + k)}"].width = min(
            max(widest + 2, 8), 60
        )
    for n, row in enumerate((header, *rows)):
        cells = []
        for value in row:
            clean = _UNWRITABLE.sub("", value) if isinstance(value, str) else value
            cell = WriteOnlyCell(sheet, clean)
            if isinstance(clean, str):
                cell.data_type = "s"
            if n == 0:
                cell.font = Font(bold=True)
            cells.append(cell)
        sheet.append(cells)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
