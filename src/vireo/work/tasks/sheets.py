"""Tasks on sheets: the blank to be seen, and as files."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from vireo.core.documents import load_document
from vireo.core.documents.kinds.part import Part
from vireo.core.kernel.exchange import Placed
from vireo.core.kernel.sheetread import NoSheet, read_sheet
from vireo.core.material import PLAIN
from vireo.core.naming.grammar import step_of
from vireo.core.panels.loops import Loop, Seg
from vireo.core.panels.places import flat as all_open
from vireo.core.part.products.sheets import SHEETS
from vireo.core.part.report import PartBuild
from vireo.core.sheet.allowance import KFactor
from vireo.core.sheet.blanks import Flat, FlatBend, FlatForm, FlatPatch, flattened
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.files import bend_table, blank_dxf, blank_pdf, blank_svg, told, told_form
from vireo.core.sheet.rules.kind import RULES, faults_of
from vireo.core.trouble import BadInput
from vireo.work.tasks.exchange import step_file
from vireo.work.tasks.part import build_part, materials_of
from vireo.work.worker import Bench, task

#: Curves of the screen turn by no more than this from one place to the next (rad).
_SEEN = 0.05


def sheet_of(found: PartBuild, body: str) -> tuple[str, SheetBody]:
    """The sheet a body of a part is, the first there is where none is named. Raises BadInput."""
    sheets = {id: kept for id in found.bodies if (kept := SHEETS.current(found.state, id))}
    id = body or next(iter(sheets), "")
    if id in sheets:
        return id, sheets[id].load()
    if id in found.bodies:
        raise BadInput(f"{found.bodies[id]['name']} is no sheet: it has no blank")
    raise BadInput(
        "this sheet is not there any more"
        if body
        else "there is no sheet in this part: Plate makes one"
    )


def titles(request: dict[str, Any]) -> Callable[[str], str]:
    """What the step is called that made a panel or a bend."""
    part = load_document(request["document"])
    assert isinstance(part, Part)
    names = {s.id: s.name for s in part.steps}
    return lambda id: names.get(step_of(id), id)


def all_built(found: PartBuild, title: Callable[[str], str]) -> None:
    """Raises BadInput where a step does not build: a blank without it is not to be cut."""
    failed = next((s.id for s in found.steps if s.status == "failed"), None)
    if failed is not None:
        raise BadInput(
            f"{title(failed)} does not build, and the blank would be cut without it: mend it, or put it to sleep",
            [f"step:{failed}"],
        )


@task("sheet_sizes")
def sheet_sizes(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """Thickness and bend radius of a body that is a sheet, or can be read as one. Raises BadInput."""
    found = build_part(bench, request["request"])
    id = request["body"]
    if id not in found.bodies:
        raise BadInput("this body is not there any more")
    kept = SHEETS.current(found.state, id)
    if kept is not None:
        body = kept.load()
        return {"thickness": body.sheet.thickness, "radius": body.radius}
    try:
        read = read_sheet(bench.cache.body(found.bodies[id]["key"]), KFactor().allowance, None)
    except NoSheet as trouble:
        raise BadInput(f"{found.bodies[id]['name']} is no sheet: {trouble.text}") from trouble
    return {"thickness": read.sheet.thickness, "radius": read.radius if read.sheet.bends else None}


@task("flat")
def flat(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """The blank of a sheet as the screen draws it; lengths in mm, areas in mm2, mass in g."""
    found = build_part(bench, request["request"])
    id, body = sheet_of(found, request["body"])
    made = flattened(body, request["side"], request["turn"])
    title = titles(request["request"])
    look = found.bodies[id]
    material = materials_of(request["request"]).get(look["material"])
    area = made.outline.area
    return {
        "body": id, "name": look["name"], "key": look["key"], "side": made.side, "turn": made.turn,
        "thickness": made.thickness, "size": made.size, "area": area,
        "mass": area * made.thickness * (material.density if material else 0.0) * 1e-6,
        "cut": made.outline.cut, "pierces": made.outline.pierces,
        "outline": [points(lp) for lp in made.outline.loops],
        "patches": [_patch(p) for p in made.patches],
        "bends": [{**_bend(b), "name": title(b.id)} for b in made.bends],
        "laps": [
            {"a": lap.a, "b": lap.b, "name_a": title(lap.a), "name_b": title(lap.b), "area": lap.area,
             "at": lap.at}
            for lap in made.laps
        ],
        "forms": [{**_form(f), "name": title(f.id)} for f in made.forms],
        "grain": made.grain,
        "faults": _faults(body, made, title),
        "sheets": [
            {"id": b, "name": found.bodies[b]["name"]}
            for b in found.bodies if SHEETS.current(found.state, b)
        ],
    }  # fmt: skip


def _faults(body: SheetBody, flat: Flat, title: Callable[[str], str]) -> list[dict[str, Any]]:
    """What cannot be made, with its place in the blank and on the body as it stands."""
    stands, middle = body.places(), 0.5 * body.sheet.thickness
    return [
        {
            "rule": f.rule, "label": RULES[f.rule].label, "patch": f.patch, "name": title(f.patch),
            "text": f.text, "mend": f.mend, "at": flat.place(f.patch, f.at),
            "spot": [float(v) for v in stands[f.patch].at(f.at, middle)],
        }
        for f in faults_of(body)
    ]  # fmt: skip


def _bend(bend: FlatBend) -> dict[str, Any]:
    return {
        "id": bend.id, "number": bend.number, "up": bend.up, "angle": bend.angle, "radius": bend.radius,
        "allowance": bend.allowance, "deduction": bend.deduction, "k": bend.k, "length": bend.length,
        "lines": bend.lines, "said": told(bend),
    }  # fmt: skip


def _form(form: FlatForm) -> dict[str, Any]:
    return {
        "id": form.id, "kind": form.kind, "up": form.up, "height": form.height, "pilot": form.pilot,
        "loops": [points(lp) for lp in form.loops], "path": _along(form.path) if form.path else [],
        "at": form.at, "said": told_form(form),
    }  # fmt: skip


def _patch(patch: FlatPatch) -> dict[str, Any]:
    return {
        "id": patch.id, "bend": patch.bend, "loops": [points(lp) for lp in patch.loops],
        "walls": [{"name": name, "points": _along([seg])} for name, seg in patch.walls],
    }  # fmt: skip


def points(loop: Loop) -> list[tuple[float, float]]:
    return _along(loop)[:-1]


def _along(segs: list[Seg] | Loop) -> list[tuple[float, float]]:
    found = [segs[0].a]
    for seg in segs:
        found += seg.points(_SEEN)[1:]
    return [(round(x, 6), round(y, 6)) for x, y in found]


@task("flat_file")
def flat_file(bench: Bench, request: dict[str, Any]) -> bytes:
    """The blank of a sheet as DXF, SVG, PDF or STEP, or the table of its bends as CSV. Raises BadInput where a step
    does not build: a blank without it would be cut."""
    found = build_part(bench, request["request"])
    title = titles(request["request"])
    all_built(found, title)
    id, body = sheet_of(found, request["body"])
    look = found.bodies[id]
    made = flattened(body, request["side"], request["turn"])
    writers: dict[str, Callable[[Flat], bytes]] = {
        "dxf": lambda flat: blank_dxf(flat, request["layers"]), "svg": blank_svg,
        "pdf": lambda flat: blank_pdf(flat, look["name"]),
        "step": lambda flat: _solid(f"{look['name']} blank", body),
        "csv": lambda flat: bend_table(flat, [title(b.id) for b in flat.bends]),
    }  # fmt: skip
    return writers[request["form"]](made)


def _solid(name: str, body: SheetBody) -> bytes:
    """The sheet laid flat as a solid in a STEP file."""
    flat = body.body(all_open(body.sheet))
    return step_file(name, [Placed(name, flat, PLAIN, np.eye(3), np.zeros(3))])
