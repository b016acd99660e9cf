"""Where a component fits by its ports: places where ports of one name and kind come together."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from vireo.core.assembly.build import Built
from vireo.core.assembly.pose import Pose
from vireo.core.assembly.seats import BuiltPart, Library, Place, seat_of
from vireo.core.documents.frames import JointEnd
from vireo.core.documents.kinds.assembly import Assembly

#: Ports that come this near (mm, and the sine of an angle) come together.
_NEAR = 1e-4
#: More places than this nobody looks through.
MOST = 60


@dataclass(frozen=True)
class _Port:
    end: JointEnd
    place: Place
    #: Where it is: in its seat, and outside.
    inner: Pose
    pose: Pose
    title: str


@dataclass(frozen=True)
class Snap:
    """A place: the pairs of ports that come together there, and where the component stands then."""

    pairs: tuple[tuple[_Port, _Port], ...]
    pose: Pose

    def to_json(self) -> dict[str, Any]:
        """The commands that join it there, what it is called, and where the component goes."""
        commands = [
            {
                "do": "add_joint",
                "kind": "revolute" if mine.place.turns or other.place.turns else "fixed",
                "name": f"{mine.place.name} on {other.title}"[:80],
                "a": other.end.model_dump(mode="json"),
                "b": mine.end.model_dump(mode="json"),
            }
            for mine, other in self.pairs
        ]
        names = list(dict.fromkeys(f"{m.place.name} on {o.title}" for m, o in self.pairs))
        return {"title": ", ".join(names), "commands": commands, "placement": self.pose.to_json()}


def snaps_of(assembly: Assembly, built: Built, library: Library, component: str) -> list[Snap]:
    """All places where free ports of a component meet free ones of others, those with the most pairs
    first; a port that matches nothing makes nothing."""
    taken = {
        (end.component, end.path, end.datum)
        for joint in assembly.joints
        for end in (joint.a, joint.b)
        if end.datum and not joint.asleep
    }
    ports = [p for p in _ports(built, library)
             if (p.end.component, p.end.path, p.end.datum) not in taken]  # fmt: skip
    mine = [p for p in ports if p.end.component == component]
    others = [p for p in ports if p.end.component != component]
    index = {m.id: i for i, m in enumerate(built.mechanism.members)}
    if component not in index:
        return []
    found: list[Snap] = []
    for p in mine:
        for q in others:
            if not _fit(p, q) or len(found) >= MOST:
                continue
            pose = q.pose @ _FACING @ p.inner.inverse()
            pairs = [(a, b) for a in mine for b in others if _fit(a, b) and _meet(pose, a, b)]
            if not any(_same(pose, s.pose) for s in found):
                found.append(Snap(tuple(pairs), pose))
    return sorted(found, key=lambda s: -len(s.pairs))


#: Two ports face each other, their x the same way.
_FACING = Pose(np.zeros(3), np.array([0.0, 1.0, 0.0, 0.0]))


def _fit(a: _Port, b: _Port) -> bool:
    return a.place.name == b.place.name and a.place.sort == b.place.sort


def _meet(pose: Pose, a: _Port, b: _Port) -> bool:
    """Whether a port comes to lie on another, facing it, with a component at a pose."""
    at = pose @ a.inner @ _FACING
    gap = np.linalg.norm(at.p - b.pose.p)
    turned = at.rotation.T @ b.pose.rotation
    if a.place.turns or b.place.turns:
        return bool(gap < _NEAR and turned[2, 2] > 1 - _NEAR)
    return bool(gap < _NEAR and np.abs(turned - np.eye(3)).max() < _NEAR)


def _same(one: Pose, other: Pose) -> bool:
    return bool(
        np.linalg.norm(one.p - other.p) < _NEAR
        and np.abs(one.rotation - other.rotation).max() < _NEAR
    )


def _ports(built: Built, library: Library) -> Iterator[_Port]:
    index = {m.id: i for i, m in enumerate(built.mechanism.members)}
    known: set[tuple[str, ...]] = set()
    for leaf in built.leaves:
        part = library.get(leaf.document)
        # Copies go with their originals: nothing is joined to them.
        if leaf.path in known or leaf.carried or not isinstance(part, BuiltPart):
            continue
        known.add(leaf.path)
        seat = seat_of(index, leaf.path)
        if seat is None:
            continue
        stands = built.solution.poses[seat[0]]
        inner = stands.inverse() @ leaf.pose
        for id, place in part.places.items():
            if place.form != "port" or place.name == "":
                continue
            own = inner @ Pose.of(_matrix(place))
            end = JointEnd(component=leaf.path[0], path=leaf.path[1:], datum=id)
            yield _Port(end, place, own, stands @ own, leaf.name)


def _matrix(place: Place) -> Any:
    m = np.eye(4)
    m[:3, :3], m[:3, 3] = place.frame.matrix, place.frame.origin
    return m
