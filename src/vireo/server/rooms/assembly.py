"""Assemblies put together, driven and dragged. Solving is pure mathematics and runs here."""

from __future__ import annotations

import math
import threading
from collections import OrderedDict
from typing import Any

import numpy as np

from vireo.core.assembly import Mechanism, Solution, solve
from vireo.core.assembly import drag as drag_to
from vireo.core.assembly.pose import Pose
from vireo.core.trouble import BadInput
from vireo.server.api import Room, services
from vireo.server.views.assembly import AssemblyView, DriveRequest, DriveView, StudyView

room = Room("assembly")

_MECHANISMS: OrderedDict[tuple[str, int], Mechanism] = OrderedDict()
_LOCK = threading.Lock()


def _remember(id: str, revision: int, mechanism: dict[str, Any]) -> Mechanism:
    found = Mechanism.from_json(mechanism)
    with _LOCK:
        _MECHANISMS[id, revision] = found
        while len(_MECHANISMS) > 32:
            _MECHANISMS.popitem(last=False)
    return found


@room.route("GET", "/documents/<id>/assembly", answer=AssemblyView)
def assembly(id: str) -> Any:
    """An assembly with every component where its joints put it."""
    built = services().builds.build(id)
    _remember(id, built["revision"], built.pop("mechanism"))
    return built


@room.route("GET", "/documents/<id>/study", answer=StudyView)
def study(id: str) -> Any:
    """The part a study looks at, and what is wrong with its supports and loads."""
    return services().builds.build(id)


@room.route("POST", "/documents/<id>/drive", body=DriveRequest, answer=DriveView)
def drive(id: str, body: DriveRequest) -> Any:
    """Where everything goes when a joint is driven or a component is pulled; keeps nothing."""
    with _LOCK:
        mechanism = _MECHANISMS.get((id, body.revision))
    if mechanism is None:
        built = services().builds.build(id, body.revision)
        mechanism = _remember(id, body.revision, built["mechanism"])
    poses = [
        Pose(np.array(given.p), np.array(given.q))
        if (given := body.placements.get(m.id))
        else m.pose
        for m in mechanism.members
    ]
    mechanism = mechanism.with_poses(poses)
    solution, stopped = _moved(mechanism, body)
    return {
        "holds": solution.holds,
        "stopped": stopped,
        "components": [
            {
                "id": m.id, "matrix": pose.column_major(), "freedom": 0, "mass": 0.0,
                "placement": {"p": pose.p.tolist(), "q": pose.q.tolist()},
            }
            for m, pose in zip(mechanism.members, solution.poses, strict=True)
        ],
        "joints": {
            p.id: _shown(p.kind, solution.coordinates[p.id])
            for p in mechanism.pairs
            if p.id in solution.coordinates
        },
    }  # fmt: skip


def _shown(kind: str, value: float) -> float:
    return math.degrees(value) if kind == "revolute" else value


def _moved(mechanism: Mechanism, body: DriveRequest) -> tuple[Solution, str | None]:
    if body.joint is not None and body.value is not None:
        pair = next((p for p in mechanism.pairs if p.id == body.joint), None)
        if pair is None or pair.kind == "rigid":
            raise BadInput("there is no joint to drive here")
        value = math.radians(body.value) if pair.kind == "revolute" else body.value
        stopped = None
        for limit, over in ((pair.least, -1), (pair.most, 1)):
            if limit is not None and (value - limit) * over > 1e-12:
                value, stopped = limit, pair.id
        return solve(mechanism.with_value(pair.id, value), diagnose=False), stopped
    if body.component is None or body.grip is None or body.target is None:
        raise BadInput("say which joint goes where, or which point is pulled where")
    member = mechanism.index(body.component)
    if mechanism.members[member].anchored:
        return solve(mechanism, diagnose=False), None
    free = mechanism
    return drag_to(free, member, np.array(body.grip), np.array(body.target)), None
