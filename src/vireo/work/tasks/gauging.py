"""Numbers read off what a document builds: its size, gauges of its bodies, gaps between its components."""

from __future__ import annotations

import json
from typing import Any

import numpy as np

from vireo.core.digest import digest
from vireo.core.fit.interference import Ask
from vireo.core.fit.pairs import boxes, relative_of
from vireo.core.kernel.measure import box_of
from vireo.core.kernel.place import located
from vireo.core.measure.gauge import GAUGES, VERSION
from vireo.core.part.products.datum import DATUMS
from vireo.core.trouble import Trouble
from vireo.work.tasks.assembly import put_together
from vireo.work.tasks.fit import Looker, items_of
from vireo.work.tasks.part import build_part
from vireo.work.worker import TASKS, Bench, task


def size_of(bench: Bench, built: dict[str, Any]) -> list[float] | None:
    """The box of what a build handed over (mm along X, Y, Z); None where that is nothing."""
    lows, highs = [], []
    for item in (*built.get("bodies", ()), *built.get("leaves", ())):
        if item.get("tool") or item.get("reference") or item.get("form", "solid") == "reference":
            continue
        shape = bench.cache.body(item["key"]).shape
        if "matrix" in item:
            m = np.array(item["matrix"]).reshape(4, 4).T
            shape = located(shape, m[:3, :3], m[:3, 3])
        low, high = box_of(shape)
        lows.append(low)
        highs.append(high)
    if not lows:
        return None
    return [float(v) for v in np.max(highs, axis=0) - np.min(lows, axis=0)]


@task("size")
def size(bench: Bench, request: dict[str, Any]) -> list[float] | None:
    """The box of a document (mm along X, Y, Z)."""
    return size_of(bench, TASKS[request["kind"]](bench, request["request"]))


@task("gauge")
def gauge(bench: Bench, request: dict[str, Any]) -> float | None:
    """What a gauge (`core.measure.gauge`) reads of the bodies of a part; None where it reads nothing."""
    name, asked = request["gauge"], request["asked"]
    found = GAUGES[name]
    values = []
    for body in build_part(bench, request["request"]).handed_over.values():
        if body["form"] == found.form:
            value = _read(bench, name, body["key"], asked)
            if value is not None:
                values.append(value)
    return found.fold(values) if values else None


def _read(bench: Bench, name: str, key: str, asked: dict[str, Any]) -> float | None:
    """Read once for each content."""
    kept_as = f"gauge-{digest([VERSION, name, key, asked])}"
    kept = bench.disk.get(kept_as)
    if kept is None:
        kept = json.dumps(GAUGES[name].read(bench.cache.body(key), asked)).encode()
        bench.keep(kept_as, kept)
    value: float | None = json.loads(kept)
    return value


@task("gap")
def gap(bench: Bench, request: dict[str, Any]) -> float:
    """Least gap (mm) between two components as they stand; how deep one is in the other where they
    overlap, counted below nothing."""
    built = put_together(bench, request["request"])
    sides = [items_of(built, [id]) for id in request["components"]]
    if not all(sides):
        raise Trouble("a component it looks at is no longer there, or has no solid")
    looker = Looker(bench, float("inf"))
    low, high = boxes([*sides[0], *sides[1]])
    first = len(sides[0])
    # The nearest boxes first: what is further apart than a gap that is known cannot be nearer.
    pairs = sorted(
        (float(np.linalg.norm(np.maximum(0.0, np.maximum(low[n] - high[m], low[m] - high[n])))), n, m)
        for n in range(first) for m in range(first, len(low))
    )  # fmt: skip
    least = float("inf")
    for apart, n, m in pairs:
        if apart >= least:
            break
        a, b = sides[0][n], sides[1][m - first]
        ask = Ask(a.key, b.key, *relative_of(a.pose, b.pose))
        found = looker.known(ask) or next(v for _, v in looker.answers([ask]))
        if found.state == "untold":
            raise Trouble("the geometry kernel ended over how far they are apart")
        least = min(least, -found.depth if found.state == "overlap" else found.gap)
    return least


@task("port_at")
def port_at(bench: Bench, request: dict[str, Any]) -> list[float]:
    """Where a port, or another frame of a part, stands (mm)."""
    made = build_part(bench, request["request"]).state.of(DATUMS)
    if request["step"] not in made:
        raise Trouble("the port it looks at is no longer there, or asleep")
    return [float(v) for v in made[request["step"]].frame.origin]
