"""Dragging an assembly as far as nothing is met: what is dragged is kept ready between two steps."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from vireo.core.assembly.pose import Pose
from vireo.core.lately import Lately
from vireo.core.motion.dragging import Dragging
from vireo.work.tasks.moving import Movers
from vireo.work.worker import Bench, task


@dataclass
class _Ready:
    movers: Movers
    dragging: Dragging


#: By the state of an assembly and of all it reaches.
_READY = Lately[str, _Ready](4)


@task("drag_step")
def drag_step(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """From one stand towards another (placements as documents keep them) until something is met: where it
    came to, who met by which faces, or the least gap (mm) and whose."""

    def begin() -> _Ready:
        movers = Movers(bench, request["request"])
        return _Ready(movers, movers.dragging())

    ready = _READY.get(request["state"], begin)
    movers = ready.movers
    here, there = (
        movers.mechanism.placed({
            id: Pose(np.array(x["p"]), np.array(x["q"])) for id, x in request[k].items()
        })
        for k in ("here", "there")
    )  # fmt: skip
    found = ready.dragging.to(here, there)
    who = found.met or found.nearest
    faces = movers.faces(*who, found.poses) if found.met and who else ([], [])
    return {
        "poses": [p.to_json() for p in found.poses],
        "met": list(found.met) if found.met else None,
        "nearest": list(found.nearest) if found.nearest else None,
        "gap": found.gap if np.isfinite(found.gap) else None,
        "faces_a": faces[0], "faces_b": faces[1],
    }  # fmt: skip
