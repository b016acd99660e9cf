"""What components weigh, and the numbers of that which formulas use."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from vireo.core.assembly.build import Built, Leaf
from vireo.core.documents.kinds.assembly import Assembly, Weighed
from vireo.core.kernel.measure import mass_properties
from vireo.core.measure.mass import Whole, dimension_weighed, weighed
from vireo.core.quantity import Quantity
from vireo.core.quantity.shown import Units, shown_in
from vireo.work.worker import Bench


def whole_of(bench: Bench, leaves: Sequence[Leaf], chosen: Collection[str]) -> Whole | None:
    """The mass properties of components, or of all, as their leaves stand."""
    bodies: list[dict[str, object]] = []
    for leaf in leaves:
        if leaf.solid.mass <= 0 or (chosen and leaf.path[0] not in chosen):
            continue
        turn = leaf.pose.rotation
        mass = mass_properties(bench.cache.body(leaf.solid.key))
        told = {"volume": leaf.solid.volume, "mass": leaf.solid.mass, "area": mass.area}
        bodies.append(
            {**told, "centre": leaf.pose.out(np.array(leaf.solid.centre)),
             "inertia": turn @ mass.inertia @ turn.T}
        )  # fmt: skip
    return weighed(bodies)


@dataclass(frozen=True)
class Number:
    """A weighed number and what it is, or why it is none."""

    of: Weighed
    value: Quantity | None
    trouble: str = ""

    def to_json(self, units: Units) -> dict[str, Any]:
        """`value` in the base units of formulas (mm, kg)."""
        return {
            **self.of.model_dump(mode="json"),
            "value": self.value.value if self.value else None,
            "shown": shown_in(self.value, units) if self.value else None,
            "trouble": self.trouble,
        }


def numbers_of(
    bench: Bench, document: Assembly, built: Built, standing: Callable[[str], Built]
) -> list[Number]:
    """All weighed numbers of an assembly; `standing` gives it in a position kept by name."""
    found = []
    for one in document.weighed:
        if one.position and all(p.id != one.position for p in document.positions):
            found.append(Number(one, None, "the position it is weighed in is no longer there"))
            continue
        stood = standing(one.position) if one.position else built
        there = {leaf.path[0] for leaf in stood.leaves}
        if gone := set(one.components) - there:
            words = (
                "a component it weighs is"
                if len(gone) == 1
                else f"{len(gone)} of those it weighs are"
            )
            found.append(Number(one, None, f"{words} no longer there"))
            continue
        whole = whole_of(bench, stood.leaves, one.components)
        if whole is None:
            found.append(Number(one, None, "there is nothing to weigh: no body, or no density"))
            continue
        found.append(Number(one, Quantity(_read(whole, one.what), dimension_weighed(one.what))))
    return found


def _read(whole: Whole, what: str) -> float:
    if what == "mass":
        return whole.mass * 1e-3
    axes = ["xyz".index(c) for c in what]
    if len(axes) == 1:
        return float(whole.centre[axes[0]])
    return float(whole.inertia[axes[0]][axes[1]]) * 1e-3
