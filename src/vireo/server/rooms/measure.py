"""Reading sizes off, and mass properties."""

from __future__ import annotations

from typing import Any

from vireo.core.documents import kind_of
from vireo.core.documents.kinds.part import as_part
from vireo.core.trouble import BadInput
from vireo.server.api import Room, services
from vireo.server.views.measure import MassView, PicksRequest, SizesView, WeighRequest
from vireo.server.views.part import ChangeView
from vireo.store import NotFound

room = Room("measure")


def _ask(id: str) -> tuple[str, dict[str, Any], Any]:
    record = services().store.document(id)
    kind = kind_of(record.document)
    if not kind.measurable:
        raise BadInput(
            f"{kind.article} has no shape of its own to measure; measure what it looks at"
        )
    task, request = services().builds.request(record.project, record.document)
    return task, request, record.document


@room.route("POST", "/documents/<id>/measure", body=PicksRequest, answer=SizesView)
def measure_picks(id: str, body: PicksRequest) -> Any:
    """What there is to read of picks: alone, against each other, together."""
    kind, request, _ = _ask(id)
    ask = {"kind": kind, "request": request, "picks": body.picks, "frame": body.frame}
    return services().builds.run("measure", ask, sticky=id)


@room.route("POST", "/documents/<id>/weigh", body=WeighRequest, answer=MassView)
def weigh(id: str, body: WeighRequest) -> Any:
    """Mass properties of bodies of a part at its marker."""
    _, request, document = _ask(id)
    as_part(document, "bodies are weighed in their part; the assembly shows its mass itself")
    ask = {"request": request, "bodies": body.bodies, "frame": body.frame}
    found = services().builds.run("weigh", ask, sticky=id)
    if found is None:
        raise BadInput("there is nothing to weigh: no body, or no material with a density")
    return found


@room.route("GET", "/documents/<id>/steps/<step>/change", answer=ChangeView)
def change(id: str, step: str) -> Any:
    """What a step did: bodies before and after it, the material it added and took away."""
    _, request, document = _ask(id)
    if as_part(document, "only parts have steps").step(step) is None:
        raise NotFound("there is no such step")
    return services().builds.run("change", {"request": request, "step": step}, sticky=id)
