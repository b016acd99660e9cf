"""Parameters of a document varied: over which values, what the document is with them, and what it is like
then. Jobs that study parameters share this."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from vireo.core.documents import Document, dump, kind_of, load_document
from vireo.core.documents.commands import apply_all
from vireo.core.documents.content import deciding
from vireo.core.documents.kind import Around
from vireo.core.documents.members import values_of
from vireo.core.quantity import FormulaError, Quantity, evaluate, evaluate_parameters
from vireo.core.quantity.parameters import ListLimits
from vireo.core.quantity.units import ANGLE, FORCE, LENGTH, MASS, NUMBER, PRESSURE
from vireo.core.trouble import BadInput, Trouble
from vireo.work.examining import KERNEL_ENDED, examined, nothing_known
from vireo.work.jobs.pieces import Pieces
from vireo.work.worker import Bench

Json = dict[str, Any]
#: What is tried in one go at most.
MOST_POINTS = 400
#: How values are written as formulas: the unit, and how many base units it is.
_UNITS = {
    LENGTH: ("mm", 1.0), ANGLE: ("deg", np.pi / 180), MASS: ("g", 1e-3), FORCE: ("N", 1e3),
    PRESSURE: ("MPa", 1e3), NUMBER: ("", 1.0),
}  # fmt: skip


class Range(BaseModel):
    """A parameter and the values it is varied between, as formulas; `count` of them where several are
    asked for. One whose values are a list takes those of the list that lie between."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    name: str = Field(max_length=40)
    least: str = Field(max_length=500)
    most: str = Field(max_length=500)
    count: int = Field(default=9, ge=2, le=200)


@dataclass(frozen=True)
class Span:
    """A range as numbers, in base units of formulas; `steps` are the only values of a list."""

    name: str
    like: Quantity
    least: float
    most: float
    steps: tuple[float, ...] = ()

    def formula(self, value: float) -> str:
        return written(Quantity(value, self.like.dimension))


def written(value: Quantity) -> str:
    """A value as one would type it. Raises BadInput for what has no unit of its own here."""
    found = _UNITS.get(value.dimension)
    if found is None:
        raise BadInput(f"a {value.dimension.name} is not varied")
    unit, size = found
    return f"{value.value / size:.9g} {unit}".strip()


def span_of(document: Document, asked: Range) -> Span:
    """What a range means for a document. Raises BadInput for a parameter that is not there, has no value of
    its own to vary, or ends that do not fit it."""
    parameter = next((p for p in document.parameters if p.name == asked.name), None)
    if parameter is None:
        raise BadInput(f"there is no parameter {asked.name}")
    values = values_of(document)
    now = values.get(asked.name)
    if now is None:
        raise BadInput(f"{asked.name} has no value to vary")
    ends = []
    for text in (asked.least, asked.most):
        try:
            end = evaluate(text, values)
            if end.dimension.plain and not now.dimension.plain:
                end = evaluate(f"({text})*(1 {_UNITS.get(now.dimension, ('mm', 1))[0]})", values)
        except FormulaError as error:
            raise BadInput(f"{asked.name}: {text} {error.text}") from error
        if end.dimension != now.dimension:
            raise BadInput(
                f"{asked.name} is {now.dimension.name}, but “{text}” is {end.dimension.name}"
            )
        ends.append(end.value)
    least, most = sorted(ends)
    steps: tuple[float, ...] = ()
    if isinstance(parameter.limits, ListLimits):
        listed = [evaluate(f, values).value for f in parameter.limits.values]
        slack = 1e-9 * max(map(abs, listed))
        steps = tuple(sorted(v for v in listed if least - slack <= v <= most + slack))
        if not steps:
            raise BadInput(
                f"{asked.name} takes none of its values between {asked.least} and {asked.most}"
            )
    elif least == most:
        raise BadInput(f"{asked.name}: both ends are {asked.least}")
    return Span(asked.name, now, least, most, steps)


def values_over(span: Span, count: int) -> list[float]:
    return list(span.steps) or [float(v) for v in np.linspace(span.least, span.most, count)]


def set_to(document: Document, values: Mapping[str, str]) -> Document:
    """The document with parameters set."""
    commands = [{"do": "edit_parameter", "name": n, "formula": f} for n, f in values.items()]
    return apply_all(document, commands)[0] if commands else document


def gathered(document: Document, around: Around) -> Json:
    """The document and what its build needs besides."""
    task, request = kind_of(document).request(document, around)
    rest = {k: v for k, v in request.items() if k != "document"}
    return {"document": dump(document), "task": task, "rest": rest}


def decides(request: Json, *more: Any) -> Any:
    """What decides the answer of a study: the document with its checks and parameters, what it needs, and
    what is asked."""
    data = request["document"]
    checks = [
        {k: v for k, v in c.items() if k not in ("name", "severity", "note")}
        for c in data["checks"]
    ]
    return [
        deciding({"document": data}),
        deciding(request["rest"]),
        checks,
        data["parameters"],
        *more,
    ]


def _blank(values: Mapping[str, str]) -> Json:
    return {"set": dict(values), "numbers": {}, **nothing_known()}


def looked_at(bench: Bench, document: Document, request: Json, values: Mapping[str, str]) -> Json:
    """What becomes of the document with parameters set: a row, with the values in base units."""
    row = {**_blank(values), "kept": []}
    try:
        there = set_to(document, values)
    except Trouble as trouble:
        return {**row, "why": trouble.report().text}
    found = evaluate_parameters(there.parameters)
    row["numbers"] = {n: e.value.value for n, e in found.items() if e.value is not None}
    broken = next(
        (e.trouble for e in found.values() if e.trouble is not None and e.broken_limit), None
    )
    if broken is not None:
        return {**row, "why": broken.text}
    return row | examined(bench, there, request["task"], request["rest"])


class Points(Pieces):
    """Values that parameters of the document are set to, one set after the other, under ``points``."""

    noun = "points"

    def count(self, request: Json) -> int:
        return len(request["points"])

    def answering(self, bench: Bench, request: Json, options: Any) -> Callable[[int], Json]:
        document = load_document(request["document"])
        return lambda number: looked_at(bench, document, request, request["points"][number])

    def lost(self, request: Json, number: int) -> Json:
        return {**_blank(request["points"][number]), "why": KERNEL_ENDED}


def measured(row: Json, what: str) -> float | None:
    """A quantity of a row: ``mass`` (g), ``volume`` (mm3), ``size_x`` and so on (mm), or what a check found
    (base units), by its id."""
    if row["state"] != "ok":
        return None
    if what in ("mass", "volume"):
        found: float | None = row[what]
        return found
    if what.startswith("size_"):
        return None if row["size"] is None else float(row["size"]["xyz".index(what[5:])])
    check = next((c for c in row["checks"] if c["id"] == what), None)
    return None if check is None else check.get("value")


def names_put_in(rows: Sequence[Json], document: Document) -> list[Json]:
    """Rows with the names checks have now; those that are gone are left out."""
    checks = {c.id: c for c in document.checks}
    return [
        {**row, "checks": [
            {**c, "name": checks[c["id"]].name, "relation": checks[c["id"]].relation,
             "severity": checks[c["id"]].severity}
            for c in row["checks"] if c["id"] in checks
        ]}
        for row in rows
    ]  # fmt: skip
