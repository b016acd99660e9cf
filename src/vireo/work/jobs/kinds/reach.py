"""How far a joint goes to either side from where it stands, and what stops it there."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from pydantic import Field

from vireo.core.assembly.pose import Pose
from vireo.core.assembly.titles import leaf_titles, left_out
from vireo.core.documents.frames import JointEnd
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.kernel.nearest import nearest
from vireo.core.quantity import ANGLE
from vireo.core.trouble import BadInput
from vireo.work.jobs.kind import Json, Options, Telling, job
from vireo.work.jobs.kinds.motion import reads
from vireo.work.tasks.checks import picked
from vireo.work.tasks.moving import Moving
from vireo.work.worker import Bench


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
    c, pair, now = moving.coordinate, moving.pair, moving.now
    whole = c.internal(360.0) if c.dimension == ANGLE else options.far
    ends = []
    for k, (own, far) in enumerate(
        ((pair.least(c.name), now - whole), (pair.most(c.name), now + whole))
    ):
        goal = far if own is None else own
        if abs(goal - now) < 1e-9:
            poses = moving.built.solution.poses
            ends.append({
                "value": c.shown(now), "why": "own", "frame": moving.frame(poses), **between(poses),
            })  # fmt: skip
            continue

        def progress(share: float, stage: str, k: int = k) -> None:
            bench.report({"share": (k + share) / 2, "stage": ("backwards", "forwards")[k]})

        found = moving.swept(now, goal, 60, on=False, progress=progress)
        end: Json = {"value": c.shown(found.values[-1]), "frame": moving.frame(found.poses[-1])}
        end |= between(found.poses[-1])
        if found.first is not None:
            a, b = found.first.pair
            end |= {"why": "clash", "a": a, "b": b}
        elif found.limit is not None:
            end |= {"why": "limit", "joint": found.limit.joint}
        elif found.stuck_at is not None:
            end |= {"why": "stuck"}
        else:
            end |= {"why": "free" if own is None else "own"}
        ends.append(end)
    here = between(moving.built.solution.poses)
    return {
        "unit": c.unit, "at": c.shown(now), "ends": ends, "left": left_out(moving.built), **here,
    }  # fmt: skip


def _between(
    bench: Bench, moving: Moving, picks: Sequence[JointEnd]
) -> Callable[[Sequence[Pose]], Json]:
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
