"""Lists of what an assembly is made of, on the screen and as spreadsheets."""

from __future__ import annotations

from typing import Any

from flask import Response

from vireo.core.assembly.listing import Around, Line, Way, parts_list
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.tables import Cell, csv_of, xlsx_of
from vireo.core.trouble import BadInput
from vireo.server.api import Room, services
from vireo.server.rooms.exchange import attachment
from vireo.server.views.listing import PartsListView

room = Room("listing")

_WAYS: tuple[Way, ...] = ("structured", "top", "parts")
MIME = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}
#: Columns that are not properties: their heading, and what stands in them.
_COLUMNS = ("position", "name", "variant", "quantity", "material", "mass", "total", "tags")


def _way(given: str | None) -> Way:
    given = given or "structured"
    found = next((w for w in _WAYS if w == given), None)
    if found is None:
        raise BadInput(f"there is no list called {given}; there are {', '.join(_WAYS)}")
    return found


def _lines(id: str, way: Way) -> tuple[Assembly, list[Line]]:
    """The lines of an assembly, masses as it is built now."""
    work = services()
    record = work.store.document(id)
    if not isinstance(record.document, Assembly):
        raise BadInput("only an assembly has a list of parts")
    around = work.builds.around(record.project)
    built = work.builds.build(id)
    own: dict[tuple[str, ...], float] = {}
    for leaf in built["leaves"]:
        path = (leaf["component"], *leaf["path"])
        own[path] = own.get(path, 0.0) + leaf["mass"]
    mass: dict[str, float] = {}
    copies = frozenset(tuple(path) for path in built["occurrences"])
    known = Around(around.other, mass, copies)

    def weigh(assembly: Assembly, above: tuple[str, ...]) -> float:
        total = 0.0
        for component, stands in known.occurrences(assembly, above):
            path, inner = (*above, stands), around.other(component.key)
            if component.key not in mass:
                deep = isinstance(inner, Assembly)
                mass[component.key] = weigh(inner, path) if deep else own.get(path, 0.0)
            total += mass[component.key]
        return total

    weigh(record.document, ())
    return record.document, parts_list(record.document, known, way)


def _columns(lines: list[Line]) -> list[str]:
    """Names of the properties that any line has, in the order they come up."""
    return list(dict.fromkeys(name for line in lines for name in line.properties))


@room.route("GET", "/documents/<id>/parts", answer=PartsListView, query={"way": str})
def parts(id: str, way: str | None) -> Any:
    """What an assembly is made of: structured, its top level, or parts only."""
    _, lines = _lines(id, _way(way))
    return {
        "columns": _columns(lines),
        "lines": [
            {
                "position": position, "document": line.document, "kind": line.kind,
                "name": line.name, "variant": line.variant, "choice": line.choice.model_dump(mode="json"),
                "level": line.level, "quantity": line.quantity,
                "mass": line.mass, "total": line.total, "material": line.material,
                "properties": line.properties, "tags": line.tags,
                "components": sorted({p[0] for p in line.paths}),
            }
            for position, line in zip(_positions(lines), lines, strict=True)
        ],
    }  # fmt: skip


def _positions(lines: list[Line]) -> list[str]:
    """1, 2, 2.1, 2.2, 3 by the levels of lines."""
    counts: list[int] = []
    found = []
    for line in lines:
        counts = [*counts[: line.level + 1], *[0] * (line.level + 1 - len(counts))]
        counts[line.level] += 1
        found.append(".".join(map(str, counts)))
    return found


def _table(lines: list[Line], columns: list[str]) -> tuple[list[str], list[list[Cell]]]:
    head = {
        "position": "Position", "name": "Name", "variant": "Variant", "quantity": "Quantity", "material": "Material",
        "mass": "Mass g", "total": "Total mass g", "tags": "Tags",
    }  # fmt: skip
    rows: list[list[Cell]] = []
    for position, line in zip(_positions(lines), lines, strict=True):
        has: dict[str, Cell] = {
            "position": position, "name": line.name, "variant": line.variant, "quantity": line.quantity,
            "material": line.material, "mass": round(line.mass, 3),
            "total": round(line.total, 3), "tags": ", ".join(line.tags),
        }  # fmt: skip
        rows.append([has[c] if c in has else line.properties.get(c, "") for c in columns])
    return [head.get(c, c) for c in columns], rows


def _file(id: str, ending: str, way: str | None, columns: str | None) -> Response:
    document, lines = _lines(id, _way(way))
    every = [*_COLUMNS, *_columns(lines)]
    asked = [c for c in (columns or "").split("\n") if c]
    unknown = [c for c in asked if c not in every]
    if unknown:
        raise BadInput(f"there is no column {unknown[0]}; there are {', '.join(every)}")
    header, rows = _table(lines, asked or every)
    data = csv_of(header, rows) if ending == "csv" else xlsx_of(document.name, header, rows)
    return attachment(data, f"{document.name} parts.{ending}", MIME[ending])


@room.route("GET", "/documents/<id>/parts.csv", query={"way": str, "columns": str})
def parts_csv(id: str, way: str | None, columns: str | None) -> Response:
    """The list of parts as CSV; columns by their names, a line each."""
    return _file(id, "csv", way, columns)


@room.route("GET", "/documents/<id>/parts.xlsx", query={"way": str, "columns": str})
def parts_xlsx(id: str, way: str | None, columns: str | None) -> Response:
    """The list of parts as XLSX; columns by their names, a line each."""
    return _file(id, "xlsx", way, columns)
