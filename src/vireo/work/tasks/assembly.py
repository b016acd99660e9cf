"""Tasks on assemblies: put together, interference, motion, hand over."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import replace
from typing import Any

import numpy as np

from vireo.core.assembly.build import (
    Built,
    BuiltPart,
    Leaf,
    Library,
    Solid,
    build_assembly,
    mass_of,
)
from vireo.core.assembly.exploding import taken_apart
from vireo.core.assembly.joining import Holds
from vireo.core.assembly.mechanism import Pair
from vireo.core.assembly.pose import Pose
from vireo.core.assembly.replacing import rematched
from vireo.core.assembly.seats import DrawnThread, Place
from vireo.core.assembly.site import site_of
from vireo.core.assembly.snapping import snaps_of
from vireo.core.assembly.tones import toned
from vireo.core.declared.copying import about
from vireo.core.declared.joint import Coordinate, EndTrouble
from vireo.core.documents import load_document
from vireo.core.documents.base import Choice, key_parts
from vireo.core.documents.commands import parse
from vireo.core.documents.commands.base import run
from vireo.core.documents.frames import JointEnd
from vireo.core.documents.kind import dump
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.documents.members import called
from vireo.core.geometry import Run
from vireo.core.kernel.exchange import Placed
from vireo.core.kernel.locate import run_of
from vireo.core.kernel.measure import box_of
from vireo.core.kernel.ways import way_of
from vireo.core.lately import Lately
from vireo.core.naming import Topology
from vireo.core.naming.grammar import all_parts, original_of
from vireo.core.part.products.datum import DATUMS
from vireo.core.part.products.repeats import REPEATS
from vireo.core.part.report import PartBuild
from vireo.core.part.state import topology_by_key
from vireo.core.quantity import evaluate_parameters
from vireo.core.thumbnail import draw
from vireo.core.trouble import BadInput
from vireo.core.viewmesh import kept_as
from vireo.core.ways import Way
from vireo.work.tasks.exchange import glb_file, picture_of, step_file
from vireo.work.tasks.part import build_part, mesh, parameter_views
from vireo.work.tasks.weighing import numbers_of
from vireo.work.worker import Bench, task

_BOXES = Lately[str, tuple[Any, Any]](4096)


def _box(bench: Bench, key: str) -> tuple[Any, Any]:
    return _BOXES.get(key, lambda: box_of(bench.cache.body(key).shape))


def topology_of_key(bench: Bench, key: str) -> Topology:
    return topology_by_key(key, bench.cache.body(key))


def library_of(bench: Bench, request: dict[str, Any]) -> Library:
    """Every document the assembly reaches, parts built."""
    found: dict[str, BuiltPart | Assembly] = {}
    for id, entry in request["documents"].items():
        if "assembly" in entry:
            inner = load_document(entry["assembly"])
            assert isinstance(inner, Assembly)
            found[id] = inner
            continue
        part = build_part(bench, entry["part"])
        solids, keys = [], {}
        bought = any(s["kind"] == "hardware" for s in entry["part"]["document"]["steps"])
        for body, data in part.handed_over.items():
            low, high = _box(bench, data["key"])
            keys[body] = data["key"]
            solids.append(
                Solid(body, data["key"], data["volume"], data["mass"],
                      tuple(data["centre"]), data["colour"], low, high,
                      part.dresses[body].name or entry["part"]["document"]["name"]
                      if len(part.handed_over) == 1 else data["name"], part.paints.get(body, {}),
                      part.dresses[body].colour is not None, data["form"],
                      _threads(bench, part, data["key"]), bought)
            )  # fmt: skip
        troubles = tuple(
            f"step {s.id} is not built: {s.error.text}" for s in part.steps if s.error is not None
        )
        name = entry["part"]["document"]["name"]

        def topology(body: str, keys: dict[str, str] = keys) -> Topology:
            return topology_of_key(bench, keys[body])

        titles = {s["id"]: s["name"] for s in entry["part"]["document"]["steps"]}
        places = {
            step.id: Place(
                titles.get(step.id, step.id), datum.form, datum.word, datum.frame, datum.turns
            )
            for step in part.steps
            if (datum := step.made(DATUMS)) is not None and step.error is None
        }

        repeats = {s.id: made for s in part.steps if s.error is None and (made := s.made(REPEATS))}

        def run(body: str, edge: int, keys: dict[str, str] = keys) -> Run:
            return run_of(bench.cache.body(keys[body]).edges[edge])

        def way(body: str, edge: int, keys: dict[str, str] = keys) -> Way:
            return way_of(bench.cache.body(keys[body]), topology_of_key(bench, keys[body]), edge)

        found[id] = BuiltPart(
            name, tuple(solids), topology, troubles[:1], places, run, repeats, way
        )
    return found


def _threads(bench: Bench, part: PartBuild, key: str) -> tuple[DrawnThread, ...]:
    """The drawn threads that lie on a body."""
    marks = [m for made in part.marks.values() for m in made]
    if not marks:
        return ()
    names = all_parts(bench.cache.body(key).names)
    return tuple(
        DrawnThread(m.frame, m.radius, m.pitch)
        for m in marks
        if not m.faces or names & set(m.faces)
    )


def put_together(bench: Bench, request: dict[str, Any]) -> Built:
    assembly = load_document(request["document"])
    assert isinstance(assembly, Assembly)
    return build_assembly(assembly, library_of(bench, request))


@task("opposite_at")
def opposite_at(bench: Bench, request: dict[str, Any]) -> list[dict[str, Any]]:
    """Where the opposites of components stand, each made as a mirror image in its own YZ."""
    built = put_together(bench, request["request"])
    seats = {s.id: i for i, s in enumerate(built.seats)}
    origin, normal = np.zeros(3), np.eye(3)["XYZ".index(request["axis"])]
    if request["of"]:
        holds = Holds(library_of(bench, request["request"]), built.seats, seats)
        try:
            seat, frame = holds.end(JointEnd.model_validate(request["of"]))
        except EndTrouble as trouble:
            raise BadInput(f"the mirror cannot lie there: {trouble.text}") from trouble
        if frame.nature != "plane":
            raise BadInput("the mirror is a flat face: pick one, or take an axis of the assembly")
        pose = built.solution.poses[seat]
        origin, normal = pose.out(frame.origin), pose.rotation @ frame.axes[:, 2]
    mirror = about(origin, np.eye(3) - 2 * np.outer(normal, normal))
    own = np.diag([-1.0, 1.0, 1.0, 1.0])
    found = []
    for id in request["components"]:
        if id not in seats:
            raise BadInput("what is copied is no longer in the assembly")
        stands = built.solution.poses[seats[id]].matrix()
        found.append(Pose.of(mirror @ stands @ own).to_json())
    return found


@task("assemble")
def assemble(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """An assembly as the screen gets it. g, mm; joint coordinates in degrees or mm."""
    built = put_together(bench, request)
    for leaf in built.leaves:
        if not bench.disk.has(kept_as(leaf.solid.key)):
            mesh(bench, {"key": leaf.solid.key})
    document = built.document

    def standing(position: str) -> Built:
        moved = run(parse({"do": "take_position", "id": position}), document)
        return put_together(bench, {**request, "document": dump(moved)})

    numbers = numbers_of(bench, document, built, standing)
    given = {n.of.name: n.value for n in numbers if n.value is not None}
    # A formula that uses what cannot be weighed is told that, and not that nobody knows the name.
    lost = [n.of.name for n in numbers if n.value is None]
    values = evaluate_parameters(document.parameters, given, lost)
    return {
        **report(built, request),
        "parameters": parameter_views(values, request["document"]),
        "weighed": [n.to_json(document.units) for n in numbers],
    }


def report(built: Built, request: dict[str, Any]) -> dict[str, Any]:
    solution = built.solution
    masses: dict[str, float] = defaultdict(float)
    for leaf in built.leaves:
        # What a copy weighs is said of the copy, not of what it was made of.
        masses[leaf.path[0] if leaf.carried else leaf.member] += leaf.solid.mass
    placed = built.mechanism.placements(solution.poses)
    components = [
        {
            "id": m.id,
            "matrix": pose.column_major(),
            "freedom": solution.loose.get(m.id, 0),
            "mass": sum(v for k, v in masses.items() if k == m.id or k.startswith(f"{m.id}/")),
            "placement": placed[m.id].to_json(),
        }
        for m, pose in zip(built.mechanism.members, solution.poses, strict=True)
    ]
    joints = []
    for entry in built.entries:
        joint = entry.joint
        trouble = built.joint_troubles.get(joint.id)
        pair = built.mechanism.pair(joint.id)
        joints.append(
            {
                "id": joint.id,
                "name": joint.name,
                "kind": joint.kind,
                "inner": entry.inner,
                "coordinates": _coordinates(pair, solution.coordinates[pair.id]) if pair else [],
                "repeats": joint.id in solution.repeats,
                "flipped": pair.flipped if pair else bool(joint.flip),
                "turning": joint.id in solution.turning,
                "trouble": trouble.model_dump() if trouble else None,
            }
        )
    total, centre = mass_of(built.leaves)
    tones = toned(built.leaves)
    return {
        "components": components,
        "joints": joints,
        "leaves": [_leaf(leaf, tones[leaf.id]) for leaf in built.leaves],
        "copies": [
            {
                "id": id,
                "numbers": built.spread.numbers.get(id, []),
                "note": built.spread.notes.get(id, ""),
                "trouble": t.model_dump() if (t := built.spread.troubles.get(id)) else None,
            }
            for id in sorted({*built.spread.numbers, *built.spread.troubles})
        ],
        "occurrences": _occurrences(built),
        "properties": _properties(request),
        "members": _members(request),
        "freedom": solution.freedom,
        "redundant": solution.redundant,
        "holds": solution.holds,
        "mass": total,
        "centre": centre.tolist() if centre is not None else None,
        "troubles": [t.model_dump() for t in built.troubles],
        "mechanism": built.mechanism.with_poses(solution.poses).to_json(),
    }


def _members(request: dict[str, Any]) -> dict[str, str]:
    """What the members of documents are called that the components of the assembly itself are, by
    component."""
    documents = request["documents"]
    found = {}
    assembly = load_document(request["document"])
    assert isinstance(assembly, Assembly)
    for component in assembly.components:
        entry = documents.get(component.key)
        if component.key == component.document or entry is None:
            continue
        inner = load_document(
            entry["assembly"] if "assembly" in entry else entry["part"]["document"]
        )
        found[component.id] = called(inner, component.choice or Choice())
    return found


def _properties(request: dict[str, Any]) -> dict[str, dict[str, str]]:
    """What is said of the documents an assembly reaches, by their ids."""
    found = {}
    for key, entry in request["documents"].items():
        id = key_parts(key)[0]
        document = entry["assembly"] if "assembly" in entry else entry["part"]["document"]
        said = {p["name"]: p["value"] for p in document.get("properties", ()) if p["value"]}
        if said:
            found[id] = said
    return found


def _occurrences(built: Built) -> list[list[str]]:
    """Paths of all copies: of what they lead to, each once."""
    paths = {leaf.path[: k + 1] for leaf in built.leaves
             for k, id in enumerate(leaf.path) if original_of(id) != id}  # fmt: skip
    return [list(p) for p in sorted(paths)]


def _coordinates(pair: Pair, values: dict[str, float]) -> list[dict[str, Any]]:
    """The coordinates of a joint as they stand, in the units they are shown in."""

    def shown(c: Coordinate, value: float | None) -> float | None:
        return None if value is None else c.shown(value)

    # Round a closed way it reads from nothing to all of it.
    around = (0.0, pair.way.length) if pair.way else (None, None)

    def ends(c: Coordinate) -> dict[str, float | None]:
        least, most = pair.limits.get(c.name, around)
        return {"least": shown(c, least), "most": shown(c, most)}

    return [
        {
            "name": c.name, "label": c.label, "unit": c.unit, "value": c.shown(values[c.name]),
            **ends(c),
        }
        for c in pair.joint.coordinates
    ]  # fmt: skip


def _leaf(leaf: Leaf, colour: str) -> dict[str, Any]:
    return {
        "id": leaf.id,
        "component": leaf.path[0],
        "path": list(leaf.path[1:]),
        "body": leaf.solid.id,
        "document": key_parts(leaf.document)[0],
        "name": leaf.name,
        "names": list(leaf.names),
        "member": leaf.member,
        "carried": [
            {"about": c.about, "matrix": [float(v) for v in c.matrix.T.ravel()]}
            for c in leaf.carried
        ],
        "key": leaf.solid.key,
        "colour": colour,
        "plain": leaf.solid.colour,
        "mass": leaf.solid.mass,
        "reference": leaf.reference,
        "matrix": leaf.pose.column_major(),
    }


@task("snaps")
def snaps(bench: Bench, request: dict[str, Any]) -> list[dict[str, Any]]:
    """Where a component fits by its ports."""
    library = library_of(bench, request["request"])
    assembly = load_document(request["request"]["document"])
    assert isinstance(assembly, Assembly)
    built = build_assembly(assembly, library)
    return [s.to_json() for s in snaps_of(assembly, built, library, request["component"])]


@task("apart")
def apart(bench: Bench, request: dict[str, Any]) -> list[dict[str, Any]]:
    """An assembly taken apart along its joints. mm."""
    found = taken_apart(put_together(bench, request))
    return [{"components": list(s.components), "by": list(s.by)} for s in found]


@task("replacement")
def replacement(bench: Bench, request: dict[str, Any]) -> list[dict[str, Any]]:
    """What held a component, found again on the document put in its place."""
    document = load_document(request["request"]["document"])
    assert isinstance(document, Assembly)
    library = library_of(bench, request["request"])
    component = document.component(request["component"])
    before = library.get(component.key) if component else None
    new = library.get(request["with"])
    found = rematched(
        document, request["component"], new if isinstance(new, BuiltPart) else None,
        before if isinstance(before, BuiltPart) else None,
    )  # fmt: skip
    return [c.to_json() for c in found]


@task("hardware_site")
def hardware_site(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """Where hardware goes: the hole a picked edge is the mouth of. mm."""
    built = put_together(bench, request["request"])
    end = JointEnd.model_validate(request["end"])
    solids = [leaf for leaf in built.leaves if leaf.solid.form == "solid"]
    return site_of(end, solids, lambda leaf: topology_of_key(bench, leaf.solid.key)).to_json()


def _placed(bench: Bench, request: dict[str, Any]) -> list[Placed]:
    built = put_together(bench, request)
    return [
        Placed(leaf.name, bench.cache.body(leaf.solid.key), leaf.solid.colour,
               leaf.pose.rotation, leaf.pose.p, leaf.solid.name, leaf.solid.paints, leaf.solid.key,
               leaf.path, leaf.names)
        for leaf in built.leaves if not leaf.reference
    ]  # fmt: skip


@task("assembly_step")
def assembly_step(bench: Bench, request: dict[str, Any]) -> bytes:
    """An assembly as STEP with names, colours and shared prototypes."""
    parts = _placed(bench, request)
    if not parts:
        raise BadInput("there is nothing in this assembly to hand over yet")
    return step_file(request["document"]["name"], parts, request.get("schema", "AP214"))


@task("assembly_glb")
def assembly_glb(bench: Bench, request: dict[str, Any]) -> bytes:
    """An assembly as triangles in a binary glTF file, with its structure; `deviation` in mm."""
    parts = _placed(bench, request)
    if not parts:
        raise BadInput("there is nothing in this assembly to hand over yet")
    return glb_file(request["document"]["name"], parts, request["deviation"])


@task("assembly_thumbnail")
def assembly_thumbnail(bench: Bench, request: dict[str, Any]) -> str:
    """A small SVG of an assembly."""
    built = put_together(bench, request)
    shown = [leaf for leaf in built.leaves if not leaf.reference]
    tones = toned(shown)
    pictures = []
    for leaf in shown:
        body = picture_of(bench.cache.body(leaf.solid.key), tones[leaf.id])
        r, p = leaf.pose.rotation, leaf.pose.p
        pictures.append(
            replace(
                body, points=body.points @ r.T + p, normals=body.normals @ r.T,
                edges=[e @ r.T + p for e in body.edges],
            )
        )  # fmt: skip
    return draw(pictures)
