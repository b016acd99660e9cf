"""One queue over the lanes: what a person waits for goes before what may take its time."""

from __future__ import annotations

import os
import threading
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from vireo.work.lanes.lane import Call, Files, Progress
from vireo.work.lanes.local import LocalLane
from vireo.work.worker import Bounds

if TYPE_CHECKING:
    from vireo.work.lanes.cluster import DaskLane

SECONDS = float(os.environ.get("VIREO_STEP_SECONDS", "90"))
#: Address of a cluster's scheduler (``tcp://host:port``): jobs run there then.
CLUSTER = "VIREO_DASK"

#: What a cluster does.
_FAR = {"job", "pieces"}

LaneName = Literal["interactive", "background"]


class Queue:
    """`count` workers for interactive work; jobs have one more process of their own, or a cluster
    where there is one."""

    def __init__(
        self,
        folder: Path,
        count: int = 2,
        steps: Path | None = None,
        bounds: Bounds | None = None,
        cluster: str | None = None,
    ) -> None:
        self._local = LocalLane(folder, count, steps, bounds)
        self._own = LocalLane(folder, 1, steps, bounds)
        self._far: DaskLane | None = None
        address = cluster or os.environ.get(CLUSTER)
        if address:
            from vireo.work.lanes.cluster import DaskLane

            self._far = DaskLane(address, folder, steps)

    @property
    def files(self) -> Files | None:
        """Where workers get stored files from."""
        return self._local.files

    @files.setter
    def files(self, files: Files) -> None:
        for lane in (self._local, self._own, self._far):
            if lane is not None:
                lane.files = files

    def start(self, forked: bool = False) -> None:
        """Have the first worker ready before it is asked for (see `LocalLane.start`)."""
        self._local.start(forked)

    def call(
        self,
        task: str,
        request: dict[str, Any],
        *,
        sticky: str | None = None,
        lane: LaneName = "interactive",
        seconds: float = SECONDS,
        progress: Progress | None = None,
        cancel: threading.Event | None = None,
        begun: Any = None,
    ) -> Any:
        """Run a task in a lane and return its answer (see `Lane.call`)."""
        call = Call(task, request, sticky, seconds, progress, cancel, begun)
        if lane == "interactive":
            return self._local.call(call)
        # What is told of this machine (the user's files) is asked here, jobs where there is room.
        far = self._far if task in _FAR else None
        return (far or self._own).call(call)

    def machines(self) -> int | None:
        """How many machines of a cluster take jobs; None where they are done here. Raises ClusterLost."""
        return self._far.machines() if self._far is not None else None

    def pids(self) -> list[int]:
        """Process ids of idle workers on this machine."""
        return [*self._local.pids(), *self._own.pids()]

    def close(self) -> None:
        for lane in (self._local, self._own, self._far):
            if lane is not None:
                lane.close()
