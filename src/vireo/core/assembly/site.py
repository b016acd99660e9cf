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
    mouth on the far side when it goes through, how many places are alike."""

    diameter: float
    hollow: bool
    stretches: tuple[Stretch, ...]
    exit: dict[str, Any] | None
    alike: int

    @property
    def depth(self) -> float:
        return self.stretches[-1].end if self.stretches else 0.0

    def to_json(self) -> dict[str, Any]:
        return asdict(self)

    @staticmethod
    def from_json(raw: Mapping[str, Any]) -> Site:
        stretches = tuple(Stretch(**s) for s in raw["stretches"])
        return Site(**{**raw, "stretches": stretches})


@dataclass(frozen=True)
class _Bore:
    """A round hollow face on the axis, and its mouth that looks down, when it has one."""

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
    axis = leaf.pose.rotation @ normal
    mouth = leaf.pose.out(np.array(edge.centre))
    hollow = any(top.faces[i].kind == "cylinder" and top.faces[i].hollow for i in edge.faces)
    bores = [b for x in leaves for b in _bores(x, topology(x), mouth, axis)]
    chain: list[_Bore] = []
    reach = 0.0
    while True:
        after = [b for b in bores if b not in chain and abs(b.start - reach) < _APART
                 and b.end > reach + 1e-6]  # fmt: skip
        if not after:
            break
        # Of bores that begin together the narrowest says what fits.
        here = min(
            after, key=lambda b: (b.leaf is not (chain[-1].leaf if chain else leaf), b.diameter)
        )
        chain.append(here)
        reach = here.end
    last = chain[-1] if chain else None
    way_out = None
    if last is not None and last.exit is not None:
        there = topology(last.leaf)
        pick_out = make_pick(there, last.leaf.solid.id, "edge", last.exit)
        way_out = JointEnd(
            component=last.leaf.path[0], path=last.leaf.path[1:], pick=pick_out
        ).model_dump(mode="json")
    return Site(
        diameter=2 * edge.radius, hollow=hollow,
        stretches=tuple(Stretch(b.diameter, b.start, b.end, b.leaf.name) for b in chain),
        exit=way_out, alike=len(alike(pick, top)),
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


def _bores(leaf: Leaf, topology: Topology, mouth: Floats, axis: Floats) -> list[_Bore]:
    """The bores of a body that lie on the axis, by how deep they begin below the mouth."""
    r, found = leaf.pose.rotation, []
    for i, face in enumerate(topology.faces):
        if face.kind != "cylinder" or not face.hollow or face.direction is None:
            continue
        way = r @ np.array(face.direction)
        if abs(abs(float(way @ axis)) - 1.0) > 1e-6 or face.radius is None:
            continue
        away = leaf.pose.out(np.array(face.origin)) - mouth
        if float(np.linalg.norm(away - (away @ axis) * axis)) > _COAXIAL:
            continue
        depths, exits = [], {}
        for k, edge in enumerate(topology.edges):
            if i not in edge.faces or edge.kind != "circle" or edge.centre is None:
                continue
            depth = -float((leaf.pose.out(np.array(edge.centre)) - mouth) @ axis)
            depths.append(depth)
            n = _looks(topology, k)
            if n is not None and float((r @ n) @ axis) < -0.9999:
                exits[depth] = k
        if len(depths) < 2 or math.isclose(min(depths), max(depths), abs_tol=1e-9):
            continue
        start, end = min(depths), max(depths)
        found.append(_Bore(leaf, 2 * face.radius, start, end, exits.get(end)))
    return found
