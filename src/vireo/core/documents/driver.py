"""The contract of a driver and the registry they enter by being read.

A driver is something of a document that can differ between its members: a parameter, a number of a
step, whether a step is asleep. A kind of them is one file in `vireo.core.documents.drivers`; the table
of variants, options and all that offers columns ask here.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar, Generic, Literal, TypeVar

from vireo.core.documents.base import Cell, Document
from vireo.core.registry import Registry

D = TypeVar("D", bound=Document)
Of = Mapping[str, str]
#: How a cell is shown and typed.
CellKind = Literal["number", "flag", "choice", "text", "material", "colour", "picks", "member"]


@dataclass(frozen=True)
class Driven:
    """What a driver drives, in words. Numbers tell their dimension (None where it is not known), choices
    the words of their values; `where` is what messages light up."""

    name: str
    cell: CellKind
    where: str
    dimension: str | None = None
    words: Mapping[str, str] = field(default_factory=dict)


class Driver(Generic[D]):
    """Subclass, set the class attributes, write the three, decorate with `register`."""

    #: Stored in documents; never changes once released.
    kind: ClassVar[str]
    #: What of a document it needs to be told.
    of: ClassVar[tuple[str, ...]]
    #: Kinds of document it works on; all when none is named.
    on: ClassVar[tuple[str, ...]] = ()
    #: Whether it decides what else of the project is needed: materials, other documents.
    reaches: ClassVar[bool] = True

    def driven(self, document: D, of: Of) -> Driven | None:
        """What it drives; None where that is not there or cannot be driven."""
        raise NotImplementedError

    def read(self, document: D, of: Of) -> Cell:
        """What it is set to."""
        raise NotImplementedError

    def write(self, document: D, of: Of, cell: Any) -> D:
        """The document with it set. Raises BadInput for what it does not take."""
        raise NotImplementedError


DRIVERS: Registry[Driver[Any]] = Registry("driver", "vireo.core.documents.drivers")
K = TypeVar("K", bound="type[Driver[Any]]")


def register(cls: K) -> K:
    DRIVERS.add(cls.kind, cls())
    return cls


def put(model: Any, **changes: Any) -> Any:
    """A copy with changes, validated again."""
    return type(model).model_validate({**dict(model), **changes})


def swapped(items: tuple[Any, ...], old: Any, new: Any) -> tuple[Any, ...]:
    """Items with one in another's place."""
    return tuple(new if x is old else x for x in items)
