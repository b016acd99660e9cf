"""Two states of a document beside each other: what of their material is in both, and in one alone."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.spatial.transform import Rotation

from vireo.core.digest import digest
from vireo.core.kernel.forms.kind import form_of
from vireo.core.kernel.measure import volume_of
from vireo.core.measure.change import change
from vireo.core.viewmesh import kept_as
from vireo.work.tasks.part import mesh
from vireo.work.worker import TASKS, Bench, task

_STILL = np.eye(4).T.ravel().tolist()
#: What a body may be off (mm, and rad) and not have moved.
_STOOD = 1e-6

Draw = Callable[[str, str, list[float], str], None]


@dataclass(frozen=True)
class Thing:
    """A body of a part, or of a component where that stands (column-major)."""

    id: str
    name: str
    key: str
    matrix: list[float]


def things_of(built: dict[str, Any]) -> dict[str, Thing]:
    """What a build handed over, by what it is called by."""
    found = {}
    for body in built.get("bodies", ()):
        if not body.get("tool"):
            found[body["id"]] = Thing(body["id"], body.get("name", ""), body["key"], _STILL)
    for leaf in built.get("leaves", ()):
        id = "/".join([leaf["component"], *leaf["path"], leaf["body"]])
        found[id] = Thing(id, " / ".join(leaf["names"]), leaf["key"], list(leaf["matrix"]))
    return found


@task("compare")
def compare(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """What of two builds (``before`` and ``after``: a ``kind`` and a ``request``) is in both, and in one alone:
    a row for each body that differs, what to draw, and the volumes (mm3). Bodies that only moved count as
    kept; how far is told (mm, rad)."""
    old, new = (
        things_of(TASKS[request[side]["kind"]](bench, request[side]["request"]))
        for side in ("before", "after")
    )
    rows, drawn = [], []
    volumes = {"kept": 0.0, "added": 0.0, "removed": 0.0}

    def draw(id: str, key: str, matrix: list[float], sign: str) -> None:
        if not bench.disk.has(kept_as(key)):
            mesh(bench, {"key": key})
        drawn.append({"id": f"{sign}:{id}", "key": key, "matrix": matrix, "sign": sign})

    for id in sorted({*old, *new}):
        row = _row(bench, old.get(id), new.get(id), draw)
        for sign in volumes:
            volumes[sign] += row[sign]
        if row["sign"] != "kept":
            rows.append(row)
    return {"rows": rows, "drawn": drawn, "volumes": volumes}


def _row(bench: Bench, was: Thing | None, now: Thing | None, draw: Draw) -> dict[str, Any]:
    thing = now or was
    assert thing is not None
    row: dict[str, Any] = {
        "id": thing.id, "name": thing.name, "sign": "kept", "kept": 0.0, "added": 0.0, "removed": 0.0,
        "moved": None, "turned": None, "whole": True,
    }  # fmt: skip
    if was is None or now is None:
        sign = "added" if now else "removed"
        draw(thing.id, thing.key, thing.matrix, sign)
        return {**row, "sign": "came" if now else "went", sign: _volume(bench, thing.key)}
    far, turned = _between(was.matrix, now.matrix)
    stood = far <= _STOOD and turned <= _STOOD
    motion = {} if stood else {"moved": far, "turned": turned}
    if was.key == now.key:
        row["kept"] = _volume(bench, now.key)
        draw(now.id, now.key, now.matrix, "kept" if stood else "moved")
        if stood:
            return row
        draw(f"{now.id}:was", was.key, was.matrix, "removed")
        return {**row, "sign": "moved", **motion}
    before, after = _volume(bench, was.key), _volume(bench, now.key)
    draw(now.id, was.key, was.matrix, "was")
    draw(now.id, now.key, now.matrix, "is")
    pieces = _pieces(bench, was.key, now.key)
    for n, (sign, volume, key) in enumerate(pieces):
        row[sign] += volume
        if key:
            draw(f"{now.id}:{n}", key, now.matrix, sign)
    # The second witness: what was added and taken away makes the one of the other.
    off = abs((after - before) - (row["added"] - row["removed"]))
    tells = off <= 1e-6 * max(before, after) + 1e-6
    row |= {"sign": "changed", "whole": tells and all(key for _, _, key in pieces)}
    row["kept"] = max(0.0, before - row["removed"])
    return {**row, **motion}


def _between(one: list[float], other: list[float]) -> tuple[float, float]:
    """How far (mm) and by how much (rad) a body was moved."""
    a, b = (np.array(m).reshape(4, 4).T for m in (one, other))
    turn = Rotation.from_matrix(b[:3, :3] @ a[:3, :3].T).magnitude()
    return float(np.linalg.norm(b[:3, 3] - a[:3, 3])), float(turn)


def _volume(bench: Bench, key: str) -> float:
    body = bench.cache.body(key)
    return volume_of(body.shape) if form_of(body).word == "solid" else 0.0


def _pieces(bench: Bench, before: str, after: str) -> list[tuple[str, float, str | None]]:
    """The material that is in one of two bodies alone, in their own coordinates: its sign, volume and key,
    none where the kernel could not make it."""
    found: list[tuple[str, float, str | None]] = []
    bodies = [{"": bench.cache.body(key)} for key in (before, after)]
    for piece in change(*bodies):
        key = None
        if piece.shape is not None:
            key = digest(["change", piece.sign, before, after])
            bench.cache.keep_body(key, piece.shape)
        found.append((piece.sign, piece.volume, key))
    return found
