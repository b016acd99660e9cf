"""The contract of a product of steps and the registry they enter by being read.

A product is one file here: how it is kept as JSON, what of it later steps read and by which content
key, how it enters the state, what the screen gets of it. Outcomes, states, records and reports hold
whatever products there are; nothing else lists them.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING, Any, ClassVar, Generic, Protocol, TypeVar

from vireo.core.kernel.shape import Body
from vireo.core.registry import Registry

if TYPE_CHECKING:
    from vireo.core.part.report import StepReport
    from vireo.core.part.state import State

#: What a step hands over.
V = TypeVar("V")
#: What stands in the state under the id of a step (or body).
S = TypeVar("S")


class Keeper(Protocol):
    """Keeps the shapes of a step under content keys while its record is written."""

    def keep(self, body: Body, *which: str | int) -> str:
        """The key of a shape; `which` tells it from the others of the step."""
        ...

    def load(self, key: str) -> Callable[[], Body]: ...


class Product(Generic[V, S]):
    """Subclass, set the class attributes, write what applies, decorate with `register`."""

    #: Under what it stands in outcomes and records; never changes once released.
    word: ClassVar[str]
    #: What steps read of it: words before the id in their reads.
    reads: ClassVar[tuple[str, ...]] = ()
    #: When it is put into the state: what others speak of comes first.
    order: ClassVar[int] = 50

    def empty(self) -> V:
        """What a step has that makes none."""
        raise NotImplementedError

    def record(self, made: V, keeper: Keeper) -> Any:
        """As JSON; shapes are kept and told by their keys."""
        raise NotImplementedError

    def put(self, raw: Any, step: str, state: State, report: StepReport, keeper: Keeper) -> None:
        """Put what a step made, as recorded, into the state and the report of the step."""
        raise NotImplementedError

    def copy(self, state: State) -> None:
        """Give a copied state what it may change without the other noticing."""
        state.products[self.word] = dict(state.of(self))

    def key(self, state: State, read: str, id: str) -> str | None:
        """The content key of what is read: None when it is not there."""
        return None

    def view(self, report: StepReport) -> dict[str, Any]:
        """What the screen gets of it with its step."""
        return {}


PRODUCTS: Registry[Product[Any, Any]] = Registry("product of steps", "vireo.core.part.products")
P = TypeVar("P", bound="type[Product[Any, Any]]")


def register(cls: P) -> P:
    PRODUCTS.add(cls.word, cls())
    return cls


def all_products() -> Iterable[Product[Any, Any]]:
    return sorted(PRODUCTS.values(), key=lambda p: p.order)


_READERS: dict[str, Product[Any, Any]] = {}


def reader(word: str) -> Product[Any, Any] | None:
    """The product that answers a word of reads."""
    if word not in _READERS:
        found = {read: product for product in PRODUCTS.values() for read in product.reads}
        _READERS.clear()
        _READERS.update(found)
    return _READERS.get(word)
