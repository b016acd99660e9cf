"""A joint driven through its range: every clash on the way, and how near things come."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from pydantic import Field, model_validator

from vireo.core.assembly.build import Built
from vireo.core.assembly.pose import Pose
from vireo.core.assembly.titles import leaf_titles, left_out
from vireo.core.declared.joint import Coordinate, driven
from vireo.core.documents.content import deciding
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.fit.classes import allowed_in
from vireo.core.fit.pairs import relative_of
from vireo.core.fit.verdict import Verdict, overlap_of, overlaps
from vireo.core.kernel.mesh import Mesh, tessellate
from vireo.core.lately import Lately
from vireo.core.motion.sweep import FIT, Met, Runner, Shared, Sweep, sweep
from vireo.core.quantity import evaluate_parameters
from vireo.core.trouble import BadInput
from vireo.work.jobs.kind import Json, Options, Telling, job
from vireo.work.tasks.assembly import put_together, topology_of_key
from vireo.work.tasks.fit import Looker
from vireo.work.worker import Bench

_MESHES = Lately[str, Mesh](512)


class MotionOptions(Options):
    """`coordinate` of a joint (its first when none is named) driven from `start` to `end` in
    degrees or mm, in `steps`."""

    joint: str = Field(max_length=24)
    coordinate: str | None = Field(default=None, max_length=24)
    start: float = Field(allow_inf_nan=False)
    end: float = Field(allow_inf_nan=False)
    steps: int = Field(default=60, ge=1, le=2000)
    #: To the end, with all clashes; else to the first.
    through: bool = True

    @model_validator(mode="after")
    def _moves(self) -> MotionOptions:
        if self.start == self.end:
            raise BadInput("the motion begins and ends at the same place")
        return self


def reads(request: Json, options: MotionOptions) -> Any:
    """What stands where and moves how, and which overlaps are meant by how much."""
    meant = request["document"].get("meant")
    # How deep is allowed may be a formula.
    return [deciding(request), [meant, request["document"].get("parameters")] if meant else None]


def told(result: Json, telling: Telling) -> Json:
    """What clashes by the names of the components."""
    title = leaf_titles(telling.document, telling.other)
    found = {**result, "left": [title(id) for id in result.get("left", ())]}
    least, limit = result.get("least"), result.get("limit")
    if least and least.get("a"):
        found["least"] = {**least, "name_a": title(least["a"]), "name_b": title(least["b"])}
    if limit:
        assert isinstance(telling.document, Assembly)
        joint = telling.document.joint(limit["joint"])
        found["limit"] = {**limit, "name": joint.name if joint else "another joint"}

    def named(clash: Json) -> Json:
        return {**clash, "name_a": title(clash["a"]), "name_b": title(clash["b"])}

    clash = result.get("clash")
    found["clash"] = named(clash) if clash else None
    found["clashes"] = [named(c) for c in result.get("clashes", ())]
    return found


def _mesh(bench: Bench, key: str) -> Mesh:
    return _MESHES.get(key, lambda: tessellate(bench.cache.body(key), None, 0.3))


@job("motion", ("assembly",), MotionOptions, reads=reads, told=told, version=3)
def motion(bench: Bench, request: Json, options: MotionOptions) -> dict[str, Any]:
    """A joint driven through its range, with all that clashes on the way. Degrees or mm."""
    built = put_together(bench, request)
    pair = built.mechanism.pair(options.joint)
    if pair is None:
        raise BadInput("this joint cannot be driven: it is asleep or its ends are lost")
    coordinate = driven(pair.joint, pair.kind, options.coordinate)
    start, end = coordinate.internal(options.start), coordinate.internal(options.end)
    mechanism = built.mechanism.with_poses(built.solution.poses).with_value(
        pair.id, coordinate.name, None
    )
    leaves = {leaf.id: leaf for leaf in built.leaves if leaf.solid.form == "solid"}
    member = {m.id: i for i, m in enumerate(mechanism.members)}
    copies = [leaf for leaf in leaves.values() if leaf.carried]
    # A copy goes by what it was made of and by what it is about: a thing of its own to the sweep.
    moves = {leaf.id: member[leaf.member] for leaf in leaves.values()}
    moves |= {leaf.id: len(member) + k for k, leaf in enumerate(copies)}

    def spread(poses: Sequence[Pose]) -> list[Pose]:
        return [*poses, *(built.stand(leaf, poses) for leaf in copies)]

    base = spread(built.solution.poses)
    runners = []
    inner: dict[str, Pose] = {}
    for leaf in leaves.values():
        i = moves[leaf.id]
        inner[leaf.id] = base[i].inverse() @ leaf.pose
        m = _mesh(bench, leaf.solid.key)
        points = m.points @ inner[leaf.id].rotation.T + inner[leaf.id].p
        counts = np.diff(m.face_starts)
        faces = np.repeat(np.arange(len(counts), dtype=np.int32), counts)
        top = topology_of_key(bench, leaf.solid.key)
        runners.append(
            Runner(leaf.id, i, points, m.triangles, faces, m.deflection, top, inner[leaf.id])
        )
    joined = {frozenset((p.a, p.b)) for p in mechanism.pairs}

    looker = Looker(bench)
    known: dict[tuple[str, str, tuple[float, ...]], Verdict | None] = {}

    def overlap(a: str, b: str, poses: Any) -> tuple[Verdict | None, Pose]:
        one, two = leaves[a], leaves[b]
        pose_a = poses[moves[a]] @ inner[a]
        relative = pose_a.inverse() @ (poses[moves[b]] @ inner[b])
        key_a, key_b = one.solid.key, two.solid.key
        _, rounded = relative_of(pose_a, poses[moves[b]] @ inner[b])
        key = (key_a, key_b, rounded)
        if key not in known:
            known[key] = overlap_of(looker.shaped(key_a), looker.shaped(key_b), relative)
        return known[key], pose_a

    quick: dict[tuple[str, str, tuple[float, ...]], tuple[float, float] | None] = {}

    def truth(a: str, b: str, poses: Any, closely: bool) -> Shared | None:
        if closely:
            found, _ = overlap(a, b, poses)
            return Shared(found.volume, found.depth) if found is not None else None
        one, two = (poses[moves[k]] @ inner[k] for k in (a, b))
        relative, rounded = relative_of(one, two)
        key = (leaves[a].solid.key, leaves[b].solid.key, rounded)
        if key not in quick:
            quick[key] = overlaps(looker.shaped(key[0]), looker.shaped(key[1]), relative)
        both = quick[key]
        return Shared(*both) if both is not None else None

    values = {
        n: e.value
        for n, e in evaluate_parameters(built.document.parameters).items()
        if e.value is not None
    }
    meant = allowed_in(built.document, values)

    def fits(a: str, b: str) -> float | None:
        mine = next((m.depth for m in meant if m.speaks_of(a, b)), None)
        return FIT if mine is None and frozenset((moves[a], moves[b])) in joined else mine

    found = sweep(
        mechanism, runners, pair.id, coordinate.name, start, end, options.steps,
        truth=truth, fits=fits, spread=spread, on=options.through,
        progress=lambda share, stage: bench.report({"share": share, "stage": stage}),
    )  # fmt: skip
    return _motion_report(built, found, coordinate, overlap, spread)


def _motion_report(
    built: Built, found: Sweep, driven: Coordinate, truth: Any, spread: Any
) -> dict[str, Any]:
    def clash(met: Met) -> Json:
        a, b = met.pair
        overlap, pose_a = truth(a, b, dict(enumerate(spread(met.poses))))
        return {
            "value": driven.shown(met.start), "a": a, "b": b,
            "end": None if met.end is None else driven.shown(met.end),
            "depth": met.depth, "deepest": driven.shown(met.deepest), "volume": met.volume,
            "faces_a": list(overlap.faces_a) if overlap else [],
            "faces_b": list(overlap.faces_b) if overlap else [],
            "at": pose_a.out(np.array(overlap.at)).tolist() if overlap else None,
            "frame": _frame(built, met.poses),
        }  # fmt: skip

    clashes = [clash(m) for m in found.clashes]
    finite = [(c, v, w) for c, v, w in zip(found.clearance, found.values, found.nearest, strict=True)
              if np.isfinite(c)]  # fmt: skip
    least = min(finite, key=lambda x: x[0]) if finite else None
    limit = found.limit
    stopper = built.mechanism.pair(limit.joint) if limit else None
    c = stopper.joint.coordinate(limit.coordinate) if stopper and limit else None
    return {
        "left": left_out(built),
        "unit": driven.unit,
        "values": [driven.shown(v) for v in found.values],
        "clearance": [c if np.isfinite(c) else None for c in found.clearance],
        "least": {"clearance": least[0], "value": driven.shown(least[1]),
                  "a": least[2][0] if least[2] else None,
                  "b": least[2][1] if least[2] else None} if least else None,
        "frames": [_frame(built, poses) for poses in found.poses],
        "clash": clashes[0] if clashes else None,
        "clashes": clashes,
        "stuck": None if found.stuck_at is None else driven.shown(found.stuck_at),
        "limit": {"joint": limit.joint, "value": c.shown(limit.value), "unit": c.unit,
                  "at": driven.shown(found.values[-1])} if limit and c else None,
    }  # fmt: skip


def _frame(built: Built, poses: Sequence[Pose]) -> Json:
    return {id: p.to_json() for id, p in built.mechanism.placements(poses).items()}
