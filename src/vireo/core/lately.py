"""A table that keeps what was asked for lately: a process that runs for weeks does not grow."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Lately(Generic[K, V]):
    """At most `most` values by key; the one not asked for longest goes first. Threads may share it.

    >>> squares = Lately[int, int](2)
    >>> [squares.get(k, lambda: k * k) for k in (1, 2, 3)]
    [1, 4, 9]
    >>> len(squares)
    2
    """

    def __init__(self, most: int) -> None:
        self._most = most
        self._kept: OrderedDict[K, V] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: K, make: Callable[[], V]) -> V:
        """The value of a key, made when it is not there."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        # Not under the lock: what takes long is made beside what is asked for meanwhile.
        return self.put(key, make())

    def put(self, key: K, value: V) -> V:
        """Keep a value under a key."""
        with self._lock:
            self._kept[key] = value
            self._kept.move_to_end(key)
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
        return value

    def __len__(self) -> int:
        return len(self._kept)
