"""News for open tabs: published once, read by every subscriber."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any


class Events:
    """`publish` never blocks; a subscriber that does not read loses its oldest news."""

    def __init__(self, most: int = 16) -> None:
        self._lock = threading.Lock()
        self._queues: list[queue.Queue[dict[str, Any] | None]] = []
        self._most = most
        self._hearers: list[Callable[[dict[str, Any]], None]] = []

    def hear(self, heard: Callable[[dict[str, Any]], None]) -> None:
        """Have all news told to somebody in this process, who must not take long over it."""
        self._hearers.append(heard)

    def publish(self, kind: str, **data: Any) -> None:
        for heard in self._hearers:
            heard({"kind": kind, **data})
        with self._lock:
            queues = list(self._queues)
        for q in queues:
            try:
                q.put_nowait({"kind": kind, **data})
            except queue.Full:
                q.get_nowait()
                q.put_nowait({"kind": kind, **data})

    @contextmanager
    def subscribe(self) -> Iterator[queue.Queue[dict[str, Any] | None]]:
        """A queue of news; None means: make room for another subscriber."""
        mine: queue.Queue[dict[str, Any] | None] = queue.Queue(maxsize=200)
        with self._lock:
            self._queues.append(mine)
            if len(self._queues) > self._most:
                self._queues.pop(0).put(None)
        try:
            yield mine
        finally:
            with self._lock:
                if mine in self._queues:
                    self._queues.remove(mine)
