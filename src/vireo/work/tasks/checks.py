"""Measuring between picks, in a part or between components."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from vireo.core.documents.frames import JointEnd
from vireo.core.geometry import Frame
from vireo.core.kernel.measure import Measured, place_of
from vireo.core.kernel.nearest import nearest
from vireo.core.measure import inertia_about, readings, weighed
from vireo.core.naming import Pick, resolve
from vireo.core.part.context import topology_by_key
from vireo.core.trouble import Trouble
from vireo.work.tasks.assembly import put_together
from vireo.work.tasks.part import build_part
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
    end = JointEnd.model_validate(raw)
    built = put_together(bench, request)
    wanted = (end.component, *end.path)
    leaf = next((x for x in built.leaves if x.path == wanted and x.solid.id == end.pick.body), None)
    if leaf is None:
        raise Trouble("a picked component is no longer there")
    found = _resolved(bench, leaf.solid.key, end.pick)
    return found.moved(leaf.pose.rotation, leaf.pose.p)


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
    made = build_part(bench, request["request"]).state.made.datums
    if step not in made:
        raise Trouble("the frame to measure in is not built here")
    return made[step].frame


@task("weigh")
def weigh(bench: Bench, request: dict[str, Any]) -> dict[str, Any] | None:
    """Mass properties of chosen bodies of a part, or all, up to a step; about a frame. g, mm."""
    found = build_part(bench, request["request"])
    chosen = request.get("bodies") or list(found.bodies)
    whole = weighed([b for id, b in found.bodies.items() if id in chosen])
    if whole is None:
        return None
    frame = _frame(bench, request)
    return {
        "volume": whole.volume, "area": whole.area, "mass": whole.mass,
        "centre": list(whole.centre), "inertia": whole.inertia.tolist(),
        "about": inertia_about(whole, frame).tolist(), "moments": whole.moments.tolist(),
        "axes": whole.axes.tolist(),
    }  # fmt: skip
