"""A joint driven through its range: every clash on the way, and how near things come."""

from __future__ import annotations

from typing import Any

import numpy as np
from pydantic import Field, model_validator

from vireo.core.assembly.titles import leaf_titles, left_out
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.motion.sweep import Met, Sweep
from vireo.core.trouble import BadInput
from vireo.work.jobs.acting import acting
from vireo.work.jobs.kind import Json, Options, Telling, job
from vireo.work.tasks.moving import Moving
from vireo.work.worker import Bench


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
    return [acting(request), [meant, request["document"].get("parameters")] if meant else None]


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


@job("motion", ("assembly",), MotionOptions, reads=reads, told=told, version=3)
def motion(bench: Bench, request: Json, options: MotionOptions) -> dict[str, Any]:
    """A joint driven through its range, with all that clashes on the way. Degrees or mm."""
    moving = Moving(bench, request, options.joint, options.coordinate)
    c = moving.coordinate
    found = moving.swept(
        c.internal(options.start), c.internal(options.end), options.steps, on=options.through,
        progress=lambda share, stage: bench.report({"share": share, "stage": stage}),
    )  # fmt: skip
    return _motion_report(moving, found)


def _motion_report(moving: Moving, found: Sweep) -> dict[str, Any]:
    built, driven = moving.built, moving.coordinate

    def clash(met: Met) -> Json:
        a, b = met.pair
        overlap, pose_a = moving.overlap(a, b, dict(enumerate(moving.spread(met.poses))))
        return {
            "value": driven.shown(met.start), "a": a, "b": b,
            "end": None if met.end is None else driven.shown(met.end),
            "depth": met.depth, "deepest": driven.shown(met.deepest), "volume": met.volume,
            "faces_a": list(overlap.faces_a) if overlap else [],
            "faces_b": list(overlap.faces_b) if overlap else [],
            "at": pose_a.out(np.array(overlap.at)).tolist() if overlap else None,
            "frame": moving.frame(met.poses),
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
        "frames": [moving.frame(poses) for poses in found.poses],
        "clash": clashes[0] if clashes else None,
        "clashes": clashes,
        "stuck": None if found.stuck_at is None else driven.shown(found.stuck_at),
        "limit": {"joint": limit.joint, "value": c.shown(limit.value), "unit": c.unit,
                  "at": driven.shown(found.values[-1])} if limit and c else None,
    }  # fmt: skip
