"""The contract of a lane, and what goes wrong in one."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

from vireo.core.trouble import Report, Trouble

Progress = Callable[[dict[str, Any]], None]
#: Bytes of a stored file by project and id. Raises Trouble when it is not there.
Files = Callable[[str, str], bytes]


class WorkerLost(Trouble):
    """A worker died or was stopped; `news` is the last it said."""

    code = "worker_lost"

    def __init__(
        self, text: str, news: dict[str, Any] | None = None, crashed: bool = False
    ) -> None:
        super().__init__(text)
        self.news = news or {}
        self.crashed = crashed


class ClusterLost(WorkerLost):
    """The cluster does not answer; nobody is at fault."""

    code = "cluster_lost"


class Cancelled(Trouble):
    code = "cancelled"


class TaskTrouble(Trouble):
    """A trouble raised inside a worker, carried over."""

    def __init__(self, report: Report) -> None:
        super().__init__(report.text, report.where, report.offers)
        self.code = report.code


@dataclass(frozen=True)
class Call:
    """A task to run, and how.

    `sticky` names the document whose worker it should go to; `seconds` is the longest silence
    allowed: every report of progress starts it anew. `begun` is called when a worker has taken
    it, `cancel` stops it, waiting or running.
    """

    task: str
    request: dict[str, Any]
    sticky: str | None = None
    seconds: float = 90.0
    progress: Progress | None = None
    cancel: threading.Event | None = None
    begun: Callable[[], None] | None = None


class Lane(Protocol):
    """Workers that run tasks one at a time each, first come, first served."""

    def call(self, call: Call) -> Any:
        """Run a task and return its answer.

        Raises TaskTrouble for a trouble inside the task, WorkerLost when the process died or was
        stopped for taking too long, Cancelled when it was stopped on request.
        """
        ...

    def close(self) -> None: ...
