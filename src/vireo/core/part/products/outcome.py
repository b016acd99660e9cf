"""What one step made."""

from __future__ import annotations

from typing import Any, TypeVar

from vireo.core.part.products.kind import PRODUCTS, Product

V = TypeVar("V")


class Outcome:
    """What a step hands over, by the words of the products: ``Outcome(bodies={...})``,
    ``outcome.notes.append(...)``. What it does not name it makes none of."""

    def __init__(self, **made: Any) -> None:
        self._made: dict[str, Any] = {}
        for word, value in made.items():
            setattr(self, word, value)

    def __getattr__(self, word: str) -> Any:
        if word.startswith("_"):
            raise AttributeError(word)
        return self.of(PRODUCTS[word]) if word in PRODUCTS else _unknown(word)

    def __setattr__(self, word: str, value: Any) -> None:
        if word.startswith("_"):
            super().__setattr__(word, value)
        elif word in PRODUCTS:
            self._made[word] = value
        else:
            _unknown(word)

    def of(self, product: Product[V, Any]) -> V:
        """What it made of a product."""
        if product.word not in self._made:
            self._made[product.word] = product.empty()
        found: V = self._made[product.word]
        return found


def _unknown(word: str) -> Any:
    raise AttributeError(f"a step makes no {word}; it may make {', '.join(sorted(PRODUCTS))}")
