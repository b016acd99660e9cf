"""Measuring between picks, in a part or between components."""

from __future__ import annotations

from typing import Any

from vireo.core.documents.frames import JointEnd
from vireo.core.kernel.measure import Measured, distance_between, place_of
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
    d, p, q = distance_between(a.shape, b.shape)
    return {"distance": d, "from": p, "to": q}
