"""Work shared out among processes forked from this one: what it has loaded is there at once, and a
crash of the kernel costs one question, not the run."""

from __future__ import annotations

import os
import signal
from collections.abc import Callable, Iterator, Sequence
from multiprocessing.connection import Connection, Pipe, wait
from typing import TypeVar

from vireo.work.lifetime import die_with_parent

A = TypeVar("A")
R = TypeVar("R")
#: Fewer questions than this for each process are mostly quicker answered here.
_WORTH = 4


def cores() -> int:
    return len(os.sched_getaffinity(0))


def shared_out(
    asks: Sequence[A], answer: Callable[[A], R], count: int | None = None, worth: int = _WORTH
) -> Iterator[tuple[A, R | None]]:
    """Answers in the order they come; None where the process that was asked ended over it. What
    `answer` raises is raised here. Results travel pickled. Fewer than `worth` for each are answered
    here."""
    count = min(count or cores(), len(asks) // worth)
    if count < 2:
        for ask in asks:
            yield ask, answer(ask)
        return
    waiting = list(range(len(asks) - 1, -1, -1))
    busy: dict[Connection, tuple[int, int | None]] = {}

    def more() -> None:
        near, far = Pipe()
        pid = os.fork()
        if pid == 0:
            near.close()
            for other in busy:
                other.close()
            _serve(far, asks, answer)
        far.close()
        _hand_out(near, pid)

    def _hand_out(pipe: Connection, pid: int) -> None:
        at = waiting.pop() if waiting else None
        busy[pipe] = (pid, at)
        if at is not None:
            pipe.send(at)

    try:
        for _ in range(count):
            more()
        while any(at is not None for _, at in busy.values()):
            for pipe in wait([p for p, (_, at) in busy.items() if at is not None]):
                assert isinstance(pipe, Connection)
                pid, at = busy[pipe]
                assert at is not None
                try:
                    trouble, found = pipe.recv()
                except EOFError:
                    busy.pop(pipe)
                    os.waitpid(pid, 0)
                    if waiting:
                        more()
                    yield asks[at], None
                    continue
                if trouble is not None:
                    raise trouble
                _hand_out(pipe, pid)
                yield asks[at], found
    finally:
        for pipe, (pid, _) in busy.items():
            pipe.close()
            os.kill(pid, signal.SIGKILL)
            os.waitpid(pid, 0)


def _serve(pipe: Connection, asks: Sequence[A], answer: Callable[[A], R]) -> None:
    """Answer questions by number until the pipe closes; never returns."""
    die_with_parent()
    try:
        while True:
            at = pipe.recv()
            try:
                pipe.send((None, answer(asks[at])))
            except Exception as error:  # raised again where the answer was asked for
                pipe.send((error, None))
    finally:
        os._exit(0)
