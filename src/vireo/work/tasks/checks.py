"""Measuring between picks, in a part or between components."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from vireo.core.assembly.build import Built, Leaf
from vireo.core.digest import digest
from vireo.core.documents.frames import JointEnd
from vireo.core.geometry import Frame
from vireo.core.kernel.measure import Measured, place_of
from vireo.core.kernel.nearest import nearest
from vireo.core.measure import inertia_about, readings, weighed
from vireo.core.measure.change import change
from vireo.core.measure.mass import Whole
from vireo.core.naming import Pick, resolve
from vireo.core.part.products.datum import DATUMS
from vireo.core.part.state import topology_by_key
from vireo.core.trouble import Trouble
from vireo.work.tasks.assembly import put_together
from vireo.work.tasks.part import build_part
from vireo.work.tasks.weighing import whole_of
from vireo.work.worker import Bench, task


def _in_part(bench: Bench, request: dict[str, Any], raw: dict[str, Any]) -> Measured:
    pick = Pick.model_validate(raw)
    found = build_part(bench, request)
    if pick.body not in found.bodies:
        raise Trouble("the picked body is no longer there")
    key = found.bodies[pick.body]["key"]
    return _resolved(bench, key, pick)


def _resolved(bench: Bench, key: str, pick: Pick) -> Measured:
    body = bench.cache.body(key)
    here = resolve(pick, topology_by_key(key, body))
    if here.index is None:
        raise Trouble(f"a picked {pick.kind} is no longer there; pick it again")
    return place_of(body, pick.kind, here.index)


def _in_assembly(bench: Bench, request: dict[str, Any], raw: dict[str, Any]) -> Measured:
    leaf, found = picked(bench, put_together(bench, request), JointEnd.model_validate(raw))
    return found.moved(leaf.pose.rotation, leaf.pose.p)


def picked(bench: Bench, built: Built, end: JointEnd) -> tuple[Leaf, Measured]:
    """What is picked on a component: the body it is of, and itself in that body's coordinates. Raises
    Trouble for what is no longer there."""
    if end.pick is None:
        raise Trouble("a distance is measured between faces, edges and corners")
    wanted = (end.component, *end.path)
    leaf = next((x for x in built.leaves if x.path == wanted and x.solid.id == end.pick.body), None)
    if leaf is None:
        raise Trouble("a picked component is no longer there")
    return leaf, _resolved(bench, leaf.solid.key, end.pick)


@task("distance")
def distance(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """Least distance between two picks in mm, with the nearest points."""
    measure = _in_part if request["kind"] == "build" else _in_assembly
    a, b = (measure(bench, request["request"], raw) for raw in request["picks"])
    found = nearest(a.shape, b.shape)
    return {"distance": found.distance, "from": found.a, "to": found.b}


@task("measure")
def measure_picks(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """Readings of picks in a part or an assembly, along the axes of a frame: mm, mm2, rad."""
    measure = _in_part if request["kind"] == "build" else _in_assembly
    things = [measure(bench, request["request"], raw) for raw in request["picks"]]
    frame = _frame(bench, request)
    return {"readings": [asdict(r) for r in readings(things, frame)]}


def _frame(bench: Bench, request: dict[str, Any]) -> Frame:
    """The frame a reference step of the part makes, else that of the space."""
    step = request.get("frame")
    if not step:
        return Frame()
    made = build_part(bench, request["request"]).state.of(DATUMS)
    if step not in made:
        raise Trouble("the frame to measure in is not built here")
    return made[step].frame


@task("weigh_components")
def weigh_components(bench: Bench, request: dict[str, Any]) -> dict[str, Any] | None:
    """Mass properties of components as they stand, or of all; about the origin. g, mm."""
    leaves = put_together(bench, request["request"]).leaves
    whole = whole_of(bench, leaves, set(request["bodies"]))
    return _mass(whole, Frame()) if whole else None


@task("weigh")
def weigh(bench: Bench, request: dict[str, Any]) -> dict[str, Any] | None:
    """Mass properties of chosen bodies of a part, or all, up to a step; about a frame. g, mm."""
    found = build_part(bench, request["request"])
    chosen = request.get("bodies") or list(found.handed_over)
    whole = weighed([b for id, b in found.bodies.items() if id in chosen])
    return _mass(whole, _frame(bench, request)) if whole else None


def _mass(whole: Whole, frame: Frame) -> dict[str, Any]:
    return {
        "volume": whole.volume, "area": whole.area, "mass": whole.mass,
        "centre": list(whole.centre), "inertia": whole.inertia.tolist(),
        "about": inertia_about(whole, frame).tolist(), "moments": whole.moments.tolist(),
        "axes": whole.axes.tolist(),
    }  # fmt: skip


@task("change")
def change_of(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """The bodies of a part before and after a step, and the material it added and took away."""
    part = request["request"]["document"]
    index = next(k for k, s in enumerate(part["steps"]) if s["id"] == request["step"])
    builds = [build_part(bench, {**request["request"], "upto": n}) for n in (index, index + 1)]
    before, after = (
        {id: (b["key"], bench.cache.body(b["key"])) for id, b in found.bodies.items()}
        for found in builds
    )
    same = {id for id in before if id in after and before[id][0] == after[id][0]}
    old, new = ({id: b for id, (_, b) in x.items() if id not in same} for x in (before, after))
    pieces = []
    for piece in change(old, new):
        key = digest(["change", piece.sign, before.get(piece.body, ("",))[0],
                      after.get(piece.body, ("",))[0]])  # fmt: skip
        if piece.shape is not None:
            bench.cache.keep_body(key, piece.shape)
        pieces.append(
            {"body": piece.body, "sign": piece.sign, "volume": piece.volume,
             "key": key if piece.shape is not None else None}
        )  # fmt: skip
    states = [
        [{"id": id, "key": b["key"], "colour": b["colour"]} for id, b in found.bodies.items()]
        for found in builds
    ]
    return {"before": states[0], "after": states[1], "pieces": pieces}
