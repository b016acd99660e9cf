"""What the steps of a part have made so far, as later ones find it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, TypeVar

from vireo.core.digest import digest
from vireo.core.kernel.measure import topology_of
from vireo.core.kernel.shape import Body
from vireo.core.lately import Lately
from vireo.core.naming import Pick, Topology
from vireo.core.part.datum import Dressed
from vireo.core.part.products.kind import Product, all_products, reader
from vireo.core.part.products.outcome import Outcome

S = TypeVar("S")

#: What a pick of a field stands for elsewhere; None where it is not among what is copied.
Repick = Callable[[Pick, str], Pick | None]


@dataclass
class Held:
    """A body as it stands between steps: its content key, loaded only when it is needed, and what
    is told of it without loading (form, volume mm3, area mm2, centre mm, inertia mm5)."""

    key: str
    load: Callable[[], Body]
    told: Mapping[str, Any] = field(default_factory=dict)

    @property
    def form(self) -> str:
        """The word of its form; what was kept before there were others is solid."""
        return str(self.told.get("form", "solid"))


@dataclass(frozen=True)
class OtherBody:
    """A body of another part, and how it is dressed there."""

    held: Held
    dress: Dressed

    @property
    def key(self) -> list[Any]:
        d = self.dress
        return [
            self.held.key, d.name, d.colour, sorted(d.faces.items()), d.tool, d.material, d.mass,
        ]  # fmt: skip


@dataclass
class Again:
    """How a step was built: its content key with what it read, building it with other values
    (mm, rad), and doing it again on bodies as they stand, under another mark, with its picks
    changed. `works_on` names the fields whose picks it treats."""

    key: str
    values: Mapping[str, float]
    dimensions: Mapping[str, str]
    build: Callable[[Mapping[str, float]], Outcome]
    before: State
    works_on: tuple[str, ...]
    redo: Callable[[State, str, Repick, Mapping[str, float]], Outcome]


@dataclass
class State:
    """Bodies as they stand, what else steps made (`of`), and what is known of the steps."""

    bodies: dict[str, Held] = field(default_factory=dict)
    #: What steps made, by the word of the product and the id of the step (or body).
    products: dict[str, dict[str, Any]] = field(default_factory=dict)
    #: Steps that failed, with their names, for messages of those that need them.
    failed: dict[str, str] = field(default_factory=dict)
    #: What steps were built with, to be built again with other numbers.
    again: dict[str, Again] = field(default_factory=dict)
    #: Kind and name of the steps so far.
    titles: dict[str, tuple[str, str]] = field(default_factory=dict)
    #: Bodies of another part by its document's id, or why there are none.
    other: Callable[[str], Mapping[str, OtherBody] | str] | None = None
    #: Mass of a body as it stands (g): its own, or by its material.
    weigh: Callable[[str], float] = lambda body: 0.0

    def of(self, product: Product[Any, S]) -> dict[str, S]:
        """What steps made of a product, by the id of the step (or body)."""
        return self.products.setdefault(product.word, {})

    def copy(self) -> State:
        """As it stands now, for a step to be built again later."""
        made = State(
            dict(self.bodies), dict(self.products), dict(self.failed), dict(self.again),
            dict(self.titles), self.other, self.weigh,
        )  # fmt: skip
        for product in all_products():
            product.copy(made)
        return made

    def key_of(self, ref: str) -> str | None:
        """The content key of what a step read: ``<word>:<id>``."""
        read, _, id = ref.partition(":")
        if read == "again":
            return self.again[id].key if id in self.again else None
        if read == "other":
            found = self.other(id) if self.other else ""
            return digest(found if isinstance(found, str) else {b: o.key for b, o in found.items()})
        product = reader(read)
        return product.key(self, read, id) if product else None


_TOPOLOGIES = Lately[str, Topology](256)


def topology_by_key(key: str, body: Body) -> Topology:
    """What a body's faces and edges are, worked out once per content key."""
    return _TOPOLOGIES.get(key, lambda: topology_of(body))
