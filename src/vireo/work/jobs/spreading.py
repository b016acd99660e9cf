"""A job of pieces spread over the machines of a cluster: each share goes to whichever is free, and goes to
another when that one is lost."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor, as_completed
from typing import Any

from vireo.work.jobs.pieces import Pieces, in_order
from vireo.work.lanes import ClusterLost, WorkerLost

Json = dict[str, Any]
#: Into how many shares a job falls for each machine: one that is quick takes more of them.
SHARES = 6


class Spread:
    """`ask` is what the job asks (kind, request, options), `run` has the task ``pieces`` done on the cluster
    and takes `progress`; `tell` hears how far the whole is."""

    def __init__(
        self, pieces: Pieces, ask: Json, run: Callable[..., Json], tell: Callable[[Json], None]
    ) -> None:
        self._pieces, self._ask, self._run, self._tell = pieces, ask, run, tell
        self._count = pieces.count(ask["request"])
        self._lock = threading.Lock()
        self._rows: dict[int, Json] = {}

    def answer(self, machines: int) -> Json:
        """The answer of the whole. Raises Cancelled, TaskTrouble, ClusterLost."""
        started = time.perf_counter()
        shares = dealt(self._count, max(machines, 1) * SHARES)
        with ThreadPoolExecutor(max(len(shares), 1), "share") as pool:
            waiting = [pool.submit(self._share, numbers) for numbers in shares]
            try:
                for done in as_completed(waiting):
                    done.result()
            except BaseException:
                for other in waiting:
                    other.cancel()
                raise
        if len(self._rows) < self._count:
            raise ClusterLost(f"the cluster answered {len(self._rows)} of {self._count}; ask again")
        seconds = time.perf_counter() - started
        return self._pieces.ended(self._ask["request"], in_order(self._rows), seconds)

    def _share(self, numbers: Sequence[int]) -> None:
        try:
            found = self._run(
                "pieces", {**self._ask, "numbers": list(numbers)}, progress=self._hear
            )
        except ClusterLost as lost:
            raise ClusterLost(
                f"{lost.text} ({len(self._rows)} of {self._count} were found)"
            ) from lost
        except WorkerLost:
            # One of them takes the worker down: the others are answered without it.
            if len(numbers) == 1:
                self._keep(numbers[0], self._pieces.lost(self._ask["request"], numbers[0]))
            else:
                for number in numbers:
                    self._share([number])
            return
        for number, row in found["rows"]:
            self._keep(number, row)

    def _hear(self, news: Json) -> None:
        if "row" in news:
            self._keep(*news["row"])

    def _keep(self, number: int, row: Json) -> None:
        with self._lock:
            self._rows[number] = row
            news = self._pieces.news(self._rows, self._count)
        self._tell(news)


def dealt(count: int, shares: int) -> list[range]:
    """So many numbers in shares of neighbours, which have most in common; no two differ by more than one.

    >>> dealt(7, 3)
    [range(0, 3), range(3, 5), range(5, 7)]
    >>> dealt(2, 5)
    [range(0, 1), range(1, 2)]
    """
    shares = min(shares, count)
    found, at = [], 0
    for n in range(shares):
        size = count // shares + (n < count % shares)
        found.append(range(at, at + size))
        at += size
    return found
