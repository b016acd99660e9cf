"""A job: the sum of the weights of a ballast."""

from typing import Any

from vireo.work.jobs.kind import Json, Options, job
from vireo.work.worker import TASKS, Bench


class WeighOptions(Options):
    times: int = 1


@job("weigh", ("ballast",), WeighOptions)
def weigh(bench: Bench, request: Json, options: WeighOptions) -> dict[str, Any]:
    """What everything weighs, so many times over, g."""
    return {"total": options.times * sum(TASKS["ballast"](bench, request)["masses"].values())}
