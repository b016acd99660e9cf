"""Registries: kinds by their word. A kind is one file; reading its package fills the registry."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Iterator, Mapping
from difflib import get_close_matches
from typing import Generic, TypeVar

from vireo.core.trouble import BadInput

T = TypeVar("T")


def read_all(package: str) -> None:
    """Import every file of a package."""
    found = importlib.import_module(package)
    for module in pkgutil.iter_modules(found.__path__):
        importlib.import_module(f"{package}.{module.name}")


class Registry(Mapping[str, T], Generic[T]):
    """Kinds of one sort by word. `what` is what messages call one, `package` the folder with a
    file for each: read when the registry is first asked."""

    def __init__(self, what: str, package: str) -> None:
        self.what = what
        self._package = package
        self._items: dict[str, T] = {}
        self._full = False

    def add(self, word: str, item: T) -> T:
        """Raises ValueError for a word that is taken."""
        if word in self._items:
            raise ValueError(f"there already is a {self.what} called {word}")
        self._items[word] = item
        return item

    def enter(self, word: str) -> Callable[[T], T]:
        """`add` as a decorator."""
        return lambda item: self.add(word, item)

    def discard(self, word: str) -> None:
        """Take a kind out again: tests and the user's own kinds come and go."""
        self._items.pop(word, None)

    def _filled(self) -> dict[str, T]:
        if not self._full:
            self._full = True
            read_all(self._package)
        return self._items

    def called(self, word: str) -> T:
        """The kind of a word. Raises BadInput with what was meant, or what there is."""
        found = self._filled().get(word)
        if found is None:
            meant = get_close_matches(word, self._items, 1, 0.6)
            there = ", ".join(sorted(self._items))
            hint = f"did you mean {meant[0]}?" if meant else f"known: {there}"
            raise BadInput(f"there is no {self.what} called {word}; {hint}")
        return found

    def __getitem__(self, word: str) -> T:
        return self._filled()[word]

    def __iter__(self) -> Iterator[str]:
        return iter(self._filled())

    def __len__(self) -> int:
        return len(self._filled())
