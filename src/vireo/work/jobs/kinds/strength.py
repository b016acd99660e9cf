"""Stresses of a study: pose the problem, run the solver's process, keep the field."""

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
from vireo.core.documents.content import deciding
from vireo.core.documents.kinds.study import Study
from vireo.core.kernel.exchange import brep_text
from vireo.core.kernel.shape import Body
from vireo.core.strength.pose import StudyTrouble, pose_problem
from vireo.core.strength.problem import Answer, Problem
from vireo.core.trouble import Report, Trouble
from vireo.work.jobs.kind import Json, Options, job
from vireo.work.tasks.part import materials_of
from vireo.work.tasks.study import one_body
from vireo.work.worker import Bench

#: Raise when the solver would answer the same problem otherwise.
VERSION = 1


def reads(request: Json, options: Options) -> Any:
    """The part as the study sees it, what holds and loads it; materials by name, as the answer
    tells of them so."""
    names = {id: m["name"] for id, m in request["part"]["materials"].items()}
    return [deciding(request), names]


@job("strength", ("study",), reads=reads, version=VERSION)
def strength(bench: Bench, request: Json, options: Options) -> dict[str, Any]:
    """Solve a study. Progress as it goes; the field is kept under ``field`` by content."""
    document = load_document(request["document"])
    assert isinstance(document, Study)
    bench.report({"share": 0.01, "stage": "building the part"})
    key, body, topology, made_of = one_body(bench, request["part"])
    material = materials_of(request["part"]).get(made_of)
    if material is None:
        raise StudyTrouble("the part has no material that is known here")
    problem = pose_problem(document, body, topology, material)
    name = digest(["solved", VERSION, key, json.loads(problem.model_dump_json())])
    return {
        "answer": _solved(bench, name, body, problem),
        "field": name,
        "material": material.name,
        "yield": material.strength,
        "body": key,
    }


def _solved(bench: Bench, name: str, body: Body, problem: Problem) -> Json:
    """The answer to a problem, solved once for each content; its field is kept by the name."""
    kept, field = bench.disk.get(f"answer-{name}"), bench.disk.get(f"field-{name}")
    if kept is None or field is None:
        kept, field = _solve(bench, body, problem)
        bench.disk.put(f"answer-{name}", kept)
    bench.keep(f"field-{name}", field)
    return Answer.model_validate_json(kept).model_dump()


def _solve(bench: Bench, body: Body, problem: Problem) -> tuple[bytes, bytes]:
    """Answer as JSON and field for the screen, by the solver in a process of its own."""
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
        return (folder / "answer.json").read_bytes(), pack_field(np.load(folder / "field.npz"))


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
