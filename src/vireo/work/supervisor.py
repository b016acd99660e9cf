"""Keeps worker processes: hands them tasks, watches time, replaces those that die.

The kernel holds Python's lock, cannot be cancelled and can crash or hang, so it runs nowhere
else. An open document sticks to one worker, whose memory then holds its bodies.
"""

from __future__ import annotations

import multiprocessing
import os
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path
from typing import Any

from vireo.core.trouble import Report, Trouble
from vireo.work.worker import main as worker_main

SECONDS = float(os.environ.get("VIREO_STEP_SECONDS", "90"))

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


class Cancelled(Trouble):
    code = "cancelled"


class TaskTrouble(Trouble):
    """A trouble raised inside a worker, carried over."""

    def __init__(self, report: Report) -> None:
        super().__init__(report.text, report.where, report.offers)
        self.code = report.code


@dataclass
class _Worker:
    process: BaseProcess
    pipe: Connection
    lock: threading.Lock = field(default_factory=threading.Lock)
    sticky: str | None = None
    used: float = 0.0


class Supervisor:
    """`count` workers for interactive work, `background` more for jobs; `steps` is the folder
    of the user's own kinds of step."""

    def __init__(
        self,
        folder: Path,
        count: int = 2,
        background: int = 1,
        steps: Path | None = None,
    ) -> None:
        #: Where workers get stored files from.
        self.files: Files | None = None
        self._folder = str(folder)
        self._steps = str(steps) if steps else None
        self._context = multiprocessing.get_context("forkserver")
        self._context.set_forkserver_preload(["vireo.work.tasks"])
        self._guard = threading.Condition()
        self._sizes = {"interactive": count, "background": background}
        self._idle: dict[str, list[_Worker]] = {"interactive": [], "background": []}
        self._count = {"interactive": 0, "background": 0}
        self._closed = False

    def start(self, forked: bool = False) -> None:
        """Have the first worker ready before it is asked for.

        `forked`: of this process, which has neither threads nor files open yet, so that a
        short run loads the kernel once and not twice.
        """
        with self._guard:
            self._count["interactive"] += 1
        context = multiprocessing.get_context("fork") if forked else self._context
        self._give_back("interactive", self._spawn(context))

    def _file(self, project: str, id: str) -> bytes | None:
        """A stored file a worker asks for; None when it is not there."""
        try:
            return self.files(project, id) if self.files else None
        except Trouble:
            return None

    def _spawn(self, context: Any) -> _Worker:
        ours, theirs = context.Pipe()
        process = context.Process(
            target=worker_main,
            args=(theirs, self._folder, self._steps),
            daemon=True,
            name="vireo-worker",
        )
        process.start()
        theirs.close()
        return _Worker(process, ours)

    def _take(self, lane: str, sticky: str | None) -> _Worker:
        with self._guard:
            while True:
                if self._closed:
                    raise Cancelled("the server is stopping")
                idle = self._idle[lane]
                own = next((w for w in idle if sticky and w.sticky == sticky), None) or next(
                    (w for w in idle if w.sticky is None), None
                )
                if own is None and self._count[lane] < self._sizes[lane]:
                    self._count[lane] += 1
                    break
                if own is None and idle:
                    own = min(idle, key=lambda w: w.used)
                if own is not None:
                    idle.remove(own)
                    return own
                self._guard.wait()
        try:
            return self._spawn(self._context)
        except BaseException:
            with self._guard:
                self._count[lane] -= 1
            raise

    def _give_back(self, lane: str, worker: _Worker) -> None:
        with self._guard:
            self._idle[lane].append(worker)
            self._guard.notify_all()

    def _drop(self, lane: str, worker: _Worker) -> None:
        worker.process.kill()
        worker.process.join(5)
        worker.pipe.close()
        with self._guard:
            self._count[lane] -= 1
            self._guard.notify_all()

    def call(
        self,
        task: str,
        request: dict[str, Any],
        *,
        sticky: str | None = None,
        lane: str = "interactive",
        seconds: float = SECONDS,
        progress: Progress | None = None,
        cancel: threading.Event | None = None,
    ) -> Any:
        """Run a task and return its answer.

        `seconds` is the longest silence allowed: every report of progress starts it anew.
        Raises TaskTrouble for a trouble inside the task, WorkerLost when the process died or
        was stopped for taking too long, Cancelled when `cancel` was set.
        """
        worker = self._take(lane, sticky)
        worker.sticky, worker.used = sticky, time.monotonic()
        news: dict[str, Any] = {}
        try:
            worker.pipe.send((task, request))
            deadline = time.monotonic() + seconds
            while True:
                if cancel is not None and cancel.is_set():
                    raise Cancelled("stopped on request")
                if worker.pipe.poll(0.05):
                    kind, answer = worker.pipe.recv()
                    if kind == "file":
                        worker.pipe.send(self._file(*answer))
                        continue
                    if kind == "progress":
                        news = answer
                        deadline = time.monotonic() + seconds
                        if progress:
                            progress(answer)
                        continue
                    break
                if time.monotonic() > deadline:
                    raise WorkerLost(f"it took longer than {seconds:g} s and was stopped", news)
        except (EOFError, BrokenPipeError, ConnectionResetError) as error:
            self._drop(lane, worker)
            code = worker.process.exitcode
            raise WorkerLost(
                f"the geometry kernel crashed (exit {code})", news, crashed=True
            ) from error
        except BaseException:
            self._drop(lane, worker)
            raise
        self._give_back(lane, worker)
        if kind == "trouble":
            raise TaskTrouble(Report.model_validate(answer))
        return answer

    def pids(self) -> list[int]:
        """Process ids of idle workers (those that answer nothing now)."""
        with self._guard:
            return [w.process.pid or 0 for lane in self._idle.values() for w in lane]

    def close(self) -> None:
        with self._guard:
            self._closed = True
            workers = [w for lane in self._idle.values() for w in lane]
            self._guard.notify_all()
        for worker in workers:
            worker.process.kill()
            worker.process.join(2)
