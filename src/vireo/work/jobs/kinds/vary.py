"""One or two parameters varied over ranges: whether the document builds, its mass and size, what its checks
say at every point."""

from __future__ import annotations

import itertools
from typing import Any

from pydantic import Field

from vireo.core.documents import Document
from vireo.core.documents.kind import Around
from vireo.core.trouble import BadInput
from vireo.work.jobs.kind import Json, Options, Telling, job_of_pieces
from vireo.work.varying import (
    MOST_POINTS,
    Points,
    Range,
    decides,
    gathered,
    names_put_in,
    span_of,
    values_over,
)


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


@job_of_pieces("vary", ("part", "assembly"), VaryOptions, reads=reads, told=told, gather=gather)
class Varied(Points):
    """A row for each point, in the order of the ranges."""
