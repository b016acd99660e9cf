"""Drawing: tools, solving, help. Pure mathematics, so it runs here, not in a worker."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from vireo.core.documents.kinds.part import as_part
from vireo.core.geometry import Frame
from vireo.core.part.sketchdata import SketchData
from vireo.core.quantity import ANGLE, DIMENSIONS, Quantity, format_quantity
from vireo.core.sketch import Drawing, curves_of, solve_drawing
from vireo.core.sketch.advice import gaps, measured, motions, proposals, reachable
from vireo.core.sketch.constraints import KINDS
from vireo.core.sketch.tools import ToolTrouble, use
from vireo.core.trouble import BadInput, Offer, Report
from vireo.server.api import Room, services
from vireo.server.views.layouts import BringRequest, BroughtView
from vireo.server.views.part import CurveView
from vireo.server.views.sketch import (
    DrawRequest,
    DrawView,
    MeasureRequest,
    MotionsView,
    ProposalsView,
    ProposalView,
    ReadingsView,
    ReadingView,
    RegionsView,
    SketchRequest,
    SolvedView,
    SolveRequest,
)

room = Room("sketch")
#: Drawn by the screen from their points.
_PLAIN = ("point", "line", "circle")


def _names(document: str) -> dict[str, Quantity]:
    work = services()
    found: dict[str, Quantity] = work.builds.values(work.store.document(document))
    return found


def _polylines(drawing: Drawing, only: set[str] | None = None) -> list[CurveView]:
    forms = {e.id: e.form for e in drawing.entities}
    if only is None and all(f in _PLAIN for f in forms.values()):
        return []
    return [
        CurveView(id=id, points=curve.points(0.06))
        for id, curve in curves_of(drawing, construction=True)
        if (id.split(".")[0] in only if only is not None else forms[id.split(".")[0]] not in _PLAIN)
    ]


@room.route("POST", "/sketch/solve", body=SolveRequest, answer=SolvedView)
def solve_sketch(body: SolveRequest) -> SolvedView:
    """Solve a drawing, say what is loose and what clashes; drags when `pull` is given."""
    names = _names(body.document)
    solved = solve_drawing(body.drawing, names, body.pull, body.full)
    troubles = solved.troubles
    if not solved.holds and body.edited in {c.id for c in body.drawing.constraints}:
        assert body.edited is not None
        troubles = [*_how_far(body.drawing, body.edited, names), *troubles]
    return SolvedView(
        drawing=solved.drawing,
        values=solved.values,
        freedom=solved.freedom,
        loose=solved.loose,
        holds=solved.holds,
        culprits=list(solved.culprits),
        loop=list(solved.loop),
        troubles=troubles,
        curves=_polylines(solved.drawing),
    )


def _how_far(drawing: Drawing, id: str, names: dict[str, Quantity]) -> list[Report]:
    found = reachable(drawing, id, names)
    if found is None:
        return []
    c = next(k for k in drawing.constraints if k.id == id)
    angle = KINDS[c.type].dimension == ANGLE
    text = f"{found * 57.29577951308232:.4g} deg" if angle else f"{found:.4g} mm"
    return [
        Report(
            code="no_solution",
            text=f"{KINDS[c.type].label.lower()} {c.formula} has no solution here; "
            f"it can go as far as {text}",
            where=[f"constraint:{id}"],
            offers=[Offer(label=f"Use {text}", fields={"formula": text})],
        )
    ]


@room.route("POST", "/sketch/draw", body=DrawRequest, answer=DrawView)
def draw(body: DrawRequest) -> DrawView:
    """Use a tool: the changed drawing and how what changed looks."""
    names = _names(body.document)
    try:
        made = use(
            body.tool, body.drawing, body.spots, body.texts, body.selected, names,
            body.construction,
        )  # fmt: skip
    except ToolTrouble as trouble:
        return DrawView(drawing=body.drawing, touched=[], curves=[], trouble=trouble.text)
    return DrawView(
        drawing=made.drawing,
        touched=list(made.touched),
        curves=_polylines(made.drawing, set(made.touched)),
        read=made.read,
        chain=made.chain,
    )


@room.route("POST", "/sketch/bring", body=BringRequest, answer=BroughtView)
def bring(body: BringRequest) -> BroughtView:
    """Link geometry from elsewhere into a drawing, or bring what is linked up to date."""
    return bring_into(body)


def bring_into(body: BringRequest) -> BroughtView:
    """The drawing with what its links bring now, and the links that are lost."""
    record = services().store.document(body.document)
    part = as_part(record.document, "only parts hold sketches")
    index = next((i for i, s in enumerate(part.steps) if s.id == body.step), None)
    if index is None:
        raise BadInput(f"there is no sketch {body.step} in this part")
    _, request = services().builds.request(record.project, part, index)
    ask = {
        **request,
        "plane": part.steps[index].fields.get("plane", {}),
        **body.model_dump(mode="json", include={"brought", "underlays", "drawing"}),
    }
    found = services().builds.run("bring", ask, sticky=body.document)
    drawing = Drawing.model_validate(found["drawing"])
    own = {b.id for b in body.brought}
    touched = {e.id for e in drawing.entities if e.source in own}
    return BroughtView(
        drawing=drawing,
        touched=sorted(touched),
        curves=_polylines(drawing, touched),
        lost={id: Report.model_validate(r) for id, r in found["lost"].items()},
    )


@room.route("POST", "/sketch/regions", body=SketchRequest, answer=RegionsView)
def sketch_regions(body: SketchRequest) -> Any:
    """Closed regions of a drawing as it stands, and the open ends that keep others open."""
    data = SketchData("", Frame(), curves_of(body.drawing), {})
    found = services().queue.call("regions", {"sketch": data.to_json()}, sticky=body.document)
    return {"regions": found, "gaps": [asdict(g) for g in gaps(body.drawing)]}


@room.route("POST", "/sketch/settle", body=SketchRequest, answer=ProposalsView)
def settle(body: SketchRequest) -> ProposalsView:
    """Conditions and sizes that would settle what is loose."""
    found = proposals(body.drawing, _names(body.document))
    return ProposalsView(
        proposals=[
            ProposalView(constraint=p.constraint, words=p.words, takes=p.takes) for p in found
        ]
    )


@room.route("POST", "/sketch/motions", body=SketchRequest, answer=MotionsView)
def sketch_motions(body: SketchRequest) -> Any:
    """The independent ways in which the drawing can still move."""
    return {"motions": [asdict(m) for m in motions(body.drawing, _names(body.document))]}


@room.route("POST", "/sketch/measure", body=MeasureRequest, answer=ReadingsView)
def measure_sketch(body: MeasureRequest) -> ReadingsView:
    """Sizes of what is selected: of one thing, between two, along a chain."""
    found = measured(body.drawing, body.selected)
    return ReadingsView(
        readings=[
            ReadingView(
                label=r.label, value=r.value, dimension=r.dimension,
                shown=format_quantity(Quantity(r.value, DIMENSIONS[r.dimension])),
            )
            for r in found.readings
        ],
        line=found.line,
    )  # fmt: skip
