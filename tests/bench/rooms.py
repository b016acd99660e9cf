"""Benches of the rooms: what must not be asked for again, solved again, uploaded again."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np

from tests.serving import Server


@contextmanager
def served(kind: str = "serve") -> Iterator[Server]:
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder) / "data", kind)
        try:
            yield server
        finally:
            server.stop()


def _do(server: Server, id: str, *commands: dict[str, Any]) -> Any:
    base = server.call("GET", f"/api/documents/{id}")[1]["revision"]
    status, found = server.call(
        "POST", f"/api/documents/{id}/commands", {"base": base, "commands": list(commands)}
    )
    assert status == 200, found
    return found


def drag_in_a_long_part() -> str:
    """One place of a drag in the sketch, in a part of one step and in one of 300."""
    from tests.bench.cases import _row_of_boxes

    drawing = _row_of_boxes(40).model_dump(mode="json")
    with served() as server:
        project = server.call("POST", "/api/projects", {"name": "Drags"})[1]["id"]

        def part(steps: int) -> str:
            made = {"kind": "part", "name": f"Of {steps}"}
            id = server.call("POST", f"/api/projects/{project}/documents", made)[1]["id"]
            numbers = [
                {"do": "add_parameter", "name": f"n{k}", "formula": f"{k + 1} mm"}
                for k in range(steps)
            ]
            sketches = [
                {"do": "add_step", "kind": "sketch", "fields": {"drawing": drawing}}
                for _ in range(steps)
            ]
            _do(server, id, *numbers)
            _do(server, id, *sketches)
            return id

        short, long = part(1), part(300)
        taken: dict[str, list[float]] = {short: [], long: []}
        for k in range(60):
            for id, times in taken.items():
                ask = {
                    "document": id, "drawing": drawing, "full": False,
                    "pull": {"p3": [40.0 + k, 30.0 + 0.5 * k]},
                }  # fmt: skip
                started = time.perf_counter()
                status, _ = server.call("POST", "/api/sketch/solve", ask)
                assert status == 200
                times.append(time.perf_counter() - started)
    one, many = (float(np.median(t[5:])) for t in taken.values())
    return f"{many / one:.2f}x ({many * 1e3:.1f} ms against {one * 1e3:.1f} ms a place)"


def study_after_a_rename() -> str:
    """The strength of the demo's lever asked again once a step of its part has another name."""
    with served("demo") as server:
        shelf = server.call("GET", "/api/shelf")[1]["projects"][0]["documents"]
        study = next(d["id"] for d in shelf if d["kind"] == "study")
        part = server.call("GET", f"/api/documents/{study}")[1]["document"]["part"]

        def answered() -> tuple[str, float]:
            started = time.perf_counter()
            job = server.call(
                "POST", f"/api/documents/{study}/jobs", {"kind": "strength", "options": {}}
            )[1]
            while job["state"] in ("queued", "running"):
                time.sleep(0.01)
                job = server.call("GET", f"/api/jobs/{job['id']}")[1]
            assert job["state"] == "done", job
            return job["id"], time.perf_counter() - started

        first, solved = answered()
        step = server.call("GET", f"/api/documents/{part}")[1]["document"]["steps"][0]["id"]
        _do(server, part, {"do": "rename_step", "id": step, "name": "Outline of the lever"})
        again, kept = answered()
    same = "the same answer, nothing solved" if again == first else "SOLVED AGAIN"
    return f"{same}: {kept * 1e3:.0f} ms against {solved:.1f} s"


def many_equal_components() -> str:
    """The same part once and 300 times on screen: geometries the graphics hold, time to the first
    picture."""
    from tests.browser.page import Page, open_browser

    with served("demo") as server:
        shelf = server.call("GET", "/api/shelf")[1]["projects"][0]
        part = next(d["id"] for d in shelf["documents"] if d["name"] == "Bearing block")

        def assembly(count: int) -> str:
            made = {"kind": "assembly", "name": f"{count} blocks"}
            id = server.call("POST", f"/api/projects/{shelf['id']}/documents", made)[1]["id"]
            _do(
                server, id,
                *(
                    {"do": "add_component", "document": part, "name": f"Block {k}",
                     "placement": {"p": (150.0 * (k % 20), 150.0 * (k // 20), 0.0)}}
                    for k in range(count)
                ),
            )  # fmt: skip
            server.call("GET", f"/api/documents/{id}/assembly")
            return id

        driver = open_browser()
        try:
            page = Page(driver, server.base)

            def shown(id: str, count: int) -> tuple[float, int, int]:
                started = time.perf_counter()
                page.go(f"/d/{id}")
                there = f"return window.__test && window.__test.bodies() === {count} && window.__test.frames() > 1"
                page.wait(lambda: page.js(there), "picture", 60)
                seconds = time.perf_counter() - started
                page.idle()
                return seconds, *page.js("return [window.__test.uploads(), window.__test.draws()]")

            one, many = assembly(1), assembly(300)
            _, alone, _ = shown(one, 1)
            seconds, uploads, draws = min(shown(many, 300) for _ in range(3))
        finally:
            driver.quit()
    once = "one upload" if uploads == alone else f"{uploads - alone} MORE UPLOADS"
    return f"{once} of geometry, {draws} draw calls for the whole picture, first picture {seconds:.2f} s"


ROWS = [
    (
        "sketch drag in a 300-step part against a one-step part",
        "at most 1.2x",
        drag_in_a_long_part,
    ),
    (
        "study asked again after a step of its part was renamed",
        "no solve",
        study_after_a_rename,
    ),
    (
        "300 equal components on screen",
        "one upload of geometry, first picture at most 2 s",
        many_equal_components,
    ),
]
