"""Where hardware goes: what a picked mouth of a bore leads through, part after part."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from vireo.core.assembly.ends import EndTrouble, alike
from vireo.core.assembly.pose import Floats
from vireo.core.assembly.seats import Leaf
from vireo.core.documents.frames import JointEnd
from vireo.core.naming import Topology, make_pick, resolve

#: Bores on one axis to this (mm) are gone through by one screw.
_COAXIAL = 0.02
#: Parts further apart than this (mm) along the axis do not lie on each other.
_APART = 0.1


@dataclass(frozen=True)
class Stretch:
    """A bore along the axis: diameter, and how deep below the mouth it begins and ends (mm)."""

    diameter: float
    start: float
    end: float
    name: str


@dataclass(frozen=True)
class Site:
    """A mouth of a bore, or the end of a shaft: diameter, bores one behind the other below it, the
    mouth on the far side when it goes through, how many places are alike, and the numbers of those
    (from 2) that lead through something else."""

    diameter: float
    hollow: bool
    stretches: tuple[Stretch, ...]
    exit: dict[str, Any] | None
    alike: int
    unlike: tuple[int, ...] = ()

    @property
    def depth(self) -> float:
        return self.stretches[-1].end if self.stretches else 0.0

    def to_json(self) -> dict[str, Any]:
        return asdict(self)

    @staticmethod
    def from_json(raw: Mapping[str, Any]) -> Site:
        stretches = tuple(Stretch(**s) for s in raw["stretches"])
        return Site(**{**raw, "stretches": stretches, "unlike": tuple(raw["unlike"])})


@dataclass(frozen=True)
class _Bore:
    """A round hollow face on an axis: how deep below the mouth it begins and ends, and the edge that
    is its mouth on the far side, when it has one."""

    leaf: Leaf
    diameter: float
    start: float
    end: float
    exit: int | None


def site_of(end: JointEnd, leaves: Sequence[Leaf], topology: Callable[[Leaf], Topology]) -> Site:
    """What a picked round edge leads into. Raises EndTrouble for what is no round edge on a flat
    face, or is lost."""
    path = (end.component, *end.path)
    pick = end.pick
    leaf = next((x for x in leaves if x.path == path and pick and x.solid.id == pick.body), None)
    if pick is None or leaf is None:
        raise EndTrouble("pick the round edge of a hole, where the head is to sit")
    top = topology(leaf)
    found = resolve(pick, top)
    if found.index is None:
        raise EndTrouble(f"the picked {pick.kind} is no longer on the part")
    edge = top.edges[found.index] if pick.kind == "edge" else None
    if edge is None or edge.kind != "circle" or edge.radius is None or edge.centre is None:
        raise EndTrouble("pick the round edge of a hole, where the head is to sit")
    normal = _looks(top, found.index)
    if normal is None:
        raise EndTrouble("that edge lies in no flat face: pick the rim of a hole in a flat face")
    bored = _Bored(leaves, topology)
    chain = bored.below(leaf, np.array(edge.centre), normal)
    others = [bored.below(leaf, f.origin, f.axes[:, 2]) for f in alike(pick, top)]
    way_out = None
    if chain and chain[-1].exit is not None:
        last = chain[-1].leaf
        pick_out = make_pick(topology(last), last.solid.id, "edge", chain[-1].exit)
        way_out = JointEnd(component=last.path[0], path=last.path[1:], pick=pick_out).model_dump(
            mode="json"
        )
    return Site(
        diameter=2 * edge.radius,
        hollow=any(top.faces[i].kind == "cylinder" and top.faces[i].hollow for i in edge.faces),
        stretches=tuple(Stretch(b.diameter, b.start, b.end, b.leaf.name) for b in chain),
        exit=way_out, alike=len(others),
        unlike=tuple(k for k, other in enumerate(others, start=2) if not _same(chain, other)),
    )  # fmt: skip


def _same(one: Sequence[_Bore], other: Sequence[_Bore]) -> bool:
    """Whether two holes lead through bores of one size and depth, and both out or not."""
    return len(one) == len(other) and all(
        abs(a.diameter - b.diameter) < _COAXIAL and abs(a.start - b.start) < _APART
        and abs(a.end - b.end) < _APART and (a.exit is None) == (b.exit is None)
        for a, b in zip(one, other, strict=True)
    )  # fmt: skip


def _looks(topology: Topology, index: int) -> Floats | None:
    """The outward normal of the flat face a round edge lies in."""
    edge = topology.edges[index]
    way = np.array(edge.direction)
    for i in edge.faces:
        face = topology.faces[i]
        if face.kind == "plane" and face.direction is not None:
            n = np.array(face.direction)
            if abs(float(n @ way)) > 0.9999:
                return n
    return None


class _Bored:
    """All bores of some bodies where they stand: gathered once, asked for many axes."""

    def __init__(self, leaves: Sequence[Leaf], topology: Callable[[Leaf], Topology]) -> None:
        self._topology = topology
        self._of: list[tuple[Leaf, int]] = []
        at, way = [], []
        for leaf in leaves:
            r = leaf.pose.rotation
            for i, face in enumerate(topology(leaf).faces):
                if face.kind == "cylinder" and face.hollow and face.direction and face.radius:
                    self._of.append((leaf, i))
                    at.append(leaf.pose.out(np.array(face.origin)))
                    way.append(r @ np.array(face.direction))
        self._at = np.array(at).reshape(-1, 3)
        self._way = np.array(way).reshape(-1, 3)

    def below(self, leaf: Leaf, centre: Floats, normal: Floats) -> list[_Bore]:
        """The bores one behind the other below a mouth (in the coordinates of its body)."""
        axis, mouth = leaf.pose.rotation @ normal, leaf.pose.out(centre)
        away = self._at - mouth
        gap = np.linalg.norm(away - np.outer(away @ axis, axis), axis=1)
        on = np.flatnonzero((np.abs(np.abs(self._way @ axis) - 1.0) < 1e-6) & (gap < _COAXIAL))
        bores = [b for k in on if (b := self._bore(*self._of[k], mouth, axis)) is not None]
        chain: list[_Bore] = []
        reach = 0.0
        while True:
            after = [b for b in bores if b not in chain and abs(b.start - reach) < _APART
                     and b.end > reach + 1e-6]  # fmt: skip
            if not after:
                return chain
            # Of bores that begin together the narrowest says what fits.
            holder = chain[-1].leaf if chain else leaf
            here = min(after, key=lambda b: (b.leaf is not holder, b.diameter))
            chain.append(here)
            reach = here.end

    def _bore(self, leaf: Leaf, face: int, mouth: Floats, axis: Floats) -> _Bore | None:
        top, r = self._topology(leaf), leaf.pose.rotation
        depths, exits = [], {}
        for k, edge in enumerate(top.edges):
            if face not in edge.faces or edge.kind != "circle" or edge.centre is None:
                continue
            depth = -float((leaf.pose.out(np.array(edge.centre)) - mouth) @ axis)
            depths.append(depth)
            n = _looks(top, k)
            if n is not None and float((r @ n) @ axis) < -0.9999:
                exits[depth] = k
        if len(depths) < 2 or math.isclose(min(depths), max(depths), abs_tol=1e-9):
            return None
        start, end = min(depths), max(depths)
        radius = top.faces[face].radius or 0.0
        return _Bore(leaf, 2 * radius, start, end, exits.get(end))
