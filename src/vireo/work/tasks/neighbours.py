"""Tasks on parts made in place: what they take from around them, and whether that is still so."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from vireo.core.assembly.build import Built, Leaf
from vireo.core.assembly.joining import Holds
from vireo.core.assembly.pose import Floats, Pose
from vireo.core.declared.joint import EndTrouble
from vireo.core.documents.frames import JointEnd
from vireo.core.geometry import Vector
from vireo.core.kernel.lending import lent, same_shape, taken_up
from vireo.core.kernel.locate import length_of
from vireo.core.kernel.measure import area_of, box_of
from vireo.core.kernel.shape import Body
from vireo.core.naming import Pick, resolve
from vireo.core.naming.grammar import joined
from vireo.core.steps.neighbours import Frozen, Seen
from vireo.core.trouble import BadInput, Trouble
from vireo.work.tasks.assembly import library_of, put_together, topology_of_key
from vireo.work.worker import Bench, task

#: Stood elsewhere: by more than this (mm).
_HAIR = 1e-6


@task("origin_at")
def origin_at(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """Where a part made at a picked place of an assembly stands: a placement, z outwards."""
    built = put_together(bench, request["request"])
    holds = Holds(
        library_of(bench, request["request"]),
        built.seats,
        {s.id: i for i, s in enumerate(built.seats)},
    )
    try:
        seat, frame = holds.end(JointEnd.model_validate(request["end"]))
    except EndTrouble as trouble:
        raise BadInput(f"the origin cannot lie there: {trouble.text}") from trouble
    matrix = np.eye(4)
    matrix[:3, :3], matrix[:3, 3] = frame.axes, frame.origin
    return (built.solution.poses[seat] @ Pose.of(matrix)).to_json()


@task("taken_around")
def taken_around(bench: Bench, request: dict[str, Any]) -> list[dict[str, Any]]:
    """What a component takes from bodies around it, frozen: each with `data`, its shape stored."""
    built = put_together(bench, request["request"])
    found = []
    for wish in request["wanted"]:
        leaf = _leaf(built, wish["component"], wish["path"], wish["solid"])
        if leaf is None:
            raise BadInput("what was picked is no longer in the assembly")
        if leaf.path[0] == request["component"]:
            raise BadInput("a part takes nothing from itself: pick what stands around it")
        at = _stands(built, request["component"], leaf)
        seen = [Seen.from_pick(Pick.model_validate(p)) for p in wish["picks"]]
        groups = [[s for s in seen if s.of == of] for of in ("face", "edge")] if seen else [[]]
        for some in groups:
            if not some and seen:
                continue
            body, lost = _lent(bench, leaf, some, at)
            if body is None or lost:
                raise BadInput(f"what was picked on {leaf.name} is no longer there")
            found.append(
                {
                    "component": leaf.path[0], "path": leaf.path[1:], "solid": leaf.solid.id,
                    "title": leaf.name[:400], "seen": [s.model_dump(mode="json") for s in some],
                    "names": body.names,
                    "key": leaf.solid.key, "at": _rows(at), "data": body.to_bytes(),
                }
            )  # fmt: skip
    return found


@task("out_of_date")
def out_of_date(bench: Bench, request: dict[str, Any]) -> list[dict[str, Any]]:
    """How what was frozen compares with what stands there now, in the order of `items` (each a
    component and what it took). `state` is fresh, changed, lost or gone."""
    built = put_together(bench, request["request"])
    return [
        dict(zip(("state", "text"), _compared(bench, built, item, request["project"]), strict=True))
        for item in request["items"]
    ]


def _compared(bench: Bench, built: Built, item: dict[str, Any], project: str) -> tuple[str, str]:
    one = Frozen.model_validate(item["taken"])
    leaf = _leaf(built, one.component, one.path, one.solid)
    if leaf is None:
        return "gone", f"{one.title} no longer stands in the assembly"
    at = _stands(built, item["component"], leaf)
    if leaf.solid.key == one.key and np.allclose(_rows(at), one.at, rtol=0, atol=_HAIR):
        return "fresh", ""
    now, lost = _lent(bench, leaf, one.seen, at)
    if now is None or lost:
        what = f"{lost} of the picked things are" if lost > 1 else "what was picked is"
        return "lost", f"{one.title}: {what} no longer there"
    try:
        was = taken_up(bench.file(project, one.file), one.names)
    except Trouble:
        return "changed", f"{one.title}: what was taken cannot be read any more, it is taken again"
    if same_shape(was, now):
        return "fresh", ""
    return "changed", f"{one.title} {_told(was, now)}"


def _told(was: Body, now: Body) -> str:
    """In what two shapes differ, in words."""
    flat = bool(was.faces and now.faces)
    size = [sum(area_of(f) for f in b.faces) if flat else _length(b) for b in (was, now)]
    unit = "mm²" if flat else "mm"
    if abs(size[0] - size[1]) > 1e-6 * max(size):
        return f"is {size[1]:.5g} {unit} now, was {size[0]:.5g} {unit}"
    away = float(np.linalg.norm(_middle(now) - _middle(was)))
    return f"has moved by {away:.4g} mm" if away > 1e-4 else "is formed or turned otherwise now"


def _length(body: Body) -> float:
    return sum(length_of(e) for e in body.edges)


def _middle(body: Body) -> Vector:
    low, high = box_of(body.shape)
    return np.asarray(0.5 * (np.array(low) + np.array(high)))


def _leaf(built: Built, component: str, path: Sequence[str], solid: str) -> Leaf | None:
    wanted = (component, *path)
    return next((x for x in built.leaves if x.path == wanted and x.solid.id == solid), None)


def _stands(built: Built, component: str, leaf: Leaf) -> Floats:
    """A body as it stands seen from a component: a 4x4 matrix."""
    ids = [m.id for m in built.mechanism.members]
    if component not in ids:
        raise BadInput("the part that takes it is no component of this assembly")
    own = built.solution.poses[ids.index(component)]
    return np.asarray(np.linalg.inv(own.matrix()) @ leaf.pose.matrix())


def _rows(at: Floats) -> list[float]:
    return [float(v) + 0.0 for v in at[:3].ravel()]


def _lent(bench: Bench, leaf: Leaf, seen: Sequence[Seen], at: Floats) -> tuple[Body | None, int]:
    """What is taken of a body as it is now, and how much of it is no longer there."""
    body = bench.cache.body(leaf.solid.key)
    place = (at[:3, :3], at[:3, 3])
    if not seen:
        return lent(body, None, (), place), 0
    topology = topology_of_key(bench, leaf.solid.key)
    found = [resolve(s.pick(leaf.solid.id), topology).index for s in seen]
    there = [i for i in found if i is not None]
    if len(there) < len(found):
        return None, len(found) - len(there)
    indices = tuple(dict.fromkeys(there))
    if seen[0].of == "face":
        return lent(body, (indices, ()), (), place), 0
    names = tuple(joined(topology.edge_name(i)) for i in indices)
    return lent(body, ((), indices), names, place), 0
