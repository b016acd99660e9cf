"""A table that keeps what was asked for lately: a process that runs for weeks does not grow."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Lately(Generic[K, V]):
    """At most `most` values by key; the one not asked for longest goes first.

    >>> squares = Lately[int, int](2)
    >>> [squares.get(k, lambda: k * k) for k in (1, 2, 3)]
    [1, 4, 9]
    >>> len(squares)
    2
    """

    def __init__(self, most: int) -> None:
        self._most = most
        self._kept: OrderedDict[K, V] = OrderedDict()

    def get(self, key: K, make: Callable[[], V]) -> V:
        """The value of a key, made when it is not there."""
        if key in self._kept:
            self._kept.move_to_end(key)
            return self._kept[key]
        value = self._kept[key] = make()
        while len(self._kept) > self._most:
            self._kept.popitem(last=False)
        return value

    def __len__(self) -> int:
        return len(self._kept)
