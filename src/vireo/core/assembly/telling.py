"""What a solution says about joints: who cannot hold together, who stands beyond its limits."""

from __future__ import annotations

from collections.abc import Mapping

from vireo.core.assembly.mechanism import Mechanism
from vireo.core.assembly.solver import Solution, beyond, droppable
from vireo.core.quantity import ANGLE, LENGTH, Quantity, format_quantity
from vireo.core.trouble import Offer, Report


def judge(
    titles: Mapping[str, str],
    mechanism: Mechanism,
    solution: Solution,
    troubles: dict[str, Report],
) -> None:
    """Joints (`titles` by id) that contradict each other, and joints beyond their limits."""
    if not solution.holds:
        _tell_conflict(mechanism, solution, titles, troubles)
    for (id, name), limit in beyond(mechanism, solution.coordinates).items():
        pair = mechanism.pair(id)
        coordinate = pair.joint.coordinate(name) if pair else None
        if coordinate is None:
            continue
        dimension = coordinate.dimension
        here = format_quantity(Quantity(solution.coordinates[id][name], dimension), None, 2)
        end = format_quantity(Quantity(limit, dimension), None, 2)
        troubles.setdefault(
            id,
            Report(code="limit", text=f"{titles[id]} stands at {here}, beyond its limit {end}",
                   where=[f"joint:{id}"]),
        )  # fmt: skip


def _tell_conflict(
    mechanism: Mechanism, solution: Solution, titles: Mapping[str, str], troubles: dict[str, Report]
) -> None:
    """Who cannot hold together with whom, by how much, and which to do without."""
    names = [titles[i] for i in solution.broken if i in titles]
    spare = droppable(mechanism, solution.broken)
    offers = [
        Offer(label=f"Put {titles[i]} to sleep",
              commands=[{"do": "edit_joint", "id": i, "fields": {"asleep": True}}])
        for i in spare if i in titles
    ]  # fmt: skip
    for i in solution.broken:
        others = ", ".join(n for n in names if n != titles[i]) or "how the components stand"
        text = f"{titles[i]} cannot hold together with {others}"
        if i in solution.gaps:
            size, length = solution.gaps[i]
            gap = Quantity(size, LENGTH if length else ANGLE)
            text += f": {format_quantity(gap, None, 2)} off at the best"
        if spare and i not in spare:
            text += f"; it would hold without {' or without '.join(titles[k] for k in spare)}"
        troubles.setdefault(
            i,
            Report(code="over_constrained", text=text, offers=offers,
                   where=[f"joint:{k}" for k in solution.broken]),
        )  # fmt: skip
