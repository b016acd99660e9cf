"""An assembly document put together: what moves is solved, every leaf stands, copies are made."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from vireo.core.assembly.copies import Spread, spread
from vireo.core.assembly.joining import Holds, joined
from vireo.core.assembly.mechanism import Mechanism
from vireo.core.assembly.pose import Floats, Pose
from vireo.core.assembly.seats import (
    BuiltPart,
    Entry,
    Leaf,
    Library,
    Seat,
    Solid,
    Stood,
    scene_of,
    standing,
)
from vireo.core.assembly.solver import Solution, driven_home, solve, within_limits
from vireo.core.assembly.telling import judge
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.trouble import Report

__all__ = ["Built", "BuiltPart", "Leaf", "Library", "Solid", "build_assembly", "mass_of"]


@dataclass
class Built:
    """`copies` are the numbers of the copies there are, by the path to what makes them; `inner`
    those of assemblies inside, by document."""

    mechanism: Mechanism
    solution: Solution
    leaves: list[Leaf]
    document: Assembly
    seats: list[Seat] = field(default_factory=list)
    entries: list[Entry] = field(default_factory=list)
    troubles: list[Report] = field(default_factory=list)
    joint_troubles: dict[str, Report] = field(default_factory=dict)
    spread: Spread = field(default_factory=Spread)

    @cached_property
    def _number(self) -> dict[str, int]:
        return {m.id: i for i, m in enumerate(self.mechanism.members)}

    def leaves_of(self, component: str) -> list[Leaf]:
        return [leaf for leaf in self.leaves if leaf.path[0] == component]

    def stand(self, leaf: Leaf, poses: Sequence[Pose]) -> Pose:
        """Where a leaf stands when the members do as given. A copy goes with its original, and by
        its motion as that is carried along by what it is about."""
        at, solved = self._number, self.solution.poses
        own = at[leaf.member]
        before, now = solved[own].matrix(), poses[own].matrix()
        for carry in leaf.carried:
            turned = np.eye(4)
            if carry.about is not None:
                k = at[carry.about]
                turned = poses[k].matrix() @ _back(solved[k].matrix())
            before = carry.matrix @ before
            now = turned @ carry.matrix @ _back(turned) @ now
        return Pose.of(now @ _back(before) @ leaf.pose.matrix())


def _back(rigid: Floats) -> Floats:
    """The inverse of a rigid 4x4 matrix, mirrored or not."""
    made = np.eye(4)
    made[:3, :3] = rigid[:3, :3].T
    made[:3, 3] = -rigid[:3, :3].T @ rigid[:3, 3]
    return made


def build_assembly(
    assembly: Assembly, library: Library, known: dict[str, Built] | None = None
) -> Built:
    """Derive the joints' frames, solve, and place every leaf. Troubles are told, not raised.

    `known` are assemblies built already, by document: equal ones are solved once.
    """
    known = {} if known is None else known

    def alone(id: str, inner: Assembly) -> Stood:
        if id not in known:
            known[id] = build_assembly(inner, library, known)
        found = known[id]
        ids = (m.id for m in found.mechanism.members)
        return Stood(found.leaves, dict(zip(ids, found.solution.poses, strict=True)))

    scene = scene_of(assembly, library, alone)
    members = tuple(seat.member() for seat in scene.seats)
    holds = Holds(library, scene.seats, scene.index())
    ties = joined(scene.entries, holds, members)
    whole = Mechanism(members, tuple(ties.pairs), tuple(ties.couplings), ties=tuple(scene.ties))
    mechanism = driven_home(whole)
    # What its ends themselves bound: sizes of conditions, ways that have ends.
    bounded = {p.id for p in ties.pairs if p.firm or p.way is not None}
    solution = within_limits(mechanism, solve(mechanism), bounded)
    judge({e.joint.id: e.joint.name for e in scene.entries}, mechanism, solution, ties.troubles)
    made = spread(scene, holds, solution.poses, list(standing(scene.seats, solution.poses)))
    return Built(
        mechanism, solution, made.leaves, assembly, scene.seats,
        scene.entries, scene.troubles, ties.troubles, made,
    )  # fmt: skip


def mass_of(leaves: list[Leaf]) -> tuple[float, Floats | None]:
    """Mass in g and centre of gravity in mm of leaves together."""
    total = sum(leaf.solid.mass for leaf in leaves)
    if total <= 0:
        return 0.0, None
    moment: Any = sum(
        leaf.solid.mass * leaf.pose.out(np.array(leaf.solid.centre)) for leaf in leaves
    )
    return total, np.asarray(moment / total)
