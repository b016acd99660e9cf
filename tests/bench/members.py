"""Benches of variants: switching between what is known, proving many at once."""

from __future__ import annotations

import statistics
import time
from functools import lru_cache

from tests.bench.rooms import _do, served
from tests.serving import Server
from vireo.work.forking import cores

COUNT, STEPS = 24, 20


def _family(server: Server) -> tuple[str, list[str]]:
    """A plate of 20 steps with holes and bosses in 24 sizes, none of them built."""
    project = server.call("POST", "/api/projects", {"name": "Sizes"})[1]["id"]
    made = {"kind": "part", "name": "Plate"}
    id = server.call("POST", f"/api/projects/{project}/documents", made)[1]["id"]
    _do(server, id, {"do": "add_parameter", "name": "wide", "formula": "200 mm"})
    _do(server, id, {"do": "add_step", "kind": "primitive", "fields": {
        "form": "box", "width": "wide", "depth": "80 mm", "height": "10 mm"}})  # fmt: skip
    for k in range(STEPS - 1):
        boss = k % 2 == 0
        _do(server, id, {"do": "add_step", "kind": "primitive", "fields": {
            "form": "cylinder", "diameter": "12 mm" if boss else "6 mm", "height": "18 mm",
            "x": f"wide * {k + 1} / {STEPS + 1}", "y": "20 mm" if boss else "60 mm",
            "result": "add" if boss else "cut"}})  # fmt: skip
    found = _do(server, id, {"do": "add_column", "drives": "parameter", "of": {"name": "wide"}})
    column = found["document"]["columns"][0]["id"]
    found = _do(server, id, *(
        {"do": "add_variant", "name": f"{w} wide", "cells": {column: {"formula": f"{w} mm"}}}
        for w in range(210, 210 + 5 * (COUNT - 1), 5)
    ))  # fmt: skip
    return id, [v["id"] for v in found["document"]["variants"]]


@lru_cache(1)
def _measured() -> dict[str, str]:
    with served() as server:
        id, rows = _family(server)
        asked = {"kind": "prove", "options": {}}
        job = server.call("POST", f"/api/documents/{id}/jobs", asked)[1]
        while job["state"] in ("queued", "running"):
            time.sleep(0.02)
            job = server.call("GET", f"/api/jobs/{job['id']}")[1]
        result = job["result"]
        kernel = sum(row["seconds"] for row in result["rows"])
        ratio = result["seconds"] / (kernel / cores())
        proved = (
            f"{ratio:.2f}x ({result['seconds']:.1f} s for {len(result['rows'])} members, "
            f"{kernel:.1f} s of building on {cores()} cores)"
        )
        gaps = []
        for k in range(12):
            row = rows[(7 * k) % len(rows)]
            started = time.perf_counter()
            _do(server, id, {"do": "choose", "variant": row})
            built = server.call("GET", f"/api/documents/{id}/build")[1]
            assert all(s["kept"] for s in built["steps"])
            gaps.append(time.perf_counter() - started)
        switched = f"{1000 * statistics.median(gaps):.0f} ms median of {len(gaps)}"
    return {"prove": proved, "switch": switched}


ROWS = [
    (
        "proving 24 members of a 20-step part",
        "at most 1.15x of the sum of their building on all cores",
        lambda: _measured()["prove"],
    ),
    (
        "switching between two known variants",
        "at most 150 ms beyond transfer",
        lambda: _measured()["switch"],
    ),
]
