"""A study document turned into a problem for the solver."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from vireo.core.documents.model import Load, Study
from vireo.core.kernel.measure import edge_line, mass_properties, sharp_inner_edges
from vireo.core.kernel.shape import Body
from vireo.core.material import Material
from vireo.core.naming import Pick, Topology, make_pick, resolve
from vireo.core.quantity import Quantity, evaluate, evaluate_parameters
from vireo.core.quantity.formula import FormulaError
from vireo.core.quantity.units import ACCELERATION, FORCE, LENGTH, PRESSURE, Dimension
from vireo.core.strength.problem import Applied, Fixed, Problem, Triple
from vireo.core.trouble import Offer, Trouble


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


def faces_of(picks: Sequence[Pick], topology: Topology, owner: str, what: str) -> tuple[int, ...]:
    """Face indices of picks. Raises StudyTrouble for a lost one, with the best match offered."""
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
                        label=f"Use the nearest face ({here.score:.0%} alike)",
                        fields={"faces": put},
                    )
                ]
            raise StudyTrouble(f"{what}: a picked face is no longer on the part", [owner], offers)
        found.append(here.index)
    return tuple(dict.fromkeys(found))


def _applied(load: Load, topology: Topology, names: dict[str, Quantity]) -> Applied:
    length = float(np.linalg.norm(load.direction))
    if load.kind != "pressure" and length < 1e-12:
        raise StudyTrouble(f"{load.name} has no direction", [f"load:{load.id}"])
    way = np.array(load.direction) / (length or 1.0)
    faces = faces_of(load.faces, topology, f"load:{load.id}", load.name)
    if load.kind == "pressure":
        pressure = _value(load.size, PRESSURE, names, load.name)
        return Applied(id=load.id, kind="pressure", faces=faces, pressure=pressure)
    dimension = FORCE if load.kind == "force" else ACCELERATION
    size = _value(load.size, dimension, names, load.name)
    vector: Triple = tuple(float(size * c) for c in way)  # type: ignore[assignment]
    return Applied(id=load.id, kind=load.kind, faces=faces, vector=vector)


def pose_problem(study: Study, body: Body, topology: Topology, material: Material) -> Problem:
    """Everything the solver needs. Raises StudyTrouble for lost picks and bad values."""
    parameters = evaluate_parameters(study.parameters)
    names = {n: e.value for n, e in parameters.items() if e.value is not None}
    fixed = tuple(
        Fixed(id=s.id, faces=faces_of(s.faces, topology, f"support:{s.id}", s.name))
        for s in study.supports
    )
    loads = tuple(_applied(load, topology, names) for load in study.loads)
    size = _value(study.mesh_size, LENGTH, names, "mesh size") if study.mesh_size else None
    if size is not None and size <= 0:
        raise StudyTrouble("the mesh size must be more than zero")
    held = {i for s in fixed for i in s.faces}
    borders = [
        i for i, e in enumerate(topology.edges) if len(set(e.faces) & held) == 1
    ]  # an edge between two held faces is no border
    return Problem(
        areas=tuple(f.area for f in topology.faces),
        volume=mass_properties(body).volume,
        young=material.young,
        poisson=material.poisson,
        density=material.density * 1e-12,
        strength=material.strength,
        mesh_size=size,
        fixed=fixed,
        loads=loads,
        inner_corners=tuple(tuple(edge_line(body, i)) for i in sharp_inner_edges(body)),
        support_borders=tuple(tuple(edge_line(body, i)) for i in borders),
    )
