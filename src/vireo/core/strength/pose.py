"""A study document turned into a problem for the solver."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from vireo.core.documents.kinds.study import Load, Study, Support
from vireo.core.kernel.measure import edge_line, mass_properties, sharp_inner_edges
from vireo.core.kernel.shape import Body
from vireo.core.material import Material
from vireo.core.naming import Pick, Topology, make_pick, resolve
from vireo.core.naming.topology import FaceInfo
from vireo.core.quantity import Quantity, evaluate, evaluate_parameters
from vireo.core.quantity.formula import FormulaError
from vireo.core.quantity.units import ACCELERATION, FORCE, LENGTH, PRESSURE, Dimension
from vireo.core.strength.problem import Applied, Held, Problem, Slide, Triple
from vireo.core.trouble import Offer, Report, Trouble


class StudyTrouble(Trouble):
    code = "study"


def _value(formula: str, dimension: Dimension, names: dict[str, Quantity], what: str) -> float:
    try:
        found = evaluate(formula, names)
    except FormulaError as error:
        raise StudyTrouble(f"{what}: {error.text}") from error
    if found.dimension != dimension:
        raise StudyTrouble(
            f"{what} needs {dimension.name}, but “{formula}” is {found.dimension.name}"
        )
    return found.working


def found_on(
    picks: Sequence[Pick], topology: Topology, owner: str, what: str, field: str = "faces"
) -> tuple[int, ...]:
    """Indices of picks. Raises StudyTrouble for a lost one, with the best match offered as the
    new value of `field`."""
    found = []
    for pick in picks:
        here = resolve(pick, topology)
        if here.index is None:
            offers = []
            if here.proposal is not None:
                better = make_pick(topology, pick.body, pick.kind, here.proposal)
                put = [(better if p == pick else p).model_dump(mode="json") for p in picks]
                offers = [
                    Offer(
                        label=f"Use the nearest {pick.kind} ({here.score:.0%} alike)",
                        fields={field: put},
                    )
                ]
            raise StudyTrouble(
                f"{what}: a picked {pick.kind} is no longer on the part", [owner], offers
            )
        found.append(here.index)
    return tuple(dict.fromkeys(found))


def _applied(load: Load, topology: Topology, names: dict[str, Quantity]) -> Applied:
    length = float(np.linalg.norm(load.direction))
    if load.kind != "pressure" and length < 1e-12:
        raise StudyTrouble(f"{load.name} has no direction", [f"load:{load.id}"])
    way = np.array(load.direction) / (length or 1.0)
    faces = found_on(load.faces, topology, f"load:{load.id}", load.name)
    if load.kind == "pressure":
        pressure = _value(load.size, PRESSURE, names, load.name)
        return Applied(id=load.id, kind="pressure", faces=faces, pressure=pressure)
    dimension = FORCE if load.kind == "force" else ACCELERATION
    size = _value(load.size, dimension, names, load.name)
    vector: Triple = tuple(float(size * c) for c in way)  # type: ignore[assignment]
    return Applied(id=load.id, kind=load.kind, faces=faces, vector=vector)


def _held(support: Support, topology: Topology) -> Held:
    owner = f"support:{support.id}"
    faces = found_on(support.faces, topology, owner, support.name)
    slides: tuple[Slide, ...] = ()
    if support.hold == "across":
        slides = tuple(_slide(i, topology.faces[i], owner, support.name) for i in faces)
    return Held(
        id=support.id,
        faces=faces,
        edges=found_on(support.edges, topology, owner, support.name, "edges"),
        ways=support.ways if support.hold == "chosen" else (True, True, True),
        slides=slides,
    )


def _slide(index: int, face: FaceInfo, owner: str, what: str) -> Slide:
    if face.kind not in ("plane", "cylinder", "sphere"):
        raise StudyTrouble(
            f"{what}: only flat, cylindrical and spherical faces can slide in themselves; "
            f"this one is {face.kind}",
            [owner],
        )
    direction = face.direction or (0.0, 0.0, 1.0)
    return Slide(face=index, kind=face.kind, origin=face.origin, direction=direction)


def lost(study: Study, topology: Topology) -> list[Report]:
    """Picks of supports and loads that are no longer on the part."""
    troubles = []
    owned = [(f"support:{s.id}", s.name, s.faces, "faces") for s in study.supports]
    owned += [(f"support:{s.id}", s.name, s.edges, "edges") for s in study.supports]
    owned += [(f"load:{x.id}", x.name, x.faces, "faces") for x in study.loads]
    for owner, name, picks, field in owned:
        try:
            found_on(picks, topology, owner, name, field)
        except StudyTrouble as trouble:
            troubles.append(trouble.report())
    return troubles


def pose_problem(study: Study, body: Body, topology: Topology, material: Material) -> Problem:
    """Everything the solver needs. Raises StudyTrouble for lost picks and bad values."""
    parameters = evaluate_parameters(study.parameters)
    names = {n: e.value for n, e in parameters.items() if e.value is not None}
    held = tuple(_held(s, topology) for s in study.supports)
    loads = tuple(_applied(load, topology, names) for load in study.loads)
    size = _value(study.mesh_size, LENGTH, names, "mesh size") if study.mesh_size else None
    if size is not None and size <= 0:
        raise StudyTrouble("the mesh size must be more than zero")
    clamped = {i for h in held if all(h.ways) and not h.slides for i in h.faces}
    borders = {
        i for i, e in enumerate(topology.edges) if len(set(e.faces) & clamped) == 1
    }  # an edge between two such faces is no border
    borders |= {i for h in held for i in h.edges}
    return Problem(
        areas=tuple(f.area for f in topology.faces),
        lengths=tuple(e.length for e in topology.edges),
        volume=mass_properties(body).volume,
        young=material.young,
        poisson=material.poisson,
        density=material.density * 1e-12,
        strength=material.strength,
        mesh_size=size,
        held=held,
        loads=loads,
        inner_corners=tuple(tuple(edge_line(body, i)) for i in sharp_inner_edges(body)),
        support_borders=tuple(tuple(edge_line(body, i)) for i in sorted(borders)),
    )
