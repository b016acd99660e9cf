"""One or two parameters varied over ranges: whether the document builds, its mass and size, what its checks
say at every point."""

from __future__ import annotations

import itertools
import time
from typing import Any

from pydantic import Field

from vireo.core.documents import Document, load_document
from vireo.core.documents.kind import Around
from vireo.core.trouble import BadInput
from vireo.work.examining import nothing_known
from vireo.work.forking import shared_out
from vireo.work.jobs.kind import Json, Options, Telling, job
from vireo.work.varying import (
    MOST_POINTS,
    Range,
    decides,
    gathered,
    looked_at,
    names_put_in,
    span_of,
    values_over,
)
from vireo.work.worker import Bench


class VaryOptions(Options):
    ranges: tuple[Range, ...] = Field(min_length=1, max_length=2)


def gather(document: Document, around: Around, options: VaryOptions) -> Json:
    names = [r.name for r in options.ranges]
    if len(set(names)) < len(names):
        raise BadInput(f"{names[0]} cannot be varied twice at once")
    spans = [span_of(document, r) for r in options.ranges]
    values = [values_over(s, r.count) for s, r in zip(spans, options.ranges, strict=True)]
    points = [
        {s.name: s.formula(v) for s, v in zip(spans, point, strict=True)}
        for point in itertools.product(*values)
    ]
    if len(points) > MOST_POINTS:
        raise BadInput(f"these are {len(points)} points; up to {MOST_POINTS} are built in one go")
    return {**gathered(document, around), "points": points}


def reads(request: Json, options: VaryOptions) -> Any:
    return decides(request, request["points"])


def told(result: Json, telling: Telling) -> Json:
    return {**result, "rows": names_put_in(result.get("rows", ()), telling.document)}


@job("vary", ("part", "assembly"), VaryOptions, reads=reads, told=told, gather=gather)
def vary(bench: Bench, request: Json, options: VaryOptions) -> dict[str, Any]:
    """A row for each point, in the order of the ranges; as they come, too."""
    document = load_document(request["document"])
    points = request["points"]
    found: dict[int, Json] = {}

    def look(index: int) -> Json:
        return looked_at(bench, document, request, points[index])

    def keep(index: int, row: Json | None) -> None:
        lost = {"set": points[index], "numbers": {}, **nothing_known()}
        row = row or {**lost, "why": "the geometry kernel ended over it"}
        for name in row.pop("kept", ()):
            bench.report({"kept": name})
        found[index] = row
        rows = [found[i] for i in sorted(found)]
        bench.report({
            "share": len(rows) / len(points), "stage": f"{len(rows)} of {len(points)} points",
            "partial": {"rows": rows, "count": len(points)},
        })  # fmt: skip

    started = time.perf_counter()
    # What the points share is built once, before they part.
    keep(0, look(0))
    for i, row in shared_out(range(1, len(points)), look, worth=1):
        keep(i, row)
    return {
        "rows": [found[i] for i in sorted(found)], "count": len(points),
        "seconds": time.perf_counter() - started,
    }  # fmt: skip
