"""A motion over time: where everything goes, how fast, what forces that takes, what clashes and how near
things come."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any

import numpy as np
from pydantic import Field

from vireo.core.assembly.mechanism import Mechanism
from vireo.core.assembly.pose import Floats, Pose
from vireo.core.assembly.titles import leaf_titles, left_out
from vireo.core.documents import load_document
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.motion.clearing import clearance
from vireo.core.motion.course import Key, Stand
from vireo.core.motion.run import Ran
from vireo.core.motion.run import run as gone
from vireo.core.motion.sweep import Met
from vireo.core.naming.grammar import top_of
from vireo.core.quantity import ANGLE
from vireo.core.trouble import BadInput
from vireo.work.jobs.acting import acting
from vireo.work.jobs.kind import Json, Options, Telling, job
from vireo.work.tasks.running import Ready, ready
from vireo.work.worker import Bench

#: N, N m, J and W in what forces are reckoned in (mN, mN mm).
_N, _NM = 1e3, 1e6
#: Values are told to so many digits: a run is much to send.
_DIGITS = 7
#: And what is less than this (mm, degrees, N, N m and so on) is nothing: it comes of rounding.
_NOTHING = 1e-9


class RunOptions(Options):
    """`run` is the id of one of the runs of the assembly."""

    run: str = Field(max_length=24)


def reads(request: Json, options: RunOptions) -> Any:
    """What stands where, what the run asks, and which overlaps are meant."""
    document = request["document"]
    asked = next((r for r in document.get("runs", ()) if r["id"] == options.run), None)
    said = {k: v for k, v in (asked or {}).items() if k not in ("id", "name")}
    return [acting(request), said, document.get("meant"), document.get("parameters")]


def told(result: Json, telling: Telling) -> Json:
    """By the names of components and joints."""
    title = leaf_titles(telling.document, telling.other)
    assert isinstance(telling.document, Assembly)
    document = telling.document

    def joint(id: str) -> str:
        found = document.joint(id)
        return found.name if found else _inner(id, document, telling, title)

    def pair(found: Json) -> Json:
        return {**found, "name_a": title(found["a"]), "name_b": title(found["b"])}

    limit = result["limit"]
    return {
        **result,
        "left": [title(id) for id in result["left"]],
        "series": [
            {**s, "name": joint(s["joint"])} if s.get("joint") else s for s in result["series"]
        ],
        "clashes": [pair(c) for c in result["clashes"]],
        "watched": [
            {**w, "name_a": title(f"{w['a']}/"), "name_b": title(f"{w['b']}/")}
            for w in result["watched"]
        ],
        "events": [{**e, "name": joint(e["joint"])} for e in result["events"]],
        "limit": {**limit, "name": joint(limit["joint"])} if limit else None,
        "shared": [joint(id) for id in result["shared"]],
        "held": [joint(id) for id in result["held"]],
    }


def _inner(id: str, document: Assembly, telling: Telling, title: Any) -> str:
    """What a joint of an assembly inside is called: behind what leads to it."""
    *path, own = id.split("/")
    here: Any = document
    for step in path:
        component = here.component(step) if isinstance(here, Assembly) else None
        here = telling.other(component.key) if component else None
    found = here.joint(own) if isinstance(here, Assembly) else None
    return (
        " / ".join([title(f"{'/'.join(path)}/"), found.name]) if path and found else "another joint"
    )


@job("run", ("assembly",), RunOptions, reads=reads, told=told, version=2, about="run")
def run(bench: Bench, request: Json, options: RunOptions) -> dict[str, Any]:
    """A run gone through. Times in s, lengths in mm, angles in degrees, forces in N and N m, J and W."""
    document = load_document(request["document"])
    assert isinstance(document, Assembly)
    asked = document.run(options.run)
    if asked is None:
        raise BadInput("this run is no longer there")

    def report(low: float, high: float) -> Any:
        return lambda share, stage: bench.report(
            {"share": low + (high - low) * share, "stage": stage}
        )

    made = ready(bench, request, asked)
    looks = asked.clashes or bool(asked.watched)
    ran = gone(made.asked, report(0.0, 0.4 if looks else 1.0))
    clashes: list[Met] = []
    end = ran.frames[-1].time
    if asked.clashes and ran.course is not None and end > 0:
        swept = made.movers.followed(
            ran.course, 0.0, end, min(asked.frames, 120), on=True, progress=report(0.4, 0.8)
        )
        clashes = swept.clashes
    return {
        **_motion(made, ran),
        "clashes": [_clash(made, c) for c in clashes],
        "looked": asked.clashes,
        "watched": _watched(made, ran, report(0.8, 1.0)),
        "left": left_out(made.movers.built) if looks else [],
    }


def _frame(made: Ready, poses: Sequence[Pose], moving: set[str] | None = None) -> Json:
    """Where members stand, or those of them that move."""
    placed = made.movers.built.mechanism.placements(poses)
    return {
        id: {"p": np.round(p.p, 6).tolist(), "q": np.round(p.q, 9).tolist()}
        for id, p in placed.items()
        if moving is None or id in moving
    }


def _movers(made: Ready, ran: Ran) -> set[str]:
    """Members that stand elsewhere at any frame than they are kept, and what those are in."""
    found = set()
    for k, member in enumerate(made.movers.built.mechanism.members):
        stands = made.movers.built.solution.poses[k]
        if any(
            np.abs(f.poses[k].p - stands.p).max() > 1e-9
            or 1 - abs(float(f.poses[k].q @ stands.q)) > 1e-15
            for f in ran.frames
        ):
            found |= {member.id, top_of(member.id)}
    return found


def _motion(made: Ready, ran: Ran) -> Json:
    moving = {
        key for key in ran.frames[0].coordinates
        if np.ptp([f.coordinates[key][0] for f in ran.frames]) > 1e-9
        # What comes round to the same place at every frame moves all the same.
        or max(abs(f.coordinates[key][1]) for f in ran.frames) > 1e-9
    }  # fmt: skip
    movers = _movers(made, ran)
    return {
        "times": [round(f.time, 9) for f in ran.frames],
        "frames": [_frame(made, f.poses, movers) for f in ran.frames],
        "series": [*_coordinates(made, ran, moving), *_forces(made, ran), *_traces(made, ran)],
        "traces": [
            {"name": name, "points": [np.round(x, 5).tolist() for x in _way(ran, place)[0]]}
            for name, place in made.traced
        ],
        "driven": [list(key) for key in made.asked.laws],
        "freedom": ran.freedom,
        "weighed": made.asked.weighed,
        "limit": _limit(made.asked.mechanism, ran),
        "stuck": ran.stuck_at,
        "events": [
            {"time": e.time, "what": e.what, "joint": e.key[0],
             **_shown(made.asked.mechanism, e.key, e.value)}
            for e in ran.events
        ],
        "turning": [round(t, 9) for t in ran.turning],
        "shared": sorted({id for id in ran.shared if made.asked.mechanism.pair(id)}),
        "held": sorted({joint for joint, _ in made.held}),
        "balance": _balance(ran) if made.asked.weighed else None,
    }  # fmt: skip


def _shown(mechanism: Mechanism, key: Key, value: float) -> Json:
    pair = mechanism.pair(key[0])
    c = pair.joint.coordinate(key[1]) if pair else None
    return {"value": c.shown(value), "unit": c.unit} if c else {"value": value, "unit": ""}


def _limit(mechanism: Mechanism, ran: Ran) -> Json | None:
    if ran.limit is None:
        return None
    key = (ran.limit.joint, ran.limit.coordinate)
    return {"joint": key[0], "at": ran.frames[-1].time, **_shown(mechanism, key, ran.limit.value)}


def _series(id: str, quantity: str, unit: str, values: Sequence[float], **more: Any) -> Json:
    return {
        "id": id, "quantity": quantity, "unit": unit,
        "values": [float(f"{v:.{_DIGITS}g}") if abs(v) > _NOTHING else 0.0 for v in values], **more,
    }  # fmt: skip


def _counted_on(times: Floats, angles: Floats, speeds: Floats) -> Floats:
    """Angles (rad) that were read within a turn, with the whole turns that their speeds tell."""
    found = angles.copy()
    for k in range(1, len(found)):
        step = 0.5 * (speeds[k - 1] + speeds[k]) * (times[k] - times[k - 1])
        off = found[k - 1] + step - found[k]
        found[k] += 2 * np.pi * round(float(off) / (2 * np.pi))
    return found


def _coordinates(made: Ready, ran: Ran, moving: set[Key]) -> list[Json]:
    found = []
    times = np.array([f.time for f in ran.frames])
    for pair in made.asked.mechanism.pairs:
        for c in pair.joint.coordinates:
            key = (pair.id, c.name)
            # Where a joint has one coordinate its name says it all.
            label = c.label if len(pair.joint.coordinates) > 1 else ""
            of = {"joint": pair.id, "coordinate": c.name, "label": label}
            if key in moving:
                rows = np.array([f.coordinates[key] for f in ran.frames])
                if c.dimension == ANGLE:
                    rows[:, 0] = _counted_on(times, rows[:, 0], rows[:, 1])
                per = [[c.shown(float(v)) for v in column] for column in rows.T]
                unit = c.unit
                for k, (quantity, ending) in enumerate(
                    (("value", ""), ("speed", "/s"), ("acceleration", "/s²"))
                ):
                    found.append(_series(f"{quantity}:{pair.id}:{c.name}", quantity, unit + ending,
                                         per[k], **of))  # fmt: skip
            if key in ran.frames[0].efforts:
                scale, unit = (_NM, "N·m") if c.dimension == ANGLE else (_N, "N")
                values = [f.efforts[key] / scale for f in ran.frames]
                found.append(_series(f"effort:{pair.id}:{c.name}", "effort", unit, values, **of))
    return found


def _forces(made: Ready, ran: Ran) -> list[Json]:
    if not made.asked.weighed:
        return []
    found = []
    for id in ran.frames[0].wrenches:
        force = [float(np.linalg.norm(f.wrenches[id].force)) / _N for f in ran.frames]
        moment = [float(np.linalg.norm(f.wrenches[id].moment)) / _NM for f in ran.frames]
        found.append(_series(f"force:{id}", "force", "N", force, joint=id))
        if max(moment) > 1e-9:
            found.append(_series(f"moment:{id}", "moment", "N·m", moment, joint=id))
    power = [f.power / _NM for f in ran.frames]
    whole = [(f.kinetic + f.stored) / _NM for f in ran.frames]
    kinetic = [f.kinetic / _NM for f in ran.frames]
    return [
        *found,
        _series("kinetic", "energy", "J", kinetic, label="Energy of motion"),
        _series("energy", "energy", "J", whole, label="Energy in all"),
        _series("power", "power", "W", power, label="Power from outside"),
    ]


def _way(ran: Ran, place: tuple[int, Any]) -> tuple[Any, Any, Any]:
    """Where a place is at every frame, its velocity and its acceleration."""
    i, local = place
    at, speed, growth = [], [], []
    for f in ran.frames:
        arm = f.poses[i].rotation @ local
        v, a = f.speeds[i], f.accelerations[i]
        at.append(f.poses[i].p + arm)
        speed.append(v[:3] + np.cross(v[3:], arm))
        growth.append(a[:3] + np.cross(a[3:], arm) + np.cross(v[3:], np.cross(v[3:], arm)))
    return np.array(at), np.array(speed), np.array(growth)


def _traces(made: Ready, ran: Ran) -> list[Json]:
    found = []
    for k, (name, place) in enumerate(made.traced):
        at, speed, growth = _way(ran, place)
        for axis, label in enumerate("XYZ"):
            found.append(_series(f"at{label}:{k}", "place", "mm", at[:, axis], name=name,
                                 label=label))  # fmt: skip
        for quantity, unit, rows in (("speed", "mm/s", speed), ("acceleration", "mm/s²", growth)):
            sizes = np.linalg.norm(rows, axis=1)
            found.append(_series(f"{quantity}:{k}", quantity, unit, sizes, name=name, label=""))
    return found


def _balance(ran: Ran) -> Json:
    """What came from outside against what the energy grew by: two ways to one number. J."""
    times = np.array([f.time for f in ran.frames])
    work = (
        ran.work
        if ran.work is not None
        else float(np.trapezoid([f.power for f in ran.frames], times))
    )
    whole = [(f.kinetic + f.stored) / _NM for f in ran.frames]
    return {"work": work / _NM, "gained": whole[-1] - whole[0]}


def _clash(made: Ready, met: Met) -> Json:
    a, b = met.pair
    every = dict(enumerate(made.movers.spread(met.poses)))
    overlap, pose = made.movers.overlap(a, b, every)
    return {
        "value": met.start, "end": met.end, "a": a, "b": b, "depth": met.depth,
        "deepest": met.deepest, "volume": met.volume,
        "faces_a": list(overlap.faces_a) if overlap else [],
        "faces_b": list(overlap.faces_b) if overlap else [],
        "at": pose.out(np.array(overlap.at)).tolist() if overlap else None,
        "frame": _frame(made, met.poses),
    }  # fmt: skip


def _watched(made: Ready, ran: Ran, progress: Any) -> list[Json]:
    stands: list[Stand] = [(f.time, f.poses) for f in ran.frames]
    found = []
    for k, watch in enumerate(made.run.watched):
        ones, others = made.movers.under(watch.a), made.movers.under(watch.b)
        progress(k / len(made.run.watched), f"gap {k + 1} of {len(made.run.watched)}")
        assert ran.course is not None
        curve = clearance(
            ran.course,
            stands,
            partial(made.movers.gap, ones, others),
            partial(made.movers.rough_gap, ones, others),
        )
        found.append({
            "a": watch.a, "b": watch.b, "gaps": [float(f"{g:.{_DIGITS}g}") for g in curve.gaps],
            "within": curve.within, "least": curve.least, "value": curve.value, "frame": _frame(made, curve.poses),
            "near": [list(x) for x in curve.where] if curve.where else None,
        })  # fmt: skip
    return found
