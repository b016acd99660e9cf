"""Bench of checks: one edit, and what all cheap checks take beyond the work of the kernel."""

from __future__ import annotations

import statistics
import time

from tests.bench.rooms import _do, served

COUNT = 9


def _gap() -> str:
    """A plate with twelve cheap checks, its width changed: from the edit to all answers, less what the same
    tasks took in the kernel when nothing was kept of them."""
    with served() as server:
        project = server.call("POST", "/api/projects", {"name": "Checks"})[1]["id"]
        made = {"kind": "part", "name": "Plate"}
        id = server.call("POST", f"/api/projects/{project}/documents", made)[1]["id"]
        _do(server, id, {"do": "add_parameter", "name": "wide", "formula": "80 mm"})
        _do(server, id, {"do": "add_step", "kind": "primitive", "fields": {
            "form": "box", "width": "wide", "depth": "60 mm", "height": "10 mm"}})  # fmt: skip
        for k in range(6):
            _do(server, id, {"do": "add_step", "kind": "primitive", "fields": {
                "form": "cylinder", "diameter": "6 mm", "height": "10 mm", "x": f"{10 + 10 * k} mm",
                "y": "20 mm", "result": "cut"}})  # fmt: skip
        for kind, limit, fields in (
            ("mass", "1 kg", {}), ("volume", "1 m^3", {}), ("parameter", "1 m", {"parameter": "wide"}),
            *(("size", "1 m", {"axis": a}) for a in "xyz"),
            *(("centre", "1 m", {"axis": a}) for a in "xyz"),
            ("hole_count", "100", {}), ("open_edges", "0", {}), ("hole_count", "9", {"diameter": "6"}),
        ):  # fmt: skip
            _do(
                server,
                id,
                {"do": "add_check", "kind": kind, "name": kind, "limit": limit, "fields": fields},
            )
        server.call("GET", f"/api/documents/{id}/checks")
        gaps = []
        for k in range(COUNT):
            started = time.perf_counter()
            _do(server, id, {"do": "edit_parameter", "name": "wide", "formula": f"{81 + k} mm"})
            found = server.call("GET", f"/api/documents/{id}/checks")[1]["checks"]
            whole = time.perf_counter() - started
            assert all(c["state"] in ("holds", "fails") for c in found)
            built = server.call("GET", f"/api/documents/{id}/build")[1]
            gaps.append(whole - sum(s["seconds"] for s in built["steps"]))
        return f"{1000 * statistics.median(gaps):.0f} ms median of {COUNT}, with 12 checks"


ROWS = [
    (
        "one edit to all cheap checks run again",
        "at most 300 ms beyond kernel time",
        _gap,
    ),
]
