"""Tasks on parts: build, mesh, regions of a drawing, measuring."""

from __future__ import annotations

import time
from collections.abc import Mapping
from functools import partial
from typing import Any

from vireo.core.declared.fields import Brought, PlaneRef, Underlay
from vireo.core.documents import load_document
from vireo.core.documents.kinds.part import Part
from vireo.core.kernel.forms.kind import form_of
from vireo.core.kernel.mesh import tessellate
from vireo.core.maps import pack as pack_map
from vireo.core.maps.kind import made
from vireo.core.material import Material
from vireo.core.naming import Pick, swaps
from vireo.core.part.build import Builder
from vireo.core.part.context import Context
from vireo.core.part.links import Place, brought_curves
from vireo.core.part.mending import alike_in, outline_of_pick, picks_in
from vireo.core.part.products.kind import all_products
from vireo.core.part.products.numbers import NUMBERS
from vireo.core.part.products.sketch import region_views
from vireo.core.part.report import PartBuild
from vireo.core.part.sketchdata import SketchData
from vireo.core.part.state import topology_by_key
from vireo.core.part.trouble import LostPick
from vireo.core.quantity import Evaluated
from vireo.core.quantity.shown import Units, shown_in
from vireo.core.sketch import Drawing
from vireo.core.sketch.linking import relink
from vireo.core.steps.sketch import plane_of
from vireo.core.trouble import BadInput
from vireo.core.viewmesh import kept_as, pack, topology_json
from vireo.work.worker import Bench, task


def materials_of(request: dict[str, Any]) -> dict[str, Material]:
    """The materials of a part and its bodies by id."""
    return {id: Material.model_validate(m) for id, m in request.get("materials", {}).items()}


def build_part(bench: Bench, request: dict[str, Any]) -> PartBuild:
    """Build the part in a request: document, materials, files, other parts, doomed steps, upto."""
    part = load_document(request["document"])
    assert isinstance(part, Part)
    others: dict[str, Any] = request.get("others", {})

    def other(id: str) -> PartBuild:
        if id not in others:
            raise BadInput("the part it takes from is no longer in this project")
        return build_part(bench, others[id])

    builder = Builder(
        bench.cache,
        blob=partial(bench.file, request.get("files", {}).get("project", "")),
        doomed=request.get("doomed"),
        on_step=lambda index, id, key: bench.report({"step": id, "index": index, "key": key}),
        other=other,
        search=request.get("search", True),
        on_search=lambda id: bench.report({"step": id, "searching": True}),
    )
    return builder.build(part, materials_of(request), request.get("upto"))


@task("build")
def build(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """Build a part and make its bodies ready to be seen."""
    found = build_part(bench, request)
    started = time.perf_counter()
    for body in found.bodies.values():
        if not bench.disk.has(kept_as(body["key"])):
            bench.report({"mesh": body["key"]})
            mesh(bench, {"key": body["key"]})
    meshing = time.perf_counter() - started
    return {**report(found, request, bench.disk.trouble), "mesh_seconds": meshing}


@task("ghost")
def ghost(bench: Bench, request: dict[str, Any]) -> list[list[tuple[float, float, float]]] | None:
    """Lines of what a pick stands for in the part of a request; None when it is lost there."""
    return outline_of_pick(Pick.model_validate(request["pick"]), build_part(bench, request).state)


@task("alike")
def alike(bench: Bench, request: dict[str, Any]) -> list[dict[str, Any]]:
    """Lost picks of the whole part that stand for one thing each when a pick is put in another's
    place and the same faces are swapped in them."""
    old, new = (Pick.model_validate(request[k]) for k in ("old", "new"))
    changes = swaps(old, new)
    part = load_document(request["document"])
    assert isinstance(part, Part)
    found = []
    for index, step in enumerate(part.steps):
        if changes and not step.asleep and any(picks_in(step.fields)):
            before = build_part(bench, {**request, "upto": index}).state
            found += alike_in(step, before, changes)
    return [
        {"step": a.step, "old": a.old.model_dump(mode="json"), "new": a.new.model_dump(mode="json")}
        for a in found
        if not (a.step == request["step"] and a.old == old)
    ]


@task("bring")
def bring(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """What links bring into a sketch plane: the drawing with them, ids of what is lost.

    The request is that of a part up to the sketch, with plane, drawing, underlays and the links
    `brought`; those that bring nothing any more leave the drawing as it was and are told.
    """
    found = build_part(bench, request)
    names = {n: e.value for n, e in found.parameters.items() if e.value is not None}
    ctx = Context(
        "bring",
        found.state,
        {},
        partial(bench.file, request.get("files", {}).get("project", "")),
        names,
    )
    frame = plane_of(PlaneRef.model_validate(request["plane"]), ctx)
    place = Place(frame, [Underlay.model_validate(u) for u in request["underlays"]])
    drawing = Drawing.model_validate(request["drawing"])
    lost: dict[str, Any] = {}
    every = [Brought.model_validate(b) for b in request["brought"]]
    for one in every:
        try:
            drawing = relink(drawing, one.id, *brought_curves(one, every, place, ctx))
        except LostPick as trouble:
            lost[one.id] = trouble.report().model_dump()
    return {"drawing": drawing.model_dump(mode="json"), "lost": lost}


@task("user_kinds")
def user_kinds(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """The user's own kinds of step as their files are now."""
    return bench.shelf.described()


@task("mesh")
def mesh(bench: Bench, request: dict[str, Any]) -> bytes:
    """The view buffer of a body by its content key."""
    key = request["key"]
    kept = bench.disk.get(kept_as(key))
    if kept is not None:
        return kept
    body = bench.cache.body(key)
    data = pack(tessellate(body), topology_by_key(key, body))
    bench.disk.put(kept_as(key), data)
    return data


@task("map")
def map_of(bench: Bench, request: dict[str, Any]) -> bytes:
    """A map of a body by its content key: a value at every place of its skin."""
    body = bench.cache.body(request["key"])
    form = form_of(body)
    if form.word != "solid":
        raise BadInput(
            f"{form.article} has no such map: only a solid has an inside to look through"
        )
    data = pack_map(made(request["kind"], body, request["way"]))
    bench.disk.put(request["name"], data)
    return data


@task("topology")
def topology(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """Faces, edges and corners of a body by its content key."""
    key = request["key"]
    return topology_json(topology_by_key(key, bench.cache.body(key)))


@task("regions")
def regions(bench: Bench, request: dict[str, Any]) -> list[dict[str, Any]]:
    """Regions of curves as `SketchData` stores them."""
    return region_views(SketchData.from_json(request["sketch"]).curves)


def parameter_views(
    found: Mapping[str, Evaluated], document: dict[str, Any]
) -> dict[str, dict[str, Any]]:
    """Values of parameters in working units, as shown, and what is wrong with them."""
    units = {p["name"]: p.get("unit") for p in document["parameters"]}
    shows = Units.model_validate(document.get("units", {}))
    return {
        name: {
            "value": e.value.working if e.value else None,
            "shown": shown_in(e.value, shows, units.get(name)) if e.value else None,
            "dimension": e.value.dimension.name if e.value else None,
            "uses": list(e.uses),
            "trouble": e.trouble.model_dump() if e.trouble else None,
        }
        for name, e in found.items()
    }


def report(found: PartBuild, request: dict[str, Any], disk: str | None) -> dict[str, Any]:
    """The build as the screen gets it. Masses in g, lengths in mm, volumes in mm3."""
    steps = []
    for s in found.steps:
        steps.append(
            {
                "id": s.id, "status": s.status, "bodies": s.bodies, "volume": s.volume,
                "mass": s.mass, "change": s.change, "seconds": s.seconds, "kept": s.kept,
                "caption": s.caption, "values": s.values, "counted": list(s.counted),
                "notes": [n.model_dump() for n in s.notes],
                "error": s.error.model_dump() if s.error else None,
                "misses_target": s.misses_target,
                **{k: v for p in all_products() for k, v in p.view(s).items()},
            }
        )  # fmt: skip
    units = Units.model_validate(request["document"].get("units", {}))
    painted, lost = found.paints, found.lost_paints
    shown = (
        "key",
        "name",
        "volume",
        "area",
        "centre",
        "mass",
        "colour",
        "opacity",
        "material",
        "tool",
        "form",
        "sheet",
    )
    bodies = [
        {"id": id, **{k: b[k] for k in shown},
         "paints": [{"face": i, "colour": c} for i, c in sorted(painted.get(id, {}).items())]}
        for id, b in found.bodies.items()
    ]  # fmt: skip
    return {
        "lost_paints": lost,
        "steps": steps, "bodies": bodies, "volume": found.volume,
        "parameters": parameter_views(found.parameters, request["document"]),
        "measured": [
            {"step": s.id, "name": n, "value": q.working, "shown": shown_in(q, units),
             "dimension": q.dimension.name}
            for s in found.steps for n, q in (s.made(NUMBERS) or {}).items() if s.status == "ok"
        ],
        "marks": [
            {k: v for k, v in m.to_json().items() if k != "faces"}
            for marks in found.marks.values() for m in marks
        ],
        "mass": found.mass, "centre": found.centre, "area": found.area, "cache_trouble": disk,
    }  # fmt: skip
