"""Holes of components where they open towards each other: which lie face to face, and what fits both."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from vireo.core.assembly.pose import Floats, Pose
from vireo.core.assembly.seats import DrawnThread
from vireo.core.naming import Topology
from vireo.core.naming.topology import FaceInfo
from vireo.core.screws import SCREWS
from vireo.core.thread_classes import cut_into

#: Openings that lean to each other by less (rad) face each other.
LEANS = math.radians(5)
#: Bores of one body on an axis to this (mm) are one hole.
_COAXIAL = 1e-3
#: How far a hole may be off the tables (mm).
_OFF = 0.06
#: Of openings more than so many times as wide as each other the small one is elsewhere on purpose, but
#: where it is almost in the middle.
_MUCH_WIDER = 3.0


@dataclass(frozen=True)
class Mouth:
    """Where a hole opens in a flat face of a body: its place and the way out of the body (mm, the body's
    coordinates), radius of the bore behind it and of the narrowest on its axis, and how deep the hole
    is. `thread` is what is drawn in it, `face` the name of the bore."""

    at: Floats
    way: Floats
    radius: float
    narrow: float
    depth: float
    face: str
    thread: DrawnThread | None = None

    def placed(self, pose: Pose) -> Mouth:
        return replace(self, at=pose.out(self.at), way=pose.rotation @ self.way)


@dataclass(frozen=True)
class Bore:
    """A hollow cylinder: a place on its axis, its direction, where along that it begins and ends."""

    at: Floats
    way: Floats
    radius: float
    low: float
    high: float
    face: FaceInfo


def bores_of(topology: Topology, hollow: bool = True) -> list[Bore]:
    """Hollow cylinders of a body (or what is round outside) that are bounded by circles."""
    found = []
    ends: dict[int, list[Floats]] = {}
    for edge in topology.edges:
        if edge.kind == "circle" and edge.centre is not None:
            for i in edge.faces:
                ends.setdefault(i, []).append(np.array(edge.centre))
    for i, face in enumerate(topology.faces):
        if face.kind != "cylinder" or face.hollow != hollow or not face.direction:
            continue
        at, way = np.array(face.origin), np.array(face.direction)
        along = [float((p - at) @ way) for p in ends.get(i, ())]
        if len(along) > 1 and face.radius and max(along) - min(along) > 1e-6:
            found.append(Bore(at, way, face.radius, min(along), max(along), face))
    return found


def mouths_of(topology: Topology, threads: Sequence[DrawnThread] = ()) -> list[Mouth]:
    """Where the holes of a body open in its flat faces, through a chamfer or a sink too."""
    bores = bores_of(topology)
    found: list[Mouth] = []
    for at, way, radius in _rims(topology):
        # Only what lies behind the mouth, what is next to it first.
        on = [(_depths(b, at, way), b) for b in bores if _on(b, at, way)]
        behind = sorted((x for x in on if x[0][0] > -1e-6), key=lambda x: x[0])
        if not behind or behind[0][0][0] > max(radius, 1.0):
            continue
        (_, reach), first = behind[0]
        narrow = first.radius
        for (low, high), bore in behind[1:]:
            if low <= reach + 1e-6:
                reach, narrow = max(reach, high), min(narrow, bore.radius)
        thread = next((t for t in threads if _threaded(t, at, way)), None)
        found.append(Mouth(at, way, first.radius, narrow, reach, first.face.name, thread))
    return found


def _rims(topology: Topology) -> list[tuple[Floats, Floats, float]]:
    """Full circles where a flat face ends at something hollow: centre, the way the flat face looks,
    radius. A rim may come in pieces."""
    length: dict[tuple[int, tuple[float, ...], float], float] = {}
    for edge in topology.edges:
        if edge.kind != "circle" or edge.centre is None or edge.radius is None:
            continue
        flat = [i for i in edge.faces if topology.faces[i].kind == "plane"]
        wall = [i for i in edge.faces if topology.faces[i].kind != "plane"]
        if len(flat) == 1 and len(wall) == 1 and topology.faces[wall[0]].hollow:
            key = flat[0], tuple(round(v, 6) + 0.0 for v in edge.centre), round(edge.radius, 6)
            length[key] = length.get(key, 0.0) + edge.length
    return [
        (np.array(centre), np.array(topology.faces[flat].direction), radius)
        for (flat, centre, radius), all in length.items()
        if all > 0.98 * 2 * math.pi * radius and topology.faces[flat].direction is not None
    ]


def _on(bore: Bore, at: Floats, way: Floats) -> bool:
    off = bore.at - at
    return (
        abs(abs(float(bore.way @ way)) - 1.0) < 1e-9
        and float(np.linalg.norm(off - (off @ way) * way)) < _COAXIAL
    )


def _depths(bore: Bore, at: Floats, way: Floats) -> tuple[float, float]:
    """How deep below a mouth a bore begins and ends."""
    one, two = (-float((bore.at + s * bore.way - at) @ way) for s in (bore.low, bore.high))
    return min(one, two), max(one, two)


def _threaded(thread: DrawnThread, at: Floats, way: Floats) -> bool:
    axis = np.array(thread.frame.z)
    off = np.array(thread.frame.origin) - at
    return (
        abs(abs(float(axis @ way)) - 1.0) < 1e-6
        and float(np.linalg.norm(off - (off @ way) * way)) < 1e-3
    )


@dataclass(frozen=True)
class Meeting:
    """Two holes of two parts whose openings lie face to face: leaves by number, the mouths where they
    stand, how far their axes are apart there (mm) and by how much they lean (rad)."""

    i: int
    j: int
    a: Mouth
    b: Mouth
    offset: float
    lean: float

    @property
    def passes(self) -> float:
        """The thickest straight pin that goes through both at the parting (mm)."""
        return min(
            2 * self.a.narrow, 2 * self.b.narrow, self.a.narrow + self.b.narrow - self.offset
        )


def facing(
    mouths: Sequence[Sequence[Mouth]], pairs: Sequence[tuple[int, int]], gap: float
) -> list[Meeting]:
    """Openings of the two bodies of each pair (by number) that face each other, no further apart than
    `gap` (mm) along their axes and nearly in line; each with the one it is nearest to."""
    found = []
    for i, j in pairs:
        met = [m for a in mouths[i] for b in mouths[j] if (m := _meet(i, j, a, b, gap)) is not None]
        met.sort(key=lambda m: m.offset)
        taken: set[int] = set()
        for m in met:
            if id(m.a) not in taken and id(m.b) not in taken:
                taken |= {id(m.a), id(m.b)}
                found.append(m)
    return found


def _meet(i: int, j: int, a: Mouth, b: Mouth, gap: float) -> Meeting | None:
    lean = float(np.linalg.norm(np.cross(a.way, b.way)))
    if float(a.way @ b.way) > 0 or lean > math.sin(LEANS):
        return None
    between = b.at - a.at
    along = float(between @ a.way)
    offset = float(np.linalg.norm(between - along * a.way))
    small, large = sorted((a.radius, b.radius))
    # What leans opens by as much at the rim.
    if abs(along) > gap + lean * (small + large):
        return None
    if offset >= (2.0 if large <= _MUCH_WIDER * small else 0.5) * small:
        return None
    return Meeting(i, j, a, b, offset, math.asin(min(lean, 1.0)))


def serves(mouth: Mouth) -> dict[str, str]:
    """The screws a hole is made for, by size: ``clear`` (ISO 273, ASME B18.2.8) or ``thread``."""
    if mouth.thread is not None:
        d, p = 2 * mouth.thread.radius, mouth.thread.pitch
        return {
            n: "thread"
            for n, s in SCREWS.items()
            if abs(s.diameter - d) < 0.01 and abs(s.pitch - p) < 0.01
        }
    found: dict[str, str] = {}
    diameter = 2 * mouth.narrow
    for name, screw in SCREWS.items():
        fine, _, coarse = screw.clear
        if fine - _OFF <= diameter <= coarse + _OFF:
            found[name] = "clear"
        elif cut_into(screw, diameter) or abs(diameter - screw.diameter) < _OFF:
            found[name] = "thread"
    return found


def suiting(a: Mouth, b: Mouth) -> list[str]:
    """The screws that go through one of two holes and are held by the other or a nut behind it."""
    one, two = serves(a), serves(b)
    return [n for n in one if n in two and "clear" in (one[n], two[n])]
