"""A joint driven through its range until something clashes."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from pydantic import Field, model_validator

from vireo.core.assembly.build import Built
from vireo.core.assembly.pose import Pose
from vireo.core.assembly.titles import leaf_titles, left_out
from vireo.core.declared.joint import Coordinate, driven
from vireo.core.fit.verdict import Verdict, overlap_of
from vireo.core.kernel.mesh import Mesh, tessellate
from vireo.core.lately import Lately
from vireo.core.motion.sweep import Runner, Shared, Sweep, sweep
from vireo.core.trouble import BadInput
from vireo.work.jobs.kind import Json, Options, Telling, job
from vireo.work.tasks.assembly import put_together
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

    @model_validator(mode="after")
    def _moves(self) -> MotionOptions:
        if self.start == self.end:
            raise BadInput("the motion begins and ends at the same place")
        return self


def told(result: Json, telling: Telling) -> Json:
    """What clashes by the names of the components."""
    title = leaf_titles(telling.document, telling.other)
    found = {**result, "left": [title(id) for id in result.get("left", ())]}
    clash = result.get("clash")
    if not clash:
        return found
    named = {**clash, "name_a": title(clash["a"]), "name_b": title(clash["b"])}
    return {**found, "clash": named}


def _mesh(bench: Bench, key: str) -> Mesh:
    return _MESHES.get(key, lambda: tessellate(bench.cache.body(key), None, 0.3))


@job("motion", ("assembly",), MotionOptions, told=told, version=3)
def motion(bench: Bench, request: Json, options: MotionOptions) -> dict[str, Any]:
    """A joint driven through its range until something clashes. Degrees or mm."""
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
        runners.append(Runner(leaf.id, i, points, m.triangles, faces))
    joined = {frozenset((p.a, p.b)) for p in mechanism.pairs}

    looker = Looker(bench)
    known: dict[tuple[str, str, tuple[float, ...]], Verdict | None] = {}

    def overlap(a: str, b: str, poses: Any) -> tuple[Verdict | None, Pose]:
        one, two = leaves[a], leaves[b]
        pose_a = poses[moves[a]] @ inner[a]
        relative = pose_a.inverse() @ (poses[moves[b]] @ inner[b])
        key_a, key_b = one.solid.key, two.solid.key
        key = (key_a, key_b, tuple(np.round([*relative.p, *relative.q], 6)))
        if key not in known:
            known[key] = overlap_of(looker.shaped(key_a), looker.shaped(key_b), relative)
        return known[key], pose_a

    def truth(a: str, b: str, poses: Any) -> Shared | None:
        found, _ = overlap(a, b, poses)
        return Shared(found.volume, found.depth) if found is not None else None

    def together(a: str, b: str) -> bool:
        return frozenset((moves[a], moves[b])) in joined

    found = sweep(
        mechanism, runners, pair.id, coordinate.name, start, end, options.steps,
        truth=truth, joined=together, spread=spread,
        progress=lambda share, stage: bench.report({"share": share, "stage": stage}),
    )  # fmt: skip
    return _motion_report(built, found, coordinate, overlap, spread)


def _motion_report(
    built: Built, found: Sweep, driven: Coordinate, truth: Any, spread: Any
) -> dict[str, Any]:
    clash = None
    if found.clash_at is not None and found.pair is not None:
        a, b = found.pair
        overlap, pose_a = truth(a, b, dict(enumerate(spread(found.poses[-1]))))
        clash = {
            "value": driven.shown(found.clash_at), "a": a, "b": b,
            "faces_a": list(overlap.faces_a) if overlap else [],
            "faces_b": list(overlap.faces_b) if overlap else [],
            "at": pose_a.out(np.array(overlap.at)).tolist() if overlap else None,
            "volume": overlap.volume if overlap else 0.0,
        }  # fmt: skip
    finite = [(c, v) for c, v in zip(found.clearance, found.values, strict=True) if np.isfinite(c)]
    least = min(finite) if finite else None
    return {
        "left": left_out(built),
        "unit": driven.unit,
        "values": [driven.shown(v) for v in found.values],
        "clearance": [c if np.isfinite(c) else None for c in found.clearance],
        "least": {"clearance": least[0], "value": driven.shown(least[1])} if least else None,
        "frames": [
            {id: p.to_json() for id, p in built.mechanism.placements(poses).items()}
            for poses in found.poses
        ],
        "clash": clash,
        "stuck": None if found.stuck_at is None else driven.shown(found.stuck_at),
    }
