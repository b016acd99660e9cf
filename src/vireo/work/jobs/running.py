"""Jobs under way: one row each in the store, run in the background lane, with progress and cancel.
Results are kept by content, so the same question is answered once."""

from __future__ import annotations

import threading
import time
from dataclasses import asdict
from functools import partial
from typing import Any

from vireo.core.trouble import Report, Trouble
from vireo.store import JobRecord, Store
from vireo.work.builds import Builds
from vireo.work.events import Events
from vireo.work.jobs.kind import JOBS, Telling
from vireo.work.jobs.spreading import Spread
from vireo.work.lanes import Cancelled

#: A job may be silent this long before it is taken for hung.
SECONDS = 900.0
_TELL = 0.25


class Jobs:
    def __init__(self, store: Store, builds: Builds, events: Events) -> None:
        self._store, self._builds, self._events = store, builds, events
        self._lock = threading.Lock()
        self._cancels: dict[str, threading.Event] = {}
        #: Jobs nobody waits for, by what they ask: they give way to those somebody asked for.
        self._behind: dict[str, tuple[Any, ...]] = {}
        self._gave_way: set[str] = set()

    def known(self, kind: str, document: str, options: dict[str, Any]) -> JobRecord | None:
        """The job that asked this as the documents stand now, whatever became of it; None when there is none."""
        key, _ = self.asked(kind, document, options)
        states = ("done", "running", "queued", "failed", "cancelled")
        found = self._store.job_by_key(key, states)
        return found if found is not None and found.document == document else None

    def behind(self, document: str) -> bool:
        """Whether a run that nobody waits for is under way for a document."""
        return any(about[1] == document for about in list(self._behind.values()))

    def asked(self, kind: str, document: str, options: dict[str, Any]) -> tuple[str, Any]:
        """Content key and request of a job as the documents stand now. Raises BadInput."""
        declared = JOBS.called(kind)
        record = self._store.document(document)
        declared.fits(record.document)
        parsed = declared.parsed(options)
        if declared.gather is not None:
            around = self._builds.around(record.project)
            request = declared.gather(record.document, around, parsed)
        else:
            _, request = self._builds.request(record.project, record.document)
        ask = {"kind": kind, "request": request, "options": parsed.model_dump(mode="json")}
        return declared.key(request, parsed), ask

    def start(
        self, kind: str, document: str, options: dict[str, Any], looked_at: bool = False,
        again: bool = True, behind: bool = False,
    ) -> JobRecord:  # fmt: skip
        """A job for this question: the kept or running one when it was asked before. One that is asked
        for to be `looked_at` is the document's newest then. What failed or was stopped is not begun
        `again` where nobody asks for that: the same question would fail once more. One that is started
        `behind` is stopped and forgotten when somebody asks for another, or when what it asks has
        changed."""
        key, ask = self.asked(kind, document, options)
        with self._lock:
            known = self._store.job_by_key(key)
            alive = known is not None and (known.state == "done" or known.id in self._cancels)
            if known is not None and alive and known.document == document:
                if not behind:
                    self._behind.pop(known.id, None)
                return self._store.renew_job(known.id) if looked_at else known
            if known is None and not again:
                ended = self._store.job_by_key(key, ("failed", "cancelled"))
                if ended is not None and ended.document == document:
                    return ended
            job = self._store.put_job(kind, key, document, options)
            if known is not None and known.state == "done":
                # Another document asked the same before.
                self._update(job, state="done", progress=1.0, result=known.result)
                return self._store.job(job.id)
            about = (kind, document, repr(sorted(options.items())))
            for id, other in list(self._behind.items()):
                if not behind or other == about:
                    self._give_way(id)
            if behind:
                self._behind[job.id] = about
            self._launch(job, ask)
        return job

    def _give_way(self, id: str) -> None:
        del self._behind[id]
        self._gave_way.add(id)
        self._cancels[id].set()

    def view(self, job: JobRecord) -> dict[str, Any]:
        """A job as the screen gets it: names put into its result as they are now."""
        told = asdict(job)
        kind = JOBS.get(job.kind)
        if kind is not None and job.result is not None:
            told["result"] = self.told(job)
        return told

    def told(self, job: JobRecord) -> dict[str, Any]:
        """The result of a job as it is told now."""
        record, kind = self._store.document(job.document), JOBS.called(job.kind)
        before = self._store.job_before(job)
        around = self._builds.around(record.project)
        telling = Telling(
            record.document, around.other, lambda: self._builds.values(record),
            before.result if before else None, around,
        )  # fmt: skip
        return kind.told(job.result or {}, telling)

    def subject(self, job: JobRecord) -> tuple[str, Any]:
        """What a job answers: its kind, and what that is asked about where it is about one of many."""
        kind = JOBS.get(job.kind)
        return job.kind, job.request.get(kind.about) if kind and kind.about else None

    def current(self, job: JobRecord) -> bool:
        """Whether a job asked what would be asked now: nothing it hangs on has changed since."""
        try:
            return self.asked(job.kind, job.document, job.request)[0] == job.key
        except Trouble:
            return False

    def _launch(self, job: JobRecord, ask: dict[str, Any]) -> None:
        cancel = threading.Event()
        self._cancels[job.id] = cancel
        threading.Thread(
            target=self._run, args=(job, ask, cancel), daemon=True, name=f"job-{job.kind}"
        ).start()

    def _run(self, job: JobRecord, ask: dict[str, Any], cancel: threading.Event) -> None:
        told = 0.0

        def progress(news: dict[str, Any]) -> None:
            nonlocal told
            if "share" not in news or time.monotonic() - told < _TELL:
                return
            told = time.monotonic()
            partial = {"result": news["partial"]} if "partial" in news else {}
            self._update(
                job, state="running", progress=news["share"], stage=news["stage"], **partial
            )

        try:
            self._update(job, stage="waiting for its turn")
            run = partial(
                self._builds.run, sticky=None, lane="background", seconds=SECONDS, cancel=cancel,
                begun=lambda: self._update(job, state="running"),
            )  # fmt: skip
            pieces, machines = JOBS.called(job.kind).pieces, self._builds.machines()
            if pieces is not None and machines is not None:
                result = Spread(pieces, ask, run, progress).answer(machines)
            else:
                result = run("job", ask, progress=progress)
            self._update(job, state="done", progress=1.0, stage="", result=result)
        except Cancelled:
            if job.id in self._gave_way:
                self._update(job, state="forgotten", stage="", result=None)
            elif cancel.is_set():
                self._update(job, state="cancelled", stage="", result=None)
            # Otherwise the server is stopping: the row stays and the job is taken up again.
        except Trouble as trouble:
            self._update(
                job, state="failed", stage="", result=None, error=trouble.report().model_dump()
            )
        except Exception as error:  # told to the person, not lost in a thread
            report = Report(code="internal", text=f"{job.kind} stopped unexpectedly: {error!r}")
            self._update(job, state="failed", stage="", result=None, error=report.model_dump())
        finally:
            with self._lock:
                self._cancels.pop(job.id, None)
                self._behind.pop(job.id, None)
                self._gave_way.discard(job.id)

    def _update(self, job: JobRecord, **changes: Any) -> None:
        if not self._store.update_job(job.id, **changes):
            return  # it has ended: what comes late is no news
        light = {k: v for k, v in changes.items() if k not in ("result",)}
        self._events.publish("job", id=job.id, document=job.document, job=job.kind, **light)

    def cancel(self, id: str) -> JobRecord:
        """Stop a job: one that waits is stopped at once, of one that runs the worker is ended."""
        job = self._store.job(id)
        with self._lock:
            event = self._cancels.get(id)
        if event is not None:
            event.set()
        if job.state == "queued" or (event is None and job.state == "running"):
            self._update(job, state="cancelled", stage="", result=None)
        return self._store.job(id)

    def resume(self) -> int:
        """Take up again what was under way when the server last stopped. Returns how many."""
        self._store.clear_forgotten()
        count = 0
        for job in self._store.jobs(states=("queued", "running")):
            try:
                _, ask = self.asked(job.kind, job.document, job.request)
            except Trouble as trouble:
                self._update(job, state="failed", error=trouble.report().model_dump())
                continue
            with self._lock:
                self._launch(job, ask)
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
