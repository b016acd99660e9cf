"""Tasks on strength studies: pose the problem, run the solver's process, keep the field."""

from __future__ import annotations

from typing import Any

from vireo.core.documents import load_document
from vireo.core.documents.kinds.study import Study
from vireo.core.kernel.shape import Body
from vireo.core.naming import Topology
from vireo.core.part.state import topology_by_key
from vireo.core.quantity import evaluate_parameters
from vireo.core.strength.pose import StudyTrouble, lost
from vireo.core.trouble import Trouble
from vireo.work.tasks.part import build_part, mesh, parameter_views, report
from vireo.work.worker import Bench, task


def one_body(bench: Bench, request: dict[str, Any]) -> tuple[str, Body, Topology, str]:
    """The only body of the part: its key, shape, faces and the id of its material."""
    found = build_part(bench, request)
    broken = next((s for s in found.steps if s.error is not None), None)
    if broken is not None and broken.error is not None:
        raise StudyTrouble(f"the part is not built: {broken.error.text}")
    bodies = found.solids
    if len(bodies) != 1:
        raise StudyTrouble(f"a study needs a part with one body; this one has {len(bodies)}")
    only = next(iter(bodies.values()))
    key = only["key"]
    body = bench.cache.body(key)
    return key, body, topology_by_key(key, body), only["material"]


@task("study")
def study(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """The part as the study sees it, and what is wrong with supports and loads."""
    document = load_document(request["document"])
    assert isinstance(document, Study)
    part = build_part(bench, request["part"])
    for body in part.bodies.values():
        mesh(bench, {"key": body["key"]})
    troubles: list[dict[str, Any]] = []
    try:
        _, _, topology, _ = one_body(bench, request["part"])
        troubles += [report.model_dump() for report in lost(document, topology)]
    except Trouble as trouble:
        troubles.append(trouble.report().model_dump())
    parameters = evaluate_parameters(document.parameters)
    return {
        "part": report(part, request["part"], bench.disk.trouble),
        "troubles": troubles,
        "parameters": parameter_views(parameters, request["document"]),
    }
