"""Tasks on assemblies: put together, interference, motion, hand over."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np

from vireo.core.assembly.build import (
    Built,
    BuiltPart,
    Leaf,
    Library,
    Solid,
    build_assembly,
    mass_of,
)
from vireo.core.assembly.mechanism import Pair
from vireo.core.assembly.pose import Pose
from vireo.core.assembly.tones import toned
from vireo.core.declared.joint import Coordinate, driven
from vireo.core.documents import load_document
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.fit.interference import Clash, Item, find_interference, overlap_of
from vireo.core.kernel.exchange import Placed
from vireo.core.kernel.measure import box_of
from vireo.core.kernel.mesh import Mesh, tessellate
from vireo.core.kernel.overlap import Overlap
from vireo.core.lately import Lately
from vireo.core.motion.sweep import Runner, Shared, Sweep, sweep
from vireo.core.naming import Topology
from vireo.core.naming.grammar import component_of, holder_of
from vireo.core.part.state import topology_by_key
from vireo.core.thumbnail import draw
from vireo.core.trouble import BadInput
from vireo.work.tasks.exchange import picture_of, step_file
from vireo.work.tasks.part import build_part, mesh, parameter_views
from vireo.work.worker import Bench, task

_BOXES = Lately[str, tuple[Any, Any]](4096)
_MESHES = Lately[str, Mesh](512)


def _box(bench: Bench, key: str) -> tuple[Any, Any]:
    return _BOXES.get(key, lambda: box_of(bench.cache.body(key).shape))


def _topology(bench: Bench, key: str) -> Topology:
    return topology_by_key(key, bench.cache.body(key))


def _library(bench: Bench, request: dict[str, Any]) -> Library:
    """Every document the assembly reaches, parts built."""
    found: dict[str, BuiltPart | Assembly] = {}
    for id, entry in request["documents"].items():
        if "assembly" in entry:
            inner = load_document(entry["assembly"])
            assert isinstance(inner, Assembly)
            found[id] = inner
            continue
        part = build_part(bench, entry["part"])
        solids, keys = [], {}
        for body, data in part.handed_over.items():
            low, high = _box(bench, data["key"])
            keys[body] = data["key"]
            solids.append(
                Solid(body, data["key"], data["volume"], data["mass"],
                      tuple(data["centre"]), data["colour"], low, high,
                      part.dresses[body].name or entry["part"]["document"]["name"]
                      if len(part.handed_over) == 1 else data["name"], part.paints.get(body, {}),
                      part.dresses[body].colour is not None)
            )  # fmt: skip
        troubles = tuple(
            f"step {s.id} is not built: {s.error.text}" for s in part.steps if s.error is not None
        )
        name = entry["part"]["document"]["name"]

        def topology(body: str, keys: dict[str, str] = keys) -> Topology:
            return _topology(bench, keys[body])

        found[id] = BuiltPart(name, tuple(solids), topology, troubles[:1])
    return found


def put_together(bench: Bench, request: dict[str, Any]) -> Built:
    assembly = load_document(request["document"])
    assert isinstance(assembly, Assembly)
    return build_assembly(assembly, _library(bench, request))


@task("assemble")
def assemble(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """An assembly as the screen gets it. g, mm; joint coordinates in degrees or mm."""
    built = put_together(bench, request)
    for leaf in built.leaves:
        if not bench.disk.has(f"mesh-{leaf.solid.key}"):
            mesh(bench, {"key": leaf.solid.key})
    return report(built, request)


def report(built: Built, request: dict[str, Any]) -> dict[str, Any]:
    solution = built.solution
    components = []
    for data, pose in zip(request["document"]["components"], solution.poses, strict=True):
        leaves = built.leaves_of(data["id"])
        components.append(
            {
                "id": data["id"],
                "matrix": pose.column_major(),
                "freedom": solution.loose.get(data["id"], 0),
                "mass": sum(leaf.solid.mass for leaf in leaves),
                "placement": {"p": pose.p.tolist(), "q": pose.q.tolist()},
            }
        )
    joints = []
    for joint in request["document"]["joints"]:
        trouble = built.joint_troubles.get(joint["id"])
        pair = built.mechanism.pair(joint["id"])
        joints.append(
            {
                "id": joint["id"],
                "coordinates": _coordinates(pair, solution.coordinates[pair.id]) if pair else [],
                "repeats": joint["id"] in solution.repeats,
                "trouble": trouble.model_dump() if trouble else None,
            }
        )
    total, centre = mass_of(built.leaves)
    tones = toned(built.leaves)
    return {
        "components": components,
        "joints": joints,
        "leaves": [_leaf(leaf, tones[leaf.id]) for leaf in built.leaves],
        "freedom": solution.freedom,
        "redundant": solution.redundant,
        "holds": solution.holds,
        "mass": total,
        "centre": centre.tolist() if centre is not None else None,
        "troubles": [t.model_dump() for t in built.troubles],
        "parameters": parameter_views(built.parameters, request["document"]),
        "mechanism": built.mechanism.with_poses(solution.poses).to_json(),
    }


def _coordinates(pair: Pair, values: dict[str, float]) -> list[dict[str, Any]]:
    """The coordinates of a joint as they stand, in the units they are shown in."""

    def shown(c: Coordinate, value: float | None) -> float | None:
        return None if value is None else c.shown(value)

    return [
        {
            "name": c.name, "label": c.label, "unit": c.unit, "value": c.shown(values[c.name]),
            "least": shown(c, pair.least(c.name)), "most": shown(c, pair.most(c.name)),
        }
        for c in pair.joint.coordinates
    ]  # fmt: skip


def _leaf(leaf: Leaf, colour: str) -> dict[str, Any]:
    return {
        "id": leaf.id,
        "component": leaf.path[0],
        "path": list(leaf.path[1:]),
        "body": leaf.solid.id,
        "name": leaf.name,
        "key": leaf.solid.key,
        "colour": colour,
        "mass": leaf.solid.mass,
        "matrix": leaf.pose.column_major(),
    }


def _items(built: Built, chosen: list[str] | None) -> list[Item]:
    return [
        Item(
            leaf.id, leaf.solid.key, leaf.pose, np.array(leaf.solid.low), np.array(leaf.solid.high)
        )
        for leaf in built.leaves
        if not chosen or leaf.path[0] in chosen
    ]


def _clash(clash: Clash, names: dict[str, str]) -> dict[str, Any]:
    return {
        "a": clash.a, "b": clash.b, "name_a": names[clash.a], "name_b": names[clash.b],
        "volume": clash.volume, "thickness": clash.thickness, "at": list(clash.at),
        "faces_a": list(clash.faces_a), "faces_b": list(clash.faces_b),
        "certain": clash.certain,
    }  # fmt: skip


@task("interference")
def interference(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """Overlaps in the whole assembly, or among the chosen components."""
    built = put_together(bench, request["assembly"])
    items = _items(built, request.get("components"))
    names = {leaf.id: leaf.name for leaf in built.leaves}
    found = find_interference(
        items,
        bench.cache.body,
        partial(_topology, bench),
        # Solids of one part are the part's own business, those of a sub-assembly are not.
        skip=lambda a, b: holder_of(a.id) == holder_of(b.id),
        progress=lambda share, stage: bench.report({"share": share, "stage": stage}),
    )
    return {
        "clashes": [_clash(c, names) for c in found.clashes],
        "pairs": found.pairs, "near": found.near, "computed": found.computed,
        "volume": sum(c.volume for c in found.clashes),
        "components": len({component_of(i.id) for i in items}),
    }  # fmt: skip


def _mesh(bench: Bench, key: str) -> Mesh:
    return _MESHES.get(key, lambda: tessellate(bench.cache.body(key), None, 0.3))


@task("motion")
def motion(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """A joint driven through its range until something clashes. Degrees or mm."""
    built = put_together(bench, request["assembly"])
    pair = built.mechanism.pair(request["joint"])
    if pair is None:
        raise BadInput("this joint cannot be driven: it is asleep or its ends are lost")
    coordinate = driven(pair.joint, request.get("coordinate"))
    start, end = coordinate.internal(request["start"]), coordinate.internal(request["end"])
    mechanism = built.mechanism.with_poses(built.solution.poses).with_value(
        pair.id, coordinate.name, None
    )
    leaves = {leaf.id: leaf for leaf in built.leaves}
    member = {m.id: i for i, m in enumerate(mechanism.members)}
    base = built.solution.poses
    runners = []
    inner: dict[str, Pose] = {}
    for leaf in built.leaves:
        i = member[leaf.path[0]]
        inner[leaf.id] = base[i].inverse() @ leaf.pose
        m = _mesh(bench, leaf.solid.key)
        points = m.points @ inner[leaf.id].rotation.T + inner[leaf.id].p
        counts = np.diff(m.face_starts)
        faces = np.repeat(np.arange(len(counts), dtype=np.int32), counts)
        runners.append(Runner(leaf.id, i, points, m.triangles, faces))
    joined = {frozenset((p.a, p.b)) for p in mechanism.pairs}

    known: dict[tuple[str, str, tuple[float, ...]], Overlap | None] = {}

    def overlap(a: str, b: str, poses: Any) -> tuple[Overlap | None, Pose]:
        one, two = leaves[a], leaves[b]
        pose_a = poses[member[one.path[0]]] @ inner[a]
        relative = pose_a.inverse() @ (poses[member[two.path[0]]] @ inner[b])
        key_a, key_b = one.solid.key, two.solid.key
        key = (key_a, key_b, tuple(np.round([*relative.p, *relative.q], 6)))
        if key not in known:
            known[key] = overlap_of(
                bench.cache.body(key_a), bench.cache.body(key_b), relative,
                _topology(bench, key_a), _topology(bench, key_b),
            )  # fmt: skip
        return known[key], pose_a

    def truth(a: str, b: str, poses: Any) -> Shared | None:
        found, _ = overlap(a, b, poses)
        return Shared(found.volume, found.thickness) if found is not None else None

    def together(a: str, b: str) -> bool:
        return frozenset((member[leaves[a].path[0]], member[leaves[b].path[0]])) in joined

    found = sweep(
        mechanism, runners, pair.id, coordinate.name, start, end, request["steps"], truth=truth, joined=together,
        progress=lambda share, stage: bench.report({"share": share, "stage": stage}),
    )  # fmt: skip
    return _motion_report(built, found, coordinate, overlap, leaves)


def _motion_report(
    built: Built, found: Sweep, driven: Coordinate, truth: Any, leaves: dict[str, Leaf]
) -> dict[str, Any]:
    ids = [m.id for m in built.mechanism.members]
    clash = None
    if found.clash_at is not None and found.pair is not None:
        a, b = found.pair
        overlap, pose_a = truth(a, b, dict(enumerate(found.poses[-1])))
        clash = {
            "value": driven.shown(found.clash_at), "a": a, "b": b,
            "name_a": leaves[a].name, "name_b": leaves[b].name,
            "faces_a": list(overlap.faces_a) if overlap else [],
            "faces_b": list(overlap.faces_b) if overlap else [],
            "at": pose_a.out(np.array(overlap.at)).tolist() if overlap else None,
            "volume": overlap.volume if overlap else 0.0,
        }  # fmt: skip
    finite = [(c, v) for c, v in zip(found.clearance, found.values, strict=True) if np.isfinite(c)]
    least = min(finite) if finite else None
    return {
        "unit": driven.unit,
        "values": [driven.shown(v) for v in found.values],
        "clearance": [c if np.isfinite(c) else None for c in found.clearance],
        "least": {"clearance": least[0], "value": driven.shown(least[1])} if least else None,
        "frames": [
            {id: {"p": p.p.tolist(), "q": p.q.tolist()} for id, p in zip(ids, poses, strict=True)}
            for poses in found.poses
        ],
        "clash": clash,
        "stuck": None if found.stuck_at is None else driven.shown(found.stuck_at),
    }


def _placed(bench: Bench, request: dict[str, Any]) -> list[Placed]:
    built = put_together(bench, request)
    return [
        Placed(leaf.name, bench.cache.body(leaf.solid.key), leaf.solid.colour,
               leaf.pose.rotation, leaf.pose.p, leaf.solid.name, leaf.solid.paints, leaf.solid.key)
        for leaf in built.leaves
    ]  # fmt: skip


@task("assembly_step")
def assembly_step(bench: Bench, request: dict[str, Any]) -> bytes:
    """An assembly as STEP with names, colours and shared prototypes."""
    parts = _placed(bench, request)
    if not parts:
        raise BadInput("there is nothing in this assembly to hand over yet")
    return step_file(request["document"]["name"], parts)


@task("assembly_thumbnail")
def assembly_thumbnail(bench: Bench, request: dict[str, Any]) -> str:
    """A small SVG of an assembly."""
    built = put_together(bench, request)
    tones = toned(built.leaves)
    pictures = []
    for leaf in built.leaves:
        body = picture_of(bench.cache.body(leaf.solid.key), tones[leaf.id])
        r, p = leaf.pose.rotation, leaf.pose.p
        pictures.append(
            replace(
                body, points=body.points @ r.T + p, normals=body.normals @ r.T,
                edges=[e @ r.T + p for e in body.edges],
            )
        )  # fmt: skip
    return draw(pictures)
