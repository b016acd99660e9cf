"""Assemblies put together, driven and dragged. Solving is pure mathematics and runs here."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from vireo.core.assembly import Mechanism, Solution, solve
from vireo.core.assembly import drag as drag_to
from vireo.core.assembly.nesting import dissolved, gathered
from vireo.core.assembly.pose import Pose
from vireo.core.assembly.solver import driven_within
from vireo.core.declared.joint import driven
from vireo.core.documents.kind import Json, dump, kind_of
from vireo.core.documents.kinds.assembly import Assembly, Component
from vireo.core.lately import Lately
from vireo.core.quantity import ANGLE
from vireo.core.trouble import BadInput, NotAllowed
from vireo.server.api import Room, services
from vireo.server.rooms.documents import tell
from vireo.server.views.assembly import (
    ApartView,
    AssemblyView,
    Dissolve,
    DriveRequest,
    DriveView,
    Gather,
    KeptReplace,
    Opposite,
    Replace,
    ReplaceView,
    SnapsView,
    StudyView,
)
from vireo.server.views.documents import DocumentView, Trial
from vireo.store.store import DocumentRecord, new_id
from vireo.work.opposite import opposed

room = Room("assembly")

#: By the state of the assembly and of all it reaches: a part changed meanwhile is not dragged as
#: it was.
_MECHANISMS = Lately[str, Mechanism](32)
_REQUESTS = Lately[str, tuple[str, Json]](8)


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


@room.route("POST", "/documents/<id>/assembly/gather", body=Gather, answer=DocumentView)
def gather(id: str, body: Gather) -> Any:
    """Make chosen components an assembly of their own, in their place."""
    work = services()
    record = work.store.document(id)
    document = _fresh(record, body.base)
    made = new_id("d")
    inner, outer = gathered(document, body.components, body.name, made)
    work.store.create_document(record.project, inner, made)
    return _kept(id, body.base, outer, f"make {body.name} of components")


@room.route("POST", "/documents/<id>/assembly/dissolve", body=Dissolve, answer=DocumentView)
def dissolve(id: str, body: Dissolve) -> Any:
    """Put what an assembly inside holds in its place. Its document stays in the project."""
    work = services()
    record = work.store.document(id)
    document = _fresh(record, body.base)
    whole = document.component(body.component)
    inner = whole and work.builds.around(record.project).other(whole.key)
    if whole is None or not isinstance(inner, Assembly):
        raise NotAllowed("only an assembly can be dissolved into its components")
    views = {c["id"]: c["placement"] for c in work.builds.build(id)["components"]}

    def pose(said: Any) -> Pose:
        return Pose(np.array(said["p"]), np.array(said["q"]))

    if whole.moving:
        start = f"{whole.id}/"
        poses = {k[len(start) :]: pose(v) for k, v in views.items() if k.startswith(start)}
    else:
        # As the member of it that stands here, whatever it is looked at as elsewhere.
        stood = work.builds.show(whole.document, record.project, inner)["components"]
        poses = {c["id"]: pose(c["placement"]) for c in stood}
    outer = dissolved(document, whole.id, inner, poses, pose(views[whole.id]))
    return _kept(id, body.base, outer, f"dissolve {whole.name}")


@room.route("POST", "/documents/<id>/assembly/opposite", body=Opposite, answer=DocumentView)
def opposite(id: str, body: Opposite) -> DocumentView:
    """Make the opposite parts of components, as in a mirror, and put them on the other side."""
    work = services()
    record = work.store.document(id)
    _fresh(record, body.base)
    parts, commands = opposed(work.builds, work.store, record, body.components, body.of, body.axis)
    for made, part in parts:
        work.store.create_document(record.project, part, made)
    changed, _ = work.builds.applied(record, commands)
    kept = work.store.commit(id, body.base, changed, "make the opposite", {"commands": commands})
    work.events.publish("shelf")
    return tell(kept)


@room.route("POST", "/documents/<id>/assembly/replace/look", body=Replace, answer=ReplaceView)
def look_replaced(id: str, body: Replace) -> Any:
    """What another document in place of a component's keeps of what holds it, and how all would
    stand; keeps nothing."""
    work = services()
    record = work.store.document(id)
    ends, command = _replacing(record, body)
    changed, _ = work.builds.applied(record, [command])
    found = work.builds.show(id, record.project, changed)
    found.pop("mechanism")
    return {"ends": ends, "assembly": {**found, "revision": record.revision}}


@room.route("POST", "/documents/<id>/assembly/replace", body=KeptReplace, answer=DocumentView)
def replaced(id: str, body: KeptReplace) -> DocumentView:
    """Put another document in place of a component's. What held it and is not found again is told
    where it is, with the best there is to put in its place."""
    work = services()
    record = work.store.document(id)
    _fresh(record, body.base)
    _, command = _replacing(record, body)
    changed, _ = work.builds.applied(record, [command])
    made = work.store.commit(id, body.base, changed, "replace", {"commands": [command]})
    return tell(made)


@room.route("GET", "/documents/<id>/assembly/ports", answer=SnapsView, query={"component": str})
def snaps(id: str, component: str | None) -> Any:
    """Where a component fits by its ports: places where those of one name and kind come together."""
    work = services()
    record = work.store.document(id)
    if not isinstance(record.document, Assembly):
        raise NotAllowed("only an assembly has components")
    if component is None:
        raise BadInput("say which component is to fit")
    _, request = work.builds.request(record.project, record.document)
    ask = {"request": request, "component": component}
    return {"places": work.builds.run("snaps", ask, sticky=record.id)}


@room.route("GET", "/documents/<id>/assembly/apart", answer=ApartView)
def apart(id: str) -> Any:
    """The assembly taken apart along its joints, step by step."""
    work = services()
    record = work.store.document(id)
    if not isinstance(record.document, Assembly):
        raise NotAllowed("only an assembly can be taken apart")
    _, request = work.builds.request(record.project, record.document)
    return {"steps": work.builds.run("apart", request, sticky=record.id)}


def _replacing(record: DocumentRecord, body: Replace) -> tuple[list[Json], Json]:
    """What became of every end, and the command that does it."""
    work = services()
    document = record.document
    if not isinstance(document, Assembly):
        raise NotAllowed("only an assembly has components")
    component = document.component(body.component)
    if component is None:
        raise NotAllowed(f"there is no component {body.component} in this document")
    around = work.builds.around(record.project)
    new = around.other(body.document)
    if new is None or not kind_of(new).placeable:
        raise BadInput("what it is replaced by is no part or assembly of this project")
    old = around.other(component.document)
    command: Json = {"do": "replace_component", "id": body.component, "document": body.document}
    if old is not None and component.name.startswith(old.name):
        command["name"] = new.name
    # Circles are told before anything is built.
    work.builds.applied(record, [command])
    trial = document.model_copy(
        update={"components": (*document.components, Component(
            id="c0", name="new", document=body.document))}
    )  # fmt: skip
    _, request = work.builds.request(record.project, trial)
    request["document"] = dump(document)
    ask = {"request": request, "component": body.component, "with": body.document}
    ends: list[Json] = work.builds.run("replacement", ask, sticky=record.id)
    command["ends"] = [
        {"id": e["id"], "side": e["side"], "end": e["end"]} for e in ends if e["how"] != "lost"
    ]
    return ends, command


def _fresh(record: DocumentRecord, base: int) -> Assembly:
    """The assembly of a record, where it is still at the revision it was seen at."""
    if record.revision != base:
        # The store finds the words for what happened since.
        services().store.commit(record.id, base, record.document, "", None)
    if not isinstance(record.document, Assembly):
        raise NotAllowed("only an assembly has components")
    return record.document


def _kept(id: str, base: int, outer: Assembly, label: str) -> DocumentView:
    made = services().store.commit(id, base, outer, label[:80], None)
    services().events.publish("shelf")
    return tell(made)


@room.route("POST", "/documents/<id>/drive", body=DriveRequest, answer=DriveView)
def drive(id: str, body: DriveRequest) -> Any:
    """Where everything goes when a joint is driven or a component is pulled; keeps nothing."""
    state = _state(id, body.revision)
    mechanism = _MECHANISMS.get(
        state,
        lambda: Mechanism.from_json(services().builds.build(id, body.revision)["mechanism"]),
    )
    mechanism = mechanism.with_poses(
        mechanism.placed(
            {id: Pose(np.array(x.p), np.array(x.q)) for id, x in body.placements.items()}
        )
    )
    solution, stopped = _moved(mechanism, body)
    meets = None
    if body.contact and solution.holds:
        solution, meets = _met(id, body.revision, state, mechanism, solution)
    kept = mechanism.placements(solution.poses)
    return {
        "holds": solution.holds,
        "stopped": stopped,
        "meets": meets,
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


def _pulled_off(mechanism: Mechanism) -> bool:
    """Whether something that is held at a value stands elsewhere."""
    poses = [m.pose for m in mechanism.members]
    for pair in mechanism.pairs:
        now = mechanism.coordinates(pair, poses) if pair.values and not pair.firm else {}
        for name, value in now.items():
            off = value - pair.values.get(name, value)
            c = pair.joint.coordinate(name)
            whole = 2 * np.pi if c is not None and c.dimension == ANGLE else 0.0
            off -= whole * round(off / whole) if whole else 0.0
            if abs(off) > 1e-5:
                return True
    return False


def _met(
    id: str, revision: int, state: str, mechanism: Mechanism, solution: Solution
) -> tuple[Solution, Json | None]:
    """A solution as far as nothing is met on the way to it, and what is."""
    work = services()

    def asked() -> tuple[str, Json]:
        record = work.store.document(id, revision)
        task, request = work.builds.request(record.project, record.document)
        return task, request

    kind, request = _REQUESTS.get(state, asked)
    found = work.builds.run(
        "drag_step",
        {
            "kind": kind, "request": request, "state": state,
            "here": _placements(mechanism, [m.pose for m in mechanism.members]),
            "there": _placements(mechanism, solution.poses),
        },
        sticky=id,
    )  # fmt: skip
    poses = [Pose(np.array(p["p"]), np.array(p["q"])) for p in found["poses"]]
    coordinates = {p.id: mechanism.coordinates(p, poses) for p in mechanism.pairs}
    who = found["met"] or found["nearest"]
    meets = who and {
        "a": who[0], "b": who[1], "met": found["met"] is not None, "gap": found["gap"],
        "faces_a": found["faces_a"], "faces_b": found["faces_b"],
    }  # fmt: skip
    return replace(solution, poses=poses, coordinates=coordinates), meets


def _placements(mechanism: Mechanism, poses: Sequence[Pose]) -> Json:
    return {id: pose.to_json() for id, pose in mechanism.placements(poses).items()}


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
    if body.contact and body.component is None and body.joint is None:
        # Only made ready.
        return solve(mechanism, diagnose=False), None
    if body.component is None or body.grip is None or body.target is None:
        raise BadInput("say which joint goes where, or which point is pulled where")
    member = mechanism.index(body.component)
    if mechanism.members[member].anchored:
        return solve(mechanism, diagnose=False), None
    grip, target = np.array(body.grip), np.array(body.target)
    # What was pulled off its value already would only be pulled back to it.
    if not _pulled_off(mechanism):
        found = drag_to(mechanism, member, grip, target)
        was, came = mechanism.members[member].pose.out(grip), found.poses[member].out(grip)
        if np.linalg.norm(came - was) > 1e-4 * np.linalg.norm(target - was):
            return found, None
    # What is held altogether is pulled from where it was driven to; its value follows.
    return drag_to(mechanism.loosened(""), member, grip, target), None
