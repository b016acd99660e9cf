"""Benches of motion: dragging that stops at contact, how far a joint goes, a run with its forces."""

from __future__ import annotations

import statistics
import time
from typing import Any

import numpy as np

from tests.bench.rooms import served
from vireo.core.assembly.pose import Pose
from vireo.core.motion.scene import Runner, Scene


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


def _ball(radius: float) -> tuple[Any, Any]:
    """A ball of 5120 triangles: an icosahedron split four times."""
    g = (1 + 5**0.5) / 2
    points = [(-1, g, 0), (1, g, 0), (-1, -g, 0), (1, -g, 0), (0, -1, g), (0, 1, g),
              (0, -1, -g), (0, 1, -g), (g, 0, -1), (g, 0, 1), (-g, 0, -1), (-g, 0, 1)]  # fmt: skip
    faces = [(0, 11, 5), (0, 5, 1), (0, 1, 7), (0, 7, 10), (0, 10, 11), (1, 5, 9), (5, 11, 4),
             (11, 10, 2), (10, 7, 6), (7, 1, 8), (3, 9, 4), (3, 4, 2), (3, 2, 6), (3, 6, 8),
             (3, 8, 9), (4, 9, 5), (2, 4, 11), (6, 2, 10), (8, 6, 7), (9, 8, 1)]  # fmt: skip
    spots = [np.array(p, dtype=float) / np.linalg.norm(p) for p in points]
    for _ in range(4):
        middle: dict[tuple[int, int], int] = {}

        def half(a: int, b: int, middle: dict[tuple[int, int], int] = middle) -> int:
            key = (min(a, b), max(a, b))
            if key not in middle:
                spot = spots[a] + spots[b]
                middle[key] = len(spots)
                spots.append(spot / np.linalg.norm(spot))
            return middle[key]

        faces = [
            t for a, b, c in faces for ab, bc, ca in [(half(a, b), half(b, c), half(c, a))]
            for t in ((a, ab, ca), (b, bc, ab), (c, ca, bc), (ab, bc, ca))
        ]  # fmt: skip
    return radius * np.array(spots), np.array(faces, dtype=np.int32)


def all_pairs_over_positions() -> str:
    """Thirty balls of 5120 triangles that run to and fro among each other, at 200 stands: which overlap, and
    the least gap of all; held against the balls' own centres."""
    radius = 10.0
    points, triangles = _ball(radius)
    runners = [Runner(str(k), k, points, triangles) for k in range(30)]
    scene = Scene(runners, lambda poses: poses)
    dice = np.random.default_rng(3)
    home, swing = dice.uniform(0, 110, (30, 3)), dice.uniform(-25, 25, (30, 3))
    phase = dice.uniform(0, 6.3, 30)
    stands = [
        [Pose(home[k] + swing[k] * np.sin(0.05 * n + phase[k]), np.array([1.0, 0, 0, 0]))
         for k in range(30)]
        for n in range(200)
    ]  # fmt: skip
    truth = [
        {(i, j): float(np.linalg.norm(s[i].p - s[j].p)) - 2 * radius for i, j in scene.pairs} for s in stands
    ]  # fmt: skip
    began = time.perf_counter()
    met = [{p for p in scene.near(scene.pairs, s, 0.0) if scene.gap(p, s) == 0.0} for s in stands]
    clashing = time.perf_counter() - began
    began = time.perf_counter()
    least = [scene.least(scene.pairs, s)[0] for s in stands]
    gaps = time.perf_counter() - began
    # Triangles lie up to 0.02 mm within a ball.
    for found, close, known in zip(met, least, truth, strict=True):
        assert {p for p, g in known.items() if g < -0.1} <= found
        assert all(known[p] < 1e-9 for p in found)
        assert abs(close - max(min(known.values()), 0.0)) < 0.1
    overlapping = sum(len(m) for m in met)
    return f"clash {clashing:.2f} s ({overlapping} overlaps), least clearance {gaps:.2f} s, as by their centres"


ROWS = [
    ("dragging with contact stop on the roaster", "at least 20 a second", dragging_with_contact),
    ("reach of a joint, first contact to 0.001", "at most 0.5 s", reach_of_a_joint),
    (
        "200 positions of 30 bodies of 5000 triangles, all pairs",
        "clash at most 5 s, least clearance at most 15 s",
        all_pairs_over_positions,
    ),
    ("a run of the roaster's corner: forces, clashes, a gap", "told", a_run_of_the_corner),
]
