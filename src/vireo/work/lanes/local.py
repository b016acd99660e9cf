"""A lane of processes on this machine: hands them tasks, watches time, replaces those that die.

The kernel holds Python's lock, cannot be cancelled and can crash or hang, so it runs nowhere
else. An open document sticks to one worker, whose memory then holds its bodies.
"""

from __future__ import annotations

import multiprocessing
import threading
import time
from collections import deque
from dataclasses import dataclass
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path
from typing import Any

from vireo.core.trouble import Report, Trouble
from vireo.work.lanes.lane import Call, Cancelled, Files, TaskTrouble, WorkerLost
from vireo.work.worker import Bounds
from vireo.work.worker import main as worker_main

#: How often a waiting or running call looks whether it was stopped (s).
_LOOK = 0.05


@dataclass
class _Worker:
    process: BaseProcess
    pipe: Connection
    #: Held open as long as the worker is to live.
    alive: Connection
    sticky: str | None = None
    used: float = 0.0


class LocalLane:
    """`count` workers over the kept results in `folder`; `steps` is the folder of the user's own
    kinds of step, `bounds` what a worker may use."""

    def __init__(
        self, folder: Path, count: int, steps: Path | None = None, bounds: Bounds | None = None
    ) -> None:
        self._folder, self._steps = str(folder), str(steps) if steps else None
        self._bounds = bounds or Bounds()
        self._context = multiprocessing.get_context("forkserver")
        self._context.set_forkserver_preload(["vireo.work.tasks"])
        self._guard = threading.Condition()
        self._size = count
        self._count = 0
        self._idle: list[_Worker] = []
        self._all: list[_Worker] = []
        #: Who waits for a worker, in the order of coming.
        self._line: deque[object] = deque()
        self._closed = False
        #: Where workers get stored files from.
        self.files: Files | None = None

    def start(self, forked: bool = False) -> None:
        """Have the first worker ready before it is asked for.

        `forked`: of this process, which has neither threads nor files open yet, so that a
        short run loads the kernel once and not twice.
        """
        with self._guard:
            self._count += 1
        context = multiprocessing.get_context("fork") if forked else self._context
        self._give_back(self._spawn(context, forked))

    def _spawn(self, context: Any, forked: bool = False) -> _Worker:
        ours, theirs = context.Pipe()
        seen, alive = context.Pipe(duplex=False)
        process = context.Process(
            target=worker_main,
            args=(theirs, seen, self._folder, self._steps, self._bounds, alive if forked else None),
            daemon=True, name="vireo-worker",
        )  # fmt: skip
        process.start()
        theirs.close()
        seen.close()
        worker = _Worker(process, ours, alive)
        with self._guard:
            self._all.append(worker)
        return worker

    def _take(self, sticky: str | None, cancel: threading.Event | None) -> _Worker:
        """A worker, in turn. Raises Cancelled when that is asked for meanwhile."""
        ticket = object()
        with self._guard:
            self._line.append(ticket)
            try:
                while True:
                    if self._closed:
                        raise Cancelled("the server is stopping")
                    if cancel is not None and cancel.is_set():
                        raise Cancelled("stopped on request")
                    if self._line[0] is ticket:
                        found = self._free(sticky)
                        if found is not None:
                            return found
                        if self._count < self._size:
                            self._count += 1
                            break
                    self._guard.wait(_LOOK if cancel is not None else None)
            finally:
                self._line.remove(ticket)
                self._guard.notify_all()
        try:
            return self._spawn(self._context)
        except BaseException:
            with self._guard:
                self._count -= 1
            raise

    def _free(self, sticky: str | None) -> _Worker | None:
        """An idle worker: the document's own, one that is nobody's, or, when no more may be
        started, the one not used for longest."""
        own = next((w for w in self._idle if sticky and w.sticky == sticky), None) or next(
            (w for w in self._idle if w.sticky is None), None
        )
        if own is None and self._idle and self._count >= self._size:
            own = min(self._idle, key=lambda w: w.used)
        if own is not None:
            self._idle.remove(own)
        return own

    def _give_back(self, worker: _Worker) -> None:
        with self._guard:
            self._idle.append(worker)
            self._guard.notify_all()

    def _drop(self, worker: _Worker) -> None:
        worker.process.kill()
        worker.process.join(5)
        worker.pipe.close()
        worker.alive.close()
        with self._guard:
            self._all.remove(worker)
            self._count -= 1
            self._guard.notify_all()

    def call(self, call: Call) -> Any:
        worker = self._take(call.sticky, call.cancel)
        worker.sticky, worker.used = call.sticky, time.monotonic()
        news: dict[str, Any] = {}
        try:
            if call.begun:
                call.begun()
            worker.pipe.send((call.task, call.request))
            deadline = time.monotonic() + call.seconds
            while True:
                if call.cancel is not None and call.cancel.is_set():
                    raise Cancelled("stopped on request")
                if worker.pipe.poll(_LOOK):
                    kind, answer = worker.pipe.recv()
                    if kind == "file":
                        worker.pipe.send(self._file(*answer))
                        continue
                    if kind == "progress":
                        news = answer
                        deadline = time.monotonic() + call.seconds
                        if call.progress:
                            call.progress(answer)
                        continue
                    break
                if time.monotonic() > deadline:
                    raise WorkerLost(
                        f"it took longer than {call.seconds:g} s and was stopped", news
                    )
        except (EOFError, BrokenPipeError, ConnectionResetError) as error:
            self._drop(worker)
            code = worker.process.exitcode
            raise WorkerLost(
                f"the geometry kernel crashed (exit {code})", news, crashed=True
            ) from error
        except BaseException:
            self._drop(worker)
            raise
        self._give_back(worker)
        if kind == "trouble":
            raise TaskTrouble(Report.model_validate(answer))
        return answer

    def _file(self, project: str, id: str) -> bytes | None:
        """A stored file a worker asks for; None when it is not there."""
        try:
            return self.files(project, id) if self.files else None
        except Trouble:
            return None

    def pids(self) -> list[int]:
        """Process ids of idle workers (those that answer nothing now)."""
        with self._guard:
            return [w.process.pid or 0 for w in self._idle]

    def close(self) -> None:
        with self._guard:
            self._closed = True
            # Those that are busy too: nobody waits for what they find any more.
            workers = list(self._all)
            self._guard.notify_all()
        for worker in workers:
            worker.process.kill()
            worker.process.join(2)
