"""Jobs as tasks: the worker runs what is declared."""

from __future__ import annotations

from typing import Any

from vireo.work.jobs.kind import JOBS
from vireo.work.worker import Bench, task


@task("job")
def run_job(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """Run the job ``kind`` with its ``options`` on the ``request`` that builds the document."""
    kind = JOBS.called(request["kind"])
    return kind.run(bench, request["request"], kind.parsed(request["options"]))
