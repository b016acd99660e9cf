"""Which parameter moves what around here: each is changed a little to both sides, and what that does to
mass, size and what checks measure is told as a slope."""

from __future__ import annotations

from typing import Any

from pydantic import Field

from vireo.core.documents import Document
from vireo.core.documents.kind import Around
from vireo.core.documents.members import values_of
from vireo.core.quantity import Quantity, evaluate
from vireo.core.quantity.parameters import ListLimits
from vireo.core.trouble import BadInput, Trouble
from vireo.work.jobs.kind import Json, Options, Telling, job_of_pieces
from vireo.work.varying import (
    MOST_POINTS,
    Points,
    decides,
    gathered,
    measured,
    names_put_in,
    written,
)

#: What is looked at besides the checks.
_ALWAYS = ("mass", "volume", "size_x", "size_y", "size_z")


class SensitivityOptions(Options):
    """Parameters by name (none: all that are numbers as typed), and by what share of itself each is
    changed to either side."""

    parameters: tuple[str, ...] = Field(default=(), max_length=MOST_POINTS // 2)
    share: float = Field(default=0.01, gt=0.0, le=0.2)


def typed_numbers(document: Document) -> dict[str, Quantity]:
    """The parameters that stand for themselves and may be any number: no formula of others, no list."""
    found = {}
    values = values_of(document)
    for p in document.parameters:
        if isinstance(p.limits, ListLimits) or p.name not in values:
            continue
        try:
            evaluate(p.formula, {})
            written(values[p.name])
        except Trouble:
            continue
        if values[p.name].value != 0.0:
            found[p.name] = values[p.name]
    return found


def gather(document: Document, around: Around, options: SensitivityOptions) -> Json:
    numbers = typed_numbers(document)
    chosen = options.parameters or tuple(numbers)
    wrong = [n for n in chosen if n not in numbers]
    if wrong:
        raise BadInput(
            f"{wrong[0]} is no number that can be changed a little: it follows others, or a list"
        )
    if not chosen:
        raise BadInput("there is no parameter that stands for itself to change a little")
    steps = {n: (options.share * abs(numbers[n].value)) for n in chosen}
    points: list[dict[str, str]] = [{}]
    for name, step in steps.items():
        for sign in (-1.0, 1.0):
            value = Quantity(numbers[name].value + sign * step, numbers[name].dimension)
            points.append({name: written(value)})
    told = {n: {"value": numbers[n].value, "shown": written(numbers[n])} for n in chosen}
    return {**gathered(document, around), "points": points, "parameters": told}


def reads(request: Json, options: SensitivityOptions) -> Any:
    return decides(request, request["points"])


def told(result: Json, telling: Telling) -> Json:
    checks = {c.id: c.name for c in telling.document.checks}
    slopes = [
        {**s, "name": checks.get(s["of"], s["of"])}
        for s in result.get("slopes", ()) if s["of"] in _ALWAYS or s["of"] in checks
    ]  # fmt: skip
    return {
        **result,
        "slopes": slopes,
        "rows": names_put_in(result.get("rows", ()), telling.document),
    }


@job_of_pieces(
    "sensitivity", ("part", "assembly"), SensitivityOptions, reads=reads, told=told, gather=gather
)
class Sides(Points):
    """The document as it is, then a little to either side for each parameter."""

    noun = "builds"

    def ended(self, request: Json, rows: list[Json], seconds: float) -> Json:
        """For each parameter and quantity the slope (base units of formulas; g, mm3, mm), and by how many
        percent the quantity changes for one of the parameter; the strongest first for each quantity. One
        side alone where the other does not build."""
        base = rows[0]
        if base["state"] != "ok":
            raise BadInput(
                f"the document as it is does not build: {base['step']} {base['why']}".strip()
            )
        quantities = [*_ALWAYS, *(c["id"] for c in base["checks"])]
        slopes = []
        for n, (name, parameter) in enumerate(request["parameters"].items()):
            sides = rows[1 + 2 * n : 3 + 2 * n]
            for of in quantities:
                slope = _slope(base, sides, name, of, parameter["value"])
                if slope is not None:
                    slopes.append({"parameter": name, "of": of, **slope})
        slopes.sort(key=lambda s: -abs(s["percent"]) if s["percent"] is not None else 0.0)
        return {"rows": rows, "parameters": request["parameters"], "slopes": slopes}


def _slope(base: Json, sides: list[Json], name: str, of: str, value: float) -> Json | None:
    here = measured(base, of)
    if here is None:
        return None
    ends = [(value, here)]
    for side in sides:
        there = measured(side, of)
        if there is not None:
            ends.append((side["numbers"][name], there))
    ends.sort()
    if len(ends) < 2:
        return None
    slope = (ends[-1][1] - ends[0][1]) / (ends[-1][0] - ends[0][0])
    percent = slope * value / here if here != 0.0 else None
    return {"slope": slope, "percent": percent, "sides": len(ends) - 1}
