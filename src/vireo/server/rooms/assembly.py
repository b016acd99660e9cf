"""Assemblies put together, driven and dragged. Solving is pure mathematics and runs here."""

from __future__ import annotations

from typing import Any

import numpy as np

from vireo.core.assembly import Mechanism, Solution, solve
from vireo.core.assembly import drag as drag_to
from vireo.core.assembly.pose import Pose
from vireo.core.assembly.solver import driven_within
from vireo.core.declared.joint import driven
from vireo.core.lately import Lately
from vireo.core.trouble import BadInput
from vireo.server.api import Room, services
from vireo.server.views.assembly import AssemblyView, DriveRequest, DriveView, StudyView
from vireo.server.views.documents import Trial

room = Room("assembly")

#: By the state of the assembly and of all it reaches: a part changed meanwhile is not dragged as
#: it was.
_MECHANISMS = Lately[str, Mechanism](32)


def _state(id: str, revision: int | None = None) -> str:
    work = services()
    found: str = work.builds.state(work.store.document(id, revision))
    return found


@room.route("GET", "/documents/<id>/assembly", answer=AssemblyView)
def assembly(id: str) -> Any:
    """An assembly with every component where its joints put it."""
    state = _state(id)
    built = services().builds.build(id)
    mechanism = built.pop("mechanism")
    _MECHANISMS.get(state, lambda: Mechanism.from_json(mechanism))
    return built


@room.route("POST", "/documents/<id>/assembly/try", body=Trial, answer=AssemblyView)
def try_together(id: str, body: Trial) -> Any:
    """Put together what the assembly would be after commands, keeping nothing."""
    work = services()
    record = work.store.document(id)
    changed, _ = work.builds.applied(record, body.commands)
    found = work.builds.show(id, record.project, changed)
    found.pop("mechanism")
    return {**found, "revision": record.revision}


@room.route("GET", "/documents/<id>/study", answer=StudyView)
def study(id: str) -> Any:
    """The part a study looks at, and what is wrong with its supports and loads."""
    return services().builds.build(id)


@room.route("POST", "/documents/<id>/drive", body=DriveRequest, answer=DriveView)
def drive(id: str, body: DriveRequest) -> Any:
    """Where everything goes when a joint is driven or a component is pulled; keeps nothing."""
    mechanism = _MECHANISMS.get(
        _state(id, body.revision),
        lambda: Mechanism.from_json(services().builds.build(id, body.revision)["mechanism"]),
    )
    mechanism = mechanism.with_poses(
        mechanism.placed(
            {id: Pose(np.array(x.p), np.array(x.q)) for id, x in body.placements.items()}
        )
    )
    solution, stopped = _moved(mechanism, body)
    kept = mechanism.placements(solution.poses)
    return {
        "holds": solution.holds,
        "stopped": stopped,
        "components": [
            {
                "id": m.id, "matrix": pose.column_major(), "freedom": 0, "mass": 0.0,
                "placement": kept[m.id].to_json(),
            }
            for m, pose in zip(mechanism.members, solution.poses, strict=True)
        ],
        "joints": {
            p.id: {c.name: c.shown(solution.coordinates[p.id][c.name]) for c in p.joint.coordinates}
            for p in mechanism.pairs
            if p.id in solution.coordinates
        },
    }  # fmt: skip


def _moved(mechanism: Mechanism, body: DriveRequest) -> tuple[Solution, str | None]:
    if body.joint is not None and body.value is not None:
        pair = mechanism.pair(body.joint)
        if pair is None:
            raise BadInput("there is no joint to drive here")
        coordinate = driven(pair.joint, pair.kind, body.coordinate)
        name, value, stopped = coordinate.name, coordinate.internal(body.value), None
        for limit, over in ((pair.least(name), -1), (pair.most(name), 1)):
            if limit is not None and (value - limit) * over > 1e-12:
                value, stopped = limit, pair.id
        found, barred = driven_within(mechanism, pair.id, name, value)
        return found, barred or stopped
    if body.component is None or body.grip is None or body.target is None:
        raise BadInput("say which joint goes where, or which point is pulled where")
    member = mechanism.index(body.component)
    if mechanism.members[member].anchored:
        return solve(mechanism, diagnose=False), None
    free = mechanism
    return drag_to(free, member, np.array(body.grip), np.array(body.target)), None
