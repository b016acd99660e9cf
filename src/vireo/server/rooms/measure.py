"""Reading sizes off, and mass properties."""

from __future__ import annotations

from typing import Any

from vireo.core.documents import Document, kind_of
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.documents.kinds.part import as_part
from vireo.core.naming.grammar import original_of
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
    """Mass properties of bodies of a part at its marker, or of components as they stand."""
    kind, request, document = _ask(id)
    if kind == "assemble":
        _there(document, body.bodies)
        if body.position is not None:
            record = services().store.document(id)
            take = {"do": "take_position", "id": body.position}
            moved, _ = services().builds.applied(record, [take])
            _, request = services().builds.request(record.project, moved)
    else:
        as_part(document, "a study has no mass of its own; its part has")
    ask = {"request": request, "bodies": body.bodies, "frame": body.frame}
    task = "weigh_components" if kind == "assemble" else "weigh"
    found = services().builds.run(task, ask, sticky=id)
    if found is None:
        raise BadInput("there is nothing to weigh: no body, or no material with a density")
    return found


def _there(document: Document, components: list[str]) -> None:
    """That an assembly has some components, or copies of them. Raises NotFound."""
    assert isinstance(document, Assembly)
    known = {c.id for c in document.components}
    if any(original_of(c) not in known for c in components):
        raise NotFound("what is to be weighed is no longer in the assembly")


@room.route("GET", "/documents/<id>/steps/<step>/change", answer=ChangeView)
def change(id: str, step: str) -> Any:
    """What a step did: bodies before and after it, the material it added and took away."""
    _, request, document = _ask(id)
    if as_part(document, "only parts have steps").step(step) is None:
        raise NotFound("there is no such step")
    return services().builds.run("change", {"request": request, "step": step}, sticky=id)
