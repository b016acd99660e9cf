"""Solving a drawing while it is drawn. Pure mathematics, so it runs here, not in a worker."""

from __future__ import annotations

from typing import Any

from vireo.core.geometry import Frame
from vireo.core.part.sketchdata import SketchData
from vireo.core.quantity import evaluate_parameters
from vireo.core.sketch import curves_of, solve_drawing
from vireo.server.api import Room, services
from vireo.server.views import RegionsView, SolvedView, SolveRequest

room = Room("sketch")


@room.route("POST", "/sketch/solve", body=SolveRequest, answer=SolvedView)
def solve_sketch(body: SolveRequest) -> SolvedView:
    """Solve a drawing, say what is loose and what clashes; drags when `pull` is given."""
    document = services().store.document(body.document).document
    found = evaluate_parameters(document.parameters)
    names = {n: e.value for n, e in found.items() if e.value is not None}
    solved = solve_drawing(body.drawing, names, body.pull, body.full)
    return SolvedView(
        drawing=solved.drawing,
        values=solved.values,
        freedom=solved.freedom,
        loose=solved.loose,
        holds=solved.holds,
        culprits=list(solved.culprits),
        loop=list(solved.loop),
        troubles=solved.troubles,
    )


@room.route("POST", "/sketch/regions", body=SolveRequest, answer=RegionsView)
def sketch_regions(body: SolveRequest) -> Any:
    """Closed regions of a drawing as it stands."""
    curves = curves_of(body.drawing)
    data = SketchData("", Frame(), curves, {})
    found = services().supervisor.call("regions", {"sketch": data.to_json()}, sticky=body.document)
    return {"regions": found}
