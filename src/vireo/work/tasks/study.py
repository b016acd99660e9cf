"""Tasks on strength studies: pose the problem, run the solver's process, keep the field."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

import numpy as np

from vireo.core.digest import digest
from vireo.core.documents import load_document
from vireo.core.documents.kinds.study import Study
from vireo.core.kernel.exchange import brep_text
from vireo.core.kernel.shape import Body
from vireo.core.naming import Topology
from vireo.core.part.state import topology_by_key
from vireo.core.quantity import evaluate_parameters
from vireo.core.strength.pose import StudyTrouble, lost, pose_problem
from vireo.core.strength.problem import Answer
from vireo.core.trouble import Report, Trouble
from vireo.work.tasks.part import build_part, materials_of, mesh, parameter_views, report
from vireo.work.worker import Bench, task


def _one_body(bench: Bench, request: dict[str, Any]) -> tuple[str, Body, Topology, str]:
    """The only body of the part: its key, shape, faces and the id of its material."""
    found = build_part(bench, request)
    broken = next((s for s in found.steps if s.error is not None), None)
    if broken is not None and broken.error is not None:
        raise StudyTrouble(f"the part is not built: {broken.error.text}")
    bodies = found.handed_over
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
        _, _, topology, _ = _one_body(bench, request["part"])
        troubles += [report.model_dump() for report in lost(document, topology)]
    except Trouble as trouble:
        troubles.append(trouble.report().model_dump())
    parameters = evaluate_parameters(document.parameters)
    return {
        "part": report(part, request["part"], bench.disk.trouble),
        "troubles": troubles,
        "parameters": parameter_views(parameters, request["document"]),
    }


@task("strength")
def strength(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """Solve a study. Progress as it goes; the field is kept under ``field`` by content."""
    document = load_document(request["study"]["document"])
    assert isinstance(document, Study)
    bench.report({"share": 0.01, "stage": "building the part"})
    key, body, topology, made_of = _one_body(bench, request["study"]["part"])
    material = materials_of(request["study"]["part"]).get(made_of)
    if material is None:
        raise StudyTrouble("the part has no material that is known here")
    problem = pose_problem(document, body, topology, material)
    with tempfile.TemporaryDirectory(prefix="vireo-fem-") as name:
        folder = Path(name)
        (folder / "problem.json").write_text(problem.model_dump_json())
        brep_text(body, str(folder / "body.brep"))
        # What it says besides goes to a file: a pipe nobody reads fills up and holds it for ever.
        with (folder / "said.txt").open("w") as other:
            process = subprocess.Popen(
                [sys.executable, "-m", "vireo.work.fem", name],
                stdout=subprocess.PIPE, stderr=other, text=True,
                env={**os.environ, "OPENBLAS_NUM_THREADS": "1"},
            )  # fmt: skip
            assert process.stdout is not None
            for line in process.stdout:
                if line.startswith("{"):
                    bench.report(json.loads(line))
            process.wait()
        said = folder / "trouble.json"
        if said.exists():
            raise _told(Report.model_validate_json(said.read_text()))
        if process.returncode != 0:
            raise StudyTrouble(f"the strength solver stopped (exit {process.returncode})")
        answer = Answer.model_validate_json((folder / "answer.json").read_text())
        data = np.load(folder / "field.npz")
        field = pack_field(data)
    name_of = digest(["field", key, json.loads(problem.model_dump_json())])
    bench.disk.put(f"field-{name_of}", field)
    return {
        "answer": answer.model_dump(),
        "field": name_of,
        "material": material.name,
        "yield": material.strength,
        "body": key,
    }


def _told(report: Report) -> Trouble:
    trouble = StudyTrouble(report.text, report.where, report.offers)
    trouble.code = report.code
    return trouble


FIELD_MAGIC = 0x4C4656


def pack_field(data: Any) -> bytes:
    """Surface of a solution for the screen, little endian: 8 x u32 header (magic, version,
    nodes, triangles, 4 spare), points f32x3, displacement f32x3, von Mises f32, triangles u32x3,
    face of each triangle u32. Each curved triangle becomes four."""
    six = data["surface"]
    split = six[:, [[0, 3, 5], [3, 1, 4], [5, 4, 2], [3, 4, 5]]].reshape(-1, 3)
    used, inverse = np.unique(split, return_inverse=True)
    header = np.zeros(8, dtype="<u4")
    header[:4] = (FIELD_MAGIC, 1, len(used), len(split))
    return b"".join(
        (
            header.tobytes(),
            data["points"][used].astype("<f4").tobytes(),
            data["displacement"][used].astype("<f4").tobytes(),
            data["von_mises"][used].astype("<f4").tobytes(),
            inverse.reshape(-1, 3).astype("<u4").tobytes(),
            np.repeat(data["face"], 4).astype("<u4").tobytes(),
        )
    )
