"""Benches of motion: dragging that stops at contact, how far a joint goes, a run with its forces."""

from __future__ import annotations

import statistics
import time
from typing import Any

from tests.bench.rooms import served


def _demo(server: Any) -> dict[str, str]:
    projects = server.call("GET", "/api/shelf")[1]["projects"]
    return {d["name"]: d["id"] for p in projects for d in p["documents"]}


def dragging_with_contact() -> str:
    """The door of the roaster driven by steps of half a degree, each looked at for what it meets."""
    told = []
    with served("demo") as server:
        for name, joint in (("Roaster corner", "j11"), ("Tabletop roaster", "c19/j3")):
            id = _demo(server)[name]
            revision = server.call("GET", f"/api/documents/{id}")[1]["revision"]
            server.call("GET", f"/api/documents/{id}/assembly")
            places: dict[str, Any] = {}
            rates = []
            for contact in (True, False):
                times = []
                for k in range(40):
                    body = {"revision": revision, "placements": places, "joint": joint,
                            "value": 0.5 * k, "contact": contact}  # fmt: skip
                    began = time.perf_counter()
                    _, found = server.call("POST", f"/api/documents/{id}/drive", body)
                    times.append(time.perf_counter() - began)
                    places = {c["id"]: c["placement"] for c in found["components"]}
                # The first makes it ready.
                rates.append(1 / statistics.median(times[1:]))
            told.append(f"{name} {rates[0]:.0f} a second ({rates[1]:.0f} without)")
    return "; ".join(told)


def _job(server: Any, id: str, kind: str, options: dict[str, Any]) -> tuple[float, dict[str, Any]]:
    began = time.perf_counter()
    _, job = server.call("POST", f"/api/documents/{id}/jobs", {"kind": kind, "options": options})
    while job["state"] in ("queued", "running"):
        time.sleep(0.02)
        job = server.call("GET", f"/api/jobs/{job['id']}")[1]
    assert job["state"] == "done", job
    return time.perf_counter() - began, job["result"]


def reach_of_a_joint() -> str:
    with served("demo") as server:
        id = _demo(server)["Roaster corner"]
        server.call("GET", f"/api/documents/{id}/assembly")
        took, found = _job(server, id, "reach", {"joint": "j11"})
        ends = ", ".join(f"{e['value']:.3f}°" for e in found["ends"])
    return f"{took:.2f} s to both sides ({ends})"


def a_run_of_the_corner() -> str:
    with served("demo") as server:
        id = _demo(server)["Roaster corner"]
        document = server.call("GET", f"/api/documents/{id}")[1]["document"]
        took, found = _job(server, id, "run", {"run": document["runs"][0]["id"]})
    balance = found["balance"]
    off = abs(balance["work"] / balance["gained"] - 1)
    return f"{took:.1f} s for {len(found['times'])} frames, work and energy agree to {off:.0e}"


ROWS = [
    ("dragging with contact stop on the roaster", "at least 20 a second", dragging_with_contact),
    ("reach of a joint, first contact to 0.001", "at most 0.5 s", reach_of_a_joint),
    ("a run of the roaster's corner: forces, clashes, a gap", "told", a_run_of_the_corner),
]
