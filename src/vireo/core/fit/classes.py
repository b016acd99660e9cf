"""What an overlap means to the engineer: a fault, a fit that is meant, a thread, or nothing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from vireo.core.documents.kinds.assembly import Assembly, Meant
from vireo.core.naming.grammar import original_of, path_of
from vireo.core.quantity import FormulaError, Quantity, evaluate
from vireo.core.quantity.units import LENGTH

#: `grown` is meant, but deeper than is allowed.
Class = Literal[
    "interference", "grown", "untold", "within", "intended", "thread", "touching", "clear"
]
#: Those that ask for something to be done.
FAULTS: tuple[Class, ...] = ("interference", "grown", "untold")


@dataclass(frozen=True)
class Allowed:
    """An overlap that is meant, and how deep it may be (mm); None where that cannot be told, for
    `trouble`."""

    meant: Meant
    depth: float | None
    trouble: str = ""

    def speaks_of(self, a: str, b: str) -> bool:
        """Whether it is about two solids, either way round."""
        m = self.meant
        return (stands_under(a, m.a) and stands_under(b, m.b)) or (
            stands_under(a, m.b) and stands_under(b, m.a)
        )


def stands_under(leaf: str, path: str) -> bool:
    """Whether a solid is of what stands at a path; copies are of what they were made of."""
    ids, wanted = path_of(leaf), path.split("/")
    return len(ids) >= len(wanted) and all(
        w in (id, original_of(id)) for id, w in zip(ids, wanted, strict=False)
    )


def allowed_in(document: Assembly, values: Mapping[str, Quantity]) -> list[Allowed]:
    """The overlaps that are meant in an assembly, with the values of its parameters."""
    found = []
    for meant in document.meant:
        try:
            depth = evaluate(meant.depth, values)
            if depth.dimension.plain:
                depth = evaluate(f"({meant.depth})*(1 mm)", values)
        except FormulaError as error:
            found.append(Allowed(meant, None, f"the depth that is allowed {error.text}"))
            continue
        if depth.dimension != LENGTH:
            found.append(Allowed(meant, None, "the depth that is allowed is no length"))
            continue
        found.append(Allowed(meant, depth.value))
    return found


def classed(row: Mapping[str, Any], allowed: Sequence[Allowed], tolerance: float) -> dict[str, Any]:
    """The class of a pair with why: ``class``, whether that is a ``fault``, and of what is meant its
    ``meant`` (id), ``reason``, ``allowed`` depth (mm) and ``trouble``."""
    found = _classed(row, allowed, tolerance)
    return {**found, "fault": found["class"] in FAULTS}


def _classed(
    row: Mapping[str, Any], allowed: Sequence[Allowed], tolerance: float
) -> dict[str, Any]:
    state, depth = row["state"], row["depth"]
    if state != "overlap":
        return {"class": state}
    mine = next((x for x in allowed if x.speaks_of(row["a"], row["b"])), None)
    if mine is not None:
        good = mine.depth is not None and depth <= mine.depth * (1 + 1e-6) + 1e-9
        return {
            "class": "intended" if good else "grown", "meant": mine.meant.id,
            "reason": mine.meant.reason, "allowed": mine.depth, "trouble": mine.trouble,
        }  # fmt: skip
    if row["thread"]:
        return {"class": "thread", "reason": "flanks of a drawn thread"}
    return {"class": "within" if depth <= tolerance else "interference"}
