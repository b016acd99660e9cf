"""Jobs as tasks: the worker runs what is declared."""

from __future__ import annotations

from typing import Any

from vireo.core.trouble import BadInput
from vireo.work.jobs.kind import JOBS
from vireo.work.worker import Bench, task


@task("job")
def run_job(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """Run the job ``kind`` with its ``options`` on the ``request`` that builds the document."""
    kind = JOBS.called(request["kind"])
    return kind.run(bench, request["request"], kind.parsed(request["options"]))


@task("pieces")
def run_pieces(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """Those of the questions a job falls into that have the ``numbers`` named; each row is told, too, as it
    comes."""
    kind = JOBS.called(request["kind"])
    if kind.pieces is None:
        raise BadInput(f"{kind.kind} does not fall into pieces")
    rows = []

    def keep(number: int, row: dict[str, Any]) -> None:
        rows.append((number, row))
        bench.report({"row": (number, row)})

    options = kind.parsed(request["options"])
    kind.pieces.some(bench, request["request"], options, request["numbers"], keep)
    return {"rows": rows}
