"""How far a joint goes to either side from where it stands, and what stops it there."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

from pydantic import Field

from vireo.core.assembly.pose import Pose
from vireo.core.assembly.titles import leaf_titles, left_out
from vireo.core.documents.frames import JointEnd
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.kernel.nearest import nearest
from vireo.core.quantity import ANGLE
from vireo.core.trouble import BadInput
from vireo.work.forking import shared_out
from vireo.work.jobs.kind import Json, Options, Telling, job
from vireo.work.jobs.kinds.motion import reads
from vireo.work.tasks.checks import picked
from vireo.work.tasks.moving import Moving
from vireo.work.worker import Bench

#: How far two picks are apart where the members stand.
Between = Callable[[Sequence[Pose]], Json]
#: Between so many stands nothing is stepped over either.
_STEPS = 10


class ReachOptions(Options):
    """`coordinate` of a joint, its first when none is named. Where it has no limit of its own a turn is
    looked at all the way round, a slide `far` (mm) to either side."""

    joint: str = Field(max_length=24)
    coordinate: str | None = Field(default=None, max_length=24)
    far: float = Field(default=500.0, gt=0, le=100_000, allow_inf_nan=False)
    #: Two picks on components: how far they are apart (mm) is told at both ends, and as it stands.
    picks: tuple[JointEnd, ...] = Field(default=(), max_length=2)


def told(result: Json, telling: Telling) -> Json:
    """What stops it by the names of components and joints."""
    title = leaf_titles(telling.document, telling.other)
    assert isinstance(telling.document, Assembly)
    ends = []
    for end in result.get("ends", ()):
        joint = telling.document.joint(end["joint"]) if end.get("joint") else None
        names = {f"name_{k}": title(end[k]) for k in ("a", "b") if end.get(k)}
        ends.append({**end, **names, "name": joint.name if joint else ""})
    return {**result, "ends": ends, "left": [title(id) for id in result.get("left", ())]}


@job("reach", ("assembly",), ReachOptions, reads=reads, told=told)
def reach(bench: Bench, request: Json, options: ReachOptions) -> dict[str, Any]:
    """Both ends of what a joint can do from where it stands: ``why`` is ``clash``, ``limit`` (of another
    joint), ``own`` (its own limit), ``stuck``, or ``free`` where nothing stops it. Degrees or mm."""
    moving = Moving(bench, request, options.joint, options.coordinate)
    between = _between(bench, moving, options.picks)
    ends: dict[int, Json] = {}
    # Each side on a core of its own.
    for side, end in shared_out((0, 1), partial(_end, moving, between, options.far), worth=1):
        if end is None:
            raise BadInput("how far it goes could not be told: the geometry kernel ended over it")
        ends[side] = end
        bench.report({"share": len(ends) / 2, "stage": ("backwards", "forwards")[side]})
    c = moving.coordinate
    return {
        "unit": c.unit, "at": c.shown(moving.now), "ends": [ends[0], ends[1]],
        "left": left_out(moving.built), **between(moving.built.solution.poses),
    }  # fmt: skip


def _end(moving: Moving, between: Between, far: float, side: int) -> Json:
    """How far it goes backwards (0) or forwards (1)."""
    c, now = moving.coordinate, moving.now
    own = (moving.pair.least, moving.pair.most)[side](c.name)
    whole = c.internal(360.0) if c.dimension == ANGLE else far
    goal = own if own is not None else now + (whole if side else -whole)
    if abs(goal - now) < 1e-9:
        poses = moving.built.solution.poses
        frame = moving.frame(poses)
        return {"value": c.shown(now), "why": "own", "frame": frame, **between(poses)}
    found = moving.swept(now, goal, _STEPS, on=False, progress=lambda share, stage: None)
    poses = found.poses[-1]
    end = {"value": c.shown(found.values[-1]), "frame": moving.frame(poses), **between(poses)}
    if found.first is not None:
        a, b = found.first.pair
        return {**end, "why": "clash", "a": a, "b": b}
    if found.limit is not None:
        return {**end, "why": "limit", "joint": found.limit.joint}
    if found.stuck_at is not None:
        return {**end, "why": "stuck"}
    return {**end, "why": "free" if own is None else "own"}


def _between(bench: Bench, moving: Moving, picks: Sequence[JointEnd]) -> Between:
    """How far two picks are apart with the members at given poses; nothing where none are picked."""
    if not picks:
        return lambda poses: {}
    if len(picks) != 2:
        raise BadInput("how far two picks come apart is asked of two")
    both = [picked(bench, moving.built, p) for p in picks]

    def told(poses: Sequence[Pose]) -> Json:
        stood = [moving.built.stand(leaf, poses) for leaf, _ in both]
        one, two = (m.moved(at.rotation, at.p) for (_, m), at in zip(both, stood, strict=True))
        return {"between": nearest(one.shape, two.shape).distance}

    return told
