"""Benches of whole assemblies: three hundred components, the tree of a large STEP file."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np

from tests.bench.rooms import _do, served


def three_hundred_from_cache() -> str:
    """Three hundred components of six parts, a hundred of them joined, put together again and
    answered with everything the picture needs but meshes it has."""
    with served() as server:
        project = server.call("POST", "/api/projects", {"name": "Bench"})[1]["id"]

        def made(kind: str, name: str) -> str:
            path = f"/api/projects/{project}/documents"
            id: str = server.call("POST", path, {"kind": kind, "name": name})[1]["id"]
            return id

        parts = []
        for n in range(6):
            part = made("part", f"Part {n}")
            steps: list[dict[str, Any]] = [
                {"do": "add_step", "kind": "primitive",
                 "fields": {"form": "box", "width": f"{20 + n} mm", "height": f"{9 + n} mm"}},
                {"do": "add_step", "kind": "port", "name": "Foot", "fields": {"flip": True}},
                {"do": "add_step", "kind": "port", "name": "Head", "fields": {"z": f"{9 + n} mm"}},
            ]  # fmt: skip
            _do(server, part, *steps)
            parts.append(part)
        whole = made("assembly", "Three hundred")
        _do(server, whole, *(
            {"do": "add_component", "document": parts[k % 6], "name": f"C{k}",
             "placement": {"p": [30.0 * (k % 20), 40.0 * (k // 20), 0.0]}}
            for k in range(300)
        ))  # fmt: skip
        _do(server, whole, *(
            {"do": "add_joint", "kind": "fixed", "a": {"component": f"c{k}", "datum": "s3"},
             "b": {"component": f"c{k + 1}", "datum": "s2"}}
            for k in range(1, 101)
        ))  # fmt: skip
        server.call("GET", f"/api/documents/{whole}/assembly")
        times = []
        for k in range(3):
            # Something else about it is new: nothing is answered from a kept answer as a whole.
            _do(server, whole, {"do": "edit_component", "id": "c300",
                                "placement": {"p": [1.0 + k, 0.0, 90.0]}})  # fmt: skip
            began = time.perf_counter()
            _, found = server.call("GET", f"/api/documents/{whole}/assembly")
            times.append(time.perf_counter() - began)
            assert len(found["leaves"]) == 300
            assert found["holds"]
    return f"{1e3 * min(times):.0f} ms, 101 of them in one piece"


def _large_step_file() -> bytes:
    from tests.core.test_handover import cube
    from vireo.core.kernel.exchange import Placed, write_step

    bodies = [cube(5.0 + 0.01 * k) for k in range(1200)]
    parts = [
        Placed(f"Part {k}", b, "#aa3311", np.eye(3), np.array([10.0 * k, 0, 0]), path=(f"c{k}",),
               titles=(f"Part {k}",))
        for k, b in enumerate(bodies)
    ]  # fmt: skip
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.step"
        write_step("Large", parts, str(path))
        return path.read_bytes()


def tree_of_a_large_step_file() -> str:
    """The product tree off the text, against reading the file with names and colours."""
    from vireo.core.exchange.steptree import step_tree
    from vireo.core.kernel.intake import read_shape

    data = _large_step_file()
    began = time.perf_counter()
    tree = step_tree(data)
    scan = time.perf_counter() - began
    began = time.perf_counter()
    read_shape(data)
    whole = time.perf_counter() - began
    assert len(tree.products) == 1201
    return f"{whole / scan:.0f}x ({1e3 * scan:.0f} ms of {whole:.1f} s, {len(data) / 1e6:.0f} MB)"


def one_product_of_a_large_step_file() -> str:
    """Reading one product cut out of the text, against reading the whole file."""
    from vireo.core.exchange.steppart import step_part
    from vireo.core.exchange.steptree import step_tree
    from vireo.core.kernel.products import taken_apart

    data = _large_step_file()
    began = time.perf_counter()
    leaf = next(n for n, p in step_tree(data).products.items() if not p.holds)
    found = taken_apart(step_part(data, {leaf})[0])
    one = time.perf_counter() - began
    assert len(found.bodies) == 1
    began = time.perf_counter()
    taken_apart(data)
    whole = time.perf_counter() - began
    return f"{whole / one:.1f}x ({one:.1f} s of {whole:.1f} s, {len(data) / 1e6:.0f} MB)"


ROWS = [
    (
        "one product of a STEP file against all of it",
        "at least 3x",
        one_product_of_a_large_step_file,
    ),
    ("three hundred components, from cache", "answered within 3 s", three_hundred_from_cache),
    ("the tree of a STEP file against reading it", "at least 5x", tree_of_a_large_step_file),
]
