"""A lane on a Dask cluster: each worker of the cluster keeps a local lane of one process, so that
time, memory and crashes are watched there as they are here.

A call travels with the stored files and the user's own kinds of step it needs; what it keeps by
name for the screen comes back with the answer.
"""

from __future__ import annotations

import tempfile
import threading
import time
import uuid
from pathlib import Path
from typing import Any

import distributed
from distributed.worker import get_worker

from vireo.core.trouble import Report, Trouble
from vireo.work.diskcache import DiskCache
from vireo.work.lanes.lane import Call, Cancelled, ClusterLost, Files, TaskTrouble, WorkerLost
from vireo.work.lanes.local import LocalLane
from vireo.work.worker import files_in

_LOOK = 0.1
#: How long a scheduler that does not answer is waited for (s).
_REACH = 5
_TOPIC = "vireo-call-"


def _gone(address: str) -> str:
    return (
        f"the cluster at {address} does not answer; ask again when its scheduler is back, or start "
        "Vireo without --cluster"
    )


class DaskLane:
    """`folder` keeps results here; `steps` is the folder of the user's own kinds of step."""

    def __init__(self, address: str, folder: Path, steps: Path | None = None) -> None:
        self._address = address
        self._disk, self._steps = DiskCache(folder), steps
        self._guard = threading.Lock()
        self._found: distributed.Client | None = None
        self.files: Files | None = None

    def _client(self) -> distributed.Client:
        """The way to the scheduler: sought when there is work, and anew when it was lost. Raises
        ClusterLost."""
        with self._guard:
            if self._found is None or self._found.status != "running":
                try:
                    self._found = distributed.Client(
                        self._address, name="vireo", set_as_default=False, timeout=_REACH
                    )
                except (OSError, TimeoutError, ValueError) as error:
                    self._found = None
                    raise ClusterLost(_gone(self._address)) from error
            return self._found

    def machines(self) -> int:
        """How many take work now. Raises ClusterLost."""
        return len(self._client().nthreads())

    def call(self, call: Call) -> Any:
        client = self._client()
        id = uuid.uuid4().hex
        topic = _TOPIC + id
        told = threading.Event()

        def hear(event: Any) -> None:
            _, news = event
            if not told.is_set():
                told.set()
                if call.begun:
                    call.begun()
            if call.progress and news:
                call.progress(news)

        client.subscribe_topic(topic, hear)
        future = client.submit(
            run_here, id, call.task, call.request, call.seconds, self._gathered(call.request),
            self._own_steps(), pure=False, key=f"{call.task}-{id}", retries=0,
        )  # fmt: skip
        # Asking the future itself again and again, each time for a moment, now and then loses its answer.
        done = threading.Event()
        future.add_done_callback(lambda _: done.set())
        answered = time.monotonic()
        try:
            while not future.done():
                if call.cancel is not None and call.cancel.is_set():
                    future.cancel(force=True)
                    client.run(stop_here, id)
                    raise Cancelled("stopped on request")
                if client.status == "running":
                    answered = time.monotonic()
                elif time.monotonic() - answered > _REACH:
                    raise ClusterLost(_gone(self._address))
                done.wait(_LOOK)
            answer = future.result()
        except (Cancelled, Trouble):
            raise
        except distributed.KilledWorker as error:
            raise WorkerLost("the cluster lost every machine that took this") from error
        except Exception as error:  # whatever the cluster says: the job can be asked again
            if client.status != "running":
                raise ClusterLost(_gone(self._address)) from error
            raise ClusterLost(
                f"the cluster at {self._address} could not do this ({error}); see that all its machines "
                "have this version of Vireo"
            ) from error
        finally:
            client.unsubscribe_topic(topic)
        if answer["state"] == "lost":
            raise WorkerLost(answer["text"], answer["news"], answer["crashed"])
        if answer["state"] == "trouble":
            raise TaskTrouble(Report.model_validate(answer["report"]))
        for name, data in answer["kept"].items():
            self._disk.put(name, data)
        return answer["value"]

    def _gathered(self, request: Any) -> dict[str, bytes]:
        """The stored files a request names, by id."""
        if self.files is None:
            return {}
        return {id: self.files(project, id) for project, id in files_in(request)}

    def _own_steps(self) -> dict[str, bytes]:
        if self._steps is None or not self._steps.is_dir():
            return {}
        return {p.name: p.read_bytes() for p in sorted(self._steps.glob("*.py"))}

    def close(self) -> None:
        if self._found is not None:
            self._found.close(timeout=_REACH)


# On the workers of the cluster


class _Here:
    """What a worker of the cluster keeps: a lane of one process, results on its own disk."""

    def __init__(self) -> None:
        root = Path(tempfile.mkdtemp(prefix="vireo-cluster-"))
        self.folder, self.steps = root / "cache", root / "steps"
        self.steps.mkdir(parents=True)
        self.lane = LocalLane(self.folder, 1, self.steps)
        self.stops: dict[str, threading.Event] = {}


_GUARD = threading.Lock()
_HERE: list[_Here] = []


def _here() -> _Here:
    with _GUARD:
        if not _HERE:
            _HERE.append(_Here())
        return _HERE[0]


def stop_here(id: str) -> None:
    """Stop a call on this worker, when it runs here."""
    for here in _HERE:
        if id in here.stops:
            here.stops[id].set()


def run_here(
    id: str, task: str, request: dict[str, Any], seconds: float, files: dict[str, bytes],
    steps: dict[str, bytes],
) -> dict[str, Any]:  # fmt: skip
    """Run a task in this worker's own process. Troubles come back as data: exceptions with fields
    of their own do not travel."""
    here, worker = _here(), get_worker()
    topic = _TOPIC + id
    for name in {p.name for p in here.steps.glob("*.py")} - set(steps):
        (here.steps / name).unlink()
    for name, text in steps.items():
        if not (here.steps / name).exists() or (here.steps / name).read_bytes() != text:
            (here.steps / name).write_bytes(text)
    disk = DiskCache(here.folder)
    kept: list[str] = []

    def hear(news: dict[str, Any]) -> None:
        if "kept" in news:
            kept.append(news["kept"])
        else:
            worker.log_event(topic, news)

    here.lane.files = lambda project, file: files[file]
    stop = here.stops[id] = threading.Event()
    worker.log_event(topic, {})
    try:
        value = here.lane.call(Call(task, request, None, seconds, hear, stop))
    except TaskTrouble as trouble:
        return {"state": "trouble", "report": trouble.report().model_dump()}
    except WorkerLost as lost:
        return {"state": "lost", "text": lost.text, "news": lost.news, "crashed": lost.crashed}
    except Cancelled:
        return {"state": "lost", "text": "it was stopped", "news": {}, "crashed": False}
    finally:
        here.stops.pop(id, None)
    found = {name: data for name in kept if (data := disk.get(name)) is not None}
    return {"state": "done", "value": value, "kept": found}
