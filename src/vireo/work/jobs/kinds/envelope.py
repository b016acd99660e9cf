"""The room a component takes up over a run, or while a joint goes: a closed body to model against."""

from __future__ import annotations

from bisect import bisect
from collections.abc import Sequence
from typing import Any

import numpy as np
from pydantic import Field

from vireo.core.assembly.pose import Pose
from vireo.core.assembly.titles import leaf_titles
from vireo.core.digest import digest
from vireo.core.documents import load_document
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.exchange.printed import Printed, stl
from vireo.core.kernel.facets import facet_body
from vireo.core.kernel.measure import topology_of
from vireo.core.kernel.mesh import tessellate
from vireo.core.motion.course import Course, Stand, followed, one, stood
from vireo.core.motion.envelope import Envelope, envelope
from vireo.core.motion.run import run as gone
from vireo.core.trouble import BadInput
from vireo.core.viewmesh import kept_as, pack
from vireo.work.jobs.acting import acting
from vireo.work.jobs.kind import Json, Options, Telling, job
from vireo.work.tasks.moving import Movers, Moving
from vireo.work.tasks.running import ready
from vireo.work.worker import Bench


class EnvelopeOptions(Options):
    """Of a `component` (a path of ids), over a `run`, or while a `joint` (a `coordinate` of it, its first
    when none is named) goes from `start` to `end`, degrees or mm. `fine` is the grid in mm, chosen by
    the size when it is 0."""

    component: str = Field(max_length=400)
    run: str = Field(default="", max_length=24)
    joint: str = Field(default="", max_length=24)
    coordinate: str | None = Field(default=None, max_length=24)
    start: float = Field(default=0.0, allow_inf_nan=False)
    end: float = Field(default=0.0, allow_inf_nan=False)
    fine: float = Field(default=0.0, ge=0, le=1000, allow_inf_nan=False)


def reads(request: Json, options: EnvelopeOptions) -> Any:
    document = request["document"]
    asked = next((r for r in document.get("runs", ()) if r["id"] == options.run), None)
    said = {k: v for k, v in (asked or {}).items() if k not in ("id", "name", "watched", "traced")}
    return [acting(request), said, document.get("parameters")]


def told(result: Json, telling: Telling) -> Json:
    title = leaf_titles(telling.document, telling.other)
    return {**result, "name": title(f"{result['component']}/")}


class _Along:
    """Where the members stand at any value of a course: from the nearest stand that is known."""

    def __init__(self, course: Course, stands: Sequence[Stand]) -> None:
        self._course, self._stands = course, sorted(stands, key=lambda s: s[0])
        self._values = [s[0] for s in self._stands]

    def at(self, value: float) -> list[Pose]:
        k = bisect(self._values, value)
        here = min(self._stands[max(k - 1, 0) : k + 1], key=lambda s: abs(s[0] - value))
        if here[0] == value:
            return here[1]
        found = stood(self._course, value, here)
        if found is None:
            raise BadInput(f"the mechanism cannot stand at {value:.4g} on its way")
        return found[1]


@job("envelope", ("assembly",), EnvelopeOptions, reads=reads, told=told)
def swept(bench: Bench, request: Json, options: EnvelopeOptions) -> dict[str, Any]:
    """The envelope as a body of flat faces in the coordinates of the assembly, as a picture and as STL;
    its volume, how far it lies off the component at most, how that was looked at."""

    def report(share: float, stage: str) -> None:
        bench.report({"share": share, "stage": stage})

    movers, course, stands = _way(bench, request, options)
    ids = movers.under(options.component)
    along = _Along(course, stands)
    found = envelope(
        movers.skins(ids), lambda v: movers.carriers(ids, along.at(v)),
        stands[0][0], stands[-1][0], len(stands) - 1, fine=options.fine, progress=report,
    )  # fmt: skip
    return {"component": options.component, "run": options.run, **_kept(bench, found)}


def _way(
    bench: Bench, request: Json, options: EnvelopeOptions
) -> tuple[Movers, Course, list[Stand]]:
    """What moves, the course it goes along, and stands on that as far as it goes."""
    if options.run:
        document = load_document(request["document"])
        assert isinstance(document, Assembly)
        asked = document.run(options.run)
        if asked is None:
            raise BadInput("this run is no longer there")
        made = ready(bench, request, asked)
        ran = gone(made.asked)
        stands: list[Stand] = [(f.time, f.poses) for f in ran.frames]
        if ran.course is None or len(stands) < 2:
            raise BadInput("this run goes nowhere: nothing takes up more room than it stands in")
        return made.movers, ran.course, stands
    if not options.joint:
        raise BadInput("an envelope is of a run, or of a joint that goes from one value to another")
    moving = Moving(bench, request, options.joint, options.coordinate)
    c = moving.coordinate
    start, end = c.internal(options.start), c.internal(options.end)
    if start == end:
        raise BadInput("the motion begins and ends at the same place")
    course = one(moving.mechanism, moving.pair.id, c.name)
    found = followed(course, start, end, 24)
    if found is None or len(found.stands) < 2:
        raise BadInput(f"the mechanism cannot go on from {options.start:g}")
    return moving, course, sorted(found.stands, key=lambda s: s[0])


def _kept(bench: Bench, found: Envelope) -> Json:
    mesh = found.mesh
    file = stl([Printed("envelope", "", mesh.points, mesh.corners)], False)
    key = digest(["envelope", np.round(mesh.points, 6).tolist(), mesh.corners.tolist()])
    body = facet_body(mesh, "envelope")
    bench.keep(kept_as(key), pack(tessellate(body, None, 0.3), topology_of(body)))
    bench.disk.put(f"envelope-{key}", file)
    return {
        "key": key, "volume": found.volume, "over": found.over, "stands": found.stands,
        "witnesses": found.witnesses, "faces": len(topology_of(body).faces),
    }  # fmt: skip
