"""Tables of parameters as text: what a spreadsheet copies, and files with commas."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from pydantic import ValidationError

from vireo.core.quantity.parameters import Limits, ListLimits, Parameter, RangeLimits
from vireo.core.quantity.units import UNITS, Quantity, format_quantity
from vireo.core.trouble import BadInput

COLUMNS = ("name", "formula", "limits", "group", "note")
_ALSO = {
    "parameter": "name", "value": "formula", "expression": "formula", "comment": "note",
    "description": "note", "heading": "group", "allowed": "limits",
}  # fmt: skip
MOST_ROWS = 2000


@dataclass(frozen=True)
class Row:
    """A line of a table: what it says of a parameter, by column; `line` counts from 1."""

    line: int
    name: str
    said: dict[str, str] = field(default_factory=dict)


def read_table(text: str) -> list[Row]:
    """Rows of a table with tabs (as a spreadsheet copies), semicolons or commas.

    The first line may name the columns (name, formula or value, unit, limits, group, note; others
    are passed over); without, they are name, formula, limits, group, note in this order. A unit
    in a column of its own is put behind a plain number. Raises BadInput with the line that
    cannot be read.
    """
    lines = [line for line in text.replace("\r\n", "\n").split("\n") if line.strip()]
    if not lines:
        raise BadInput("there is nothing in this table")
    if len(lines) > MOST_ROWS + 1:
        raise BadInput(
            f"a table of parameters has at most {MOST_ROWS} lines; this has {len(lines)}"
        )
    sign = next((s for s in ("\t", ";") if s in lines[0]), ",")
    cells = [
        [c.strip() for c in row]
        for row in csv.reader(io.StringIO("\n".join(lines)), delimiter=sign)
    ]
    head = [_ALSO.get(c.lower(), c.lower()) for c in cells[0]]
    named = "name" in head and ("formula" in head or len(head) > 1)
    columns = head if named else list(COLUMNS)
    rows, seen = [], set()
    for number, row in enumerate(cells[1:] if named else cells, start=2 if named else 1):
        said = {c: v for c, v in zip(columns, row, strict=False) if v}
        name = said.pop("name", "")
        if not name:
            raise BadInput(f"line {number} names no parameter")
        if name in seen:
            raise BadInput(f"line {number}: {name} stands in the table twice")
        seen.add(name)
        if (unit := said.pop("unit", "")) and "formula" in said:
            if unit not in UNITS:
                raise BadInput(f"line {number}: there is no unit {unit}")
            said["formula"] = _with_unit(said["formula"], unit)
        rows.append(Row(number, name, {k: v for k, v in said.items() if k in COLUMNS}))
    return rows


def write_table(parameters: Sequence[Parameter], values: Mapping[str, Quantity | None]) -> str:
    """Parameters as CSV that `read_table` reads back; the values are there to be looked at."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow((*COLUMNS, "now"))
    for p in parameters:
        value = values.get(p.name)
        shown = format_quantity(value, p.unit) if value is not None else ""
        writer.writerow((p.name, p.formula, limits_text(p.limits), p.group, p.note, shown))
    return out.getvalue()


def limits_text(limits: Limits | None) -> str:
    """Limits as people type them."""
    if limits is None:
        return ""
    if isinstance(limits, ListLimits):
        return ", ".join(limits.values)
    if limits.least and limits.most:
        return f"{limits.least} … {limits.most}"
    return f"≥ {limits.least}" if limits.least else f"≤ {limits.most}" if limits.most else ""


def limits_of(text: str) -> Limits | None:
    """Limits from what was typed: a list with commas, a range with dots, at least or at most.

    Raises BadInput for limits without a value, and for too many or too long ones.
    """
    typed = text.strip()
    if not typed:
        return None
    try:
        return _limits(typed)
    except ValidationError as error:
        raise BadInput(
            f"{typed[:40]} is no limit: type values with commas (2 mm, 3 mm), "
            "a range (2 mm … 5 mm), ≥ 2 mm or ≤ 5 mm; at most 200 values of 500 characters"
        ) from error


def _limits(typed: str) -> Limits:
    ends = re.split(r"\s*(?:…|\.\.\.?)\s*", typed)
    if len(ends) == 2 and any(ends):
        return RangeLimits(least=ends[0] or None, most=ends[1] or None)
    if found := re.match(r"^(?:≥|>=)\s*(.+)$", typed):
        return RangeLimits(least=found[1])
    if found := re.match(r"^(?:≤|<=)\s*(.+)$", typed):
        return RangeLimits(most=found[1])
    if found := _FROM_TO.fullmatch(typed):
        return RangeLimits(least=_shared(found[1], found[2]), most=found[2].strip())
    values = [v.strip() for v in re.split(r",(?![^(]*\))", typed)]
    values = [v for v in values if v.strip(" .…≥≤<>=")]
    return ListLimits(values=[_shared(v, values[-1]) for v in values])


_NUMBER = r"[+-]?[\d.]+(?:[eE][-+]?\d+)?"
_UNIT = "|".join(sorted(UNITS, key=len, reverse=True))
#: Two plain values with a dash or ``to`` between: a range, not a difference.
_FROM_TO = re.compile(
    rf"({_NUMBER}(?:\s*(?:{_UNIT}))?)\s*(?:-|–|—|\bto\b)\s*({_NUMBER}\s*(?:{_UNIT}))"
)


def _shared(value: str, last: str) -> str:
    """A plain number with the unit that stands behind the last of a row: 15, 20, 25 deg."""
    unit = re.fullmatch(rf"{_NUMBER}\s*({_UNIT})", last.strip())
    plain = re.fullmatch(_NUMBER, value.strip())
    return f"{value.strip()} {unit[1]}" if unit and plain else value.strip()


def _with_unit(formula: str, unit: str) -> str:
    return (
        f"{formula} {unit}" if re.fullmatch(r"[-+]?[\d.]+(?:[eE][-+]?\d+)?", formula) else formula
    )
