"""Long work: one row per job in the store, run in a background worker, with progress and
cancel. Results are kept by content, so the same question is answered once."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import asdict
from typing import Any

from vireo.core.digest import digest
from vireo.core.documents import Document
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.documents.kinds.study import Study
from vireo.core.trouble import BadInput, Report, Trouble
from vireo.store import JobRecord, Store
from vireo.work.builds import Builds
from vireo.work.events import Events
from vireo.work.supervisor import Cancelled, Supervisor

JOB_VERSION = 1
#: A job may be silent this long before it is taken for hung.
SECONDS = 900.0
_TELL = 0.25


def _interference(request: dict[str, Any], options: dict[str, Any]) -> dict[str, Any]:
    chosen = options.get("components")
    if chosen is not None and not isinstance(chosen, list):
        raise BadInput("components must be a list of component ids")
    return {"assembly": request, "components": chosen}


def _motion(request: dict[str, Any], options: dict[str, Any]) -> dict[str, Any]:
    try:
        steps = int(options.get("steps", 60))
        start, end = float(options["start"]), float(options["end"])
    except (KeyError, TypeError, ValueError) as error:
        raise BadInput("a motion run needs a joint, a start and an end") from error
    if not 1 <= steps <= 2000:
        raise BadInput("a motion run takes 1 to 2000 steps")
    if start == end:
        raise BadInput("the motion begins and ends at the same place")
    return {
        "assembly": request, "joint": str(options.get("joint")), "start": start, "end": end,
        "steps": steps, "coordinate": options.get("coordinate"),
    }  # fmt: skip


def _strength(request: dict[str, Any], options: dict[str, Any]) -> dict[str, Any]:
    return {"study": request}


#: kind -> (kind of document, options to a task's request)
JOB_KINDS: dict[
    str, tuple[type[Document], Callable[[dict[str, Any], dict[str, Any]], dict[str, Any]]]
] = {
    "interference": (Assembly, _interference),
    "motion": (Assembly, _motion),
    "strength": (Study, _strength),
}


def _plain(value: Any) -> Any:
    """A request without what does not decide the answer: file bytes (their ids do), doomed
    steps, names of documents."""
    if isinstance(value, dict):
        return {k: _plain(v) for k, v in value.items() if k not in ("files", "doomed", "checks")}
    return [_plain(v) for v in value] if isinstance(value, list) else value


class Jobs:
    def __init__(
        self, store: Store, supervisor: Supervisor, builds: Builds, events: Events
    ) -> None:
        self._store, self._supervisor = store, supervisor
        self._builds, self._events = builds, events
        self._lock = threading.Lock()
        self._cancels: dict[str, threading.Event] = {}
        self._threads: list[threading.Thread] = []

    def request(self, kind: str, document: str, options: dict[str, Any]) -> tuple[str, Any]:
        """Content key and task request of a job as the documents stand now."""
        if kind not in JOB_KINDS:
            raise BadInput(f"there is no job called {kind}; known: {', '.join(JOB_KINDS)}")
        wanted, shape = JOB_KINDS[kind]
        record = self._store.document(document)
        if not isinstance(record.document, wanted):
            raise BadInput(f"{kind} works on a {wanted.__name__.lower()}")
        _, base = self._builds.request(record.project, record.document)
        request = shape(base, options)
        return digest([JOB_VERSION, kind, _plain(request)]), request

    def start(self, kind: str, document: str, options: dict[str, Any]) -> JobRecord:
        """A job for this question: the kept or running one when it was asked before."""
        key, request = self.request(kind, document, options)
        with self._lock:
            known = self._store.job_by_key(key)
            alive = known is not None and (known.state == "done" or known.id in self._cancels)
            if known is not None and alive and known.document == document:
                return known
            job = self._store.put_job(kind, key, document, options)
            self._launch(job, request)
        return job

    def known(self, kind: str, document: str, options: dict[str, Any]) -> JobRecord | None:
        """The finished or running job that answers this, if any."""
        key, _ = self.request(kind, document, options)
        return self._store.job_by_key(key)

    def _launch(self, job: JobRecord, request: dict[str, Any]) -> None:
        cancel = threading.Event()
        self._cancels[job.id] = cancel
        thread = threading.Thread(
            target=self._run, args=(job, request, cancel), daemon=True, name=f"job-{job.kind}"
        )
        self._threads.append(thread)
        thread.start()

    def _run(self, job: JobRecord, request: dict[str, Any], cancel: threading.Event) -> None:
        told = 0.0

        def progress(news: dict[str, Any]) -> None:
            nonlocal told
            if "share" not in news or time.monotonic() - told < _TELL:
                return
            told = time.monotonic()
            self._update(job, state="running", progress=news["share"], stage=news["stage"])

        try:
            self._update(job, state="running", progress=0.0, stage="waiting for its turn")
            result = self._builds.run(
                job.kind, request, sticky=None, lane="background", seconds=SECONDS,
                progress=progress, cancel=cancel,
            )  # fmt: skip
            self._update(job, state="done", progress=1.0, stage="", result=result)
        except Cancelled:
            if cancel.is_set():
                self._update(job, state="cancelled", stage="")
            # Otherwise the server is stopping: the row stays and the job is taken up again.
        except Trouble as trouble:
            self._update(job, state="failed", stage="", error=trouble.report().model_dump())
        except Exception as error:  # told to the person, not lost in a thread
            report = Report(code="internal", text=f"{job.kind} stopped unexpectedly: {error!r}")
            self._update(job, state="failed", stage="", error=report.model_dump())
        finally:
            with self._lock:
                self._cancels.pop(job.id, None)

    def _update(self, job: JobRecord, **changes: Any) -> None:
        self._store.update_job(job.id, **changes)
        light = {k: v for k, v in changes.items() if k not in ("result",)}
        self._events.publish("job", id=job.id, document=job.document, job=job.kind, **light)

    def cancel(self, id: str) -> JobRecord:
        """Ask a job to stop; its worker is ended."""
        job = self._store.job(id)
        with self._lock:
            event = self._cancels.get(id)
        if event is not None:
            event.set()
        elif job.state in ("queued", "running"):
            self._update(job, state="cancelled")
        return self._store.job(id)

    def resume(self) -> int:
        """Take up again what was under way when the server last stopped. Returns how many."""
        count = 0
        for job in self._store.jobs(states=("queued", "running")):
            try:
                _, request = self.request(job.kind, job.document, job.request)
            except Trouble as trouble:
                self._update(job, state="failed", error=trouble.report().model_dump())
                continue
            with self._lock:
                self._launch(job, request)
            count += 1
        return count

    def wait(self, id: str, seconds: float = 600.0) -> JobRecord:
        """Block until a job has ended."""
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            job = self._store.job(id)
            if job.state not in ("queued", "running"):
                return job
            time.sleep(0.05)
        return self._store.job(id)


def view(job: JobRecord) -> dict[str, Any]:
    return asdict(job)
