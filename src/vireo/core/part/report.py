"""What became of a part and of each of its steps."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, TypeVar

from vireo.core.part.datum import Dressed, Mark
from vireo.core.part.products.kind import Product
from vireo.core.part.state import State
from vireo.core.quantity import Evaluated
from vireo.core.trouble import Report

S = TypeVar("S")


@dataclass
class StepReport:
    """What became of one step. Volume in mm3, mass and change in g, seconds of building."""

    id: str
    status: str
    bodies: list[str] = field(default_factory=list)
    volume: float = 0.0
    mass: float = 0.0
    change: float = 0.0
    seconds: float = 0.0
    kept: bool = False
    caption: str = ""
    values: dict[str, float] = field(default_factory=dict)
    #: Ids of the regions of its sketch that it takes.
    counted: tuple[str, ...] = ()
    notes: list[Report] = field(default_factory=list)
    error: Report | None = None
    misses_target: bool = False
    #: What it made that is shown with it, by the word of the product.
    products: dict[str, Any] = field(default_factory=dict)

    def made(self, product: Product[Any, S]) -> S | None:
        """What it made of a product."""
        found: S | None = self.products.get(product.word)
        return found


@dataclass
class PartBuild:
    """The part at its marker: report per step; of each body its content key, mass properties,
    name, colour (#rrggbb), opacity and the id of its material."""

    steps: list[StepReport]
    state: State
    parameters: dict[str, Evaluated]
    bodies: dict[str, dict[str, Any]]
    volume: float
    mass: float
    centre: tuple[float, float, float] | None
    area: float
    #: Threads that are only drawn, of faces that are still there.
    marks: dict[str, list[Mark]] = field(default_factory=dict)
    #: Colours of painted faces by body and index, and how many painted ones are gone.
    paints: dict[str, dict[int, str]] = field(default_factory=dict)
    lost_paints: int = 0
    #: What was said of bodies by hand or by what made them, faces by name.
    dresses: dict[str, Dressed] = field(default_factory=dict)

    @property
    def handed_over(self) -> dict[str, dict[str, Any]]:
        """The bodies that are no tools."""
        return {id: b for id, b in self.bodies.items() if not b["tool"]}

    @property
    def solids(self) -> dict[str, dict[str, Any]]:
        """Those of them that are solids: what can be printed, loaded, run into."""
        return {id: b for id, b in self.handed_over.items() if b["form"] == "solid"}
