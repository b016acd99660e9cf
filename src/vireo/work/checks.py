"""Checks of documents: run at once where the build answers them, as jobs where not. What they found
is stored with the state of all that it came from."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from vireo.core.checks.kind import CHECK_KINDS, judge
from vireo.core.documents import Check
from vireo.core.quantity import Quantity
from vireo.core.trouble import Report, Trouble
from vireo.store import CheckRecord, DocumentRecord, JobRecord, Store
from vireo.work.builds import Builds
from vireo.work.jobs import Jobs


class Waiting(Exception):
    """The job that answers a check is under way."""

    def __init__(self, job: JobRecord) -> None:
        super().__init__(job.id)
        self.job = job


@dataclass
class Asking:
    """What checks of one document ask for (`core.checks.kind.Ask`)."""

    record: DocumentRecord
    builds: Builds
    jobs: Jobs
    wait: bool
    #: The last job asked for.
    last: str | None = None
    _built: dict[str, Any] | None = field(default=None)

    def built(self) -> dict[str, Any]:
        if self._built is None:
            r = self.record
            self._built = self.builds.show(r.id, r.project, r.document)
        return self._built

    def task(self, name: str, more: dict[str, Any]) -> Any:
        kind, request = self.builds.request(self.record.project, self.record.document)
        ask = {"kind": kind, "request": request, **more}
        return self.builds.run(name, ask, sticky=self.record.id)

    def job(self, kind: str, options: dict[str, Any] | None = None) -> dict[str, Any]:
        job = self.jobs.start(kind, self.record.id, options or {}, again=False)
        if self.wait:
            job = self.jobs.wait(job.id)
        self.last = job.id
        if job.state in ("queued", "running"):
            raise Waiting(job)
        if job.state == "failed":
            raise Trouble(Report.model_validate(job.error).text)
        if job.state == "cancelled" or job.result is None:
            raise Trouble("what it asks for was stopped: start that again, or change the model")
        return self.jobs.told(job)


class Checks:
    def __init__(self, store: Store, builds: Builds, jobs: Jobs) -> None:
        self._store, self._builds, self._jobs = store, builds, jobs

    def run(self, document: str, wait: bool = False) -> list[dict[str, Any]]:
        """All checks of a document: state holds, fails, running or trouble, with its value.

        Heavy ones are started by themselves when what they depend on has changed; until they
        are done `was` tells what they last found. `wait` blocks until all are done.
        """
        record = self._store.document(document)
        names = self._builds.values(record)
        asking = Asking(record, self._builds, self._jobs, wait)
        state = self._builds.state(record)
        return [self._one(check, asking, state, names) for check in record.document.checks]

    def _one(
        self, check: Check, asking: Asking, state: str, names: dict[str, Quantity]
    ) -> dict[str, Any]:
        document = asking.record.id
        before = self._store.check_result(document, check.id)
        if before is not None and before.state_of == state:
            return {"id": check.id, **before.answer, "was": before.answer.get("shown")}
        answer: dict[str, Any] = {"id": check.id, "state": "trouble", "shown": None}
        asking.last = None
        try:
            kind = CHECK_KINDS.get(check.kind)
            if kind is None:
                raise Trouble(f"there is no check called {check.kind}")
            try:
                value = kind.measure(check, asking)
                answer |= judge(check, value, names, asking.record.document.units)
            except Waiting as waiting:
                answer |= {"state": "running", "progress": waiting.job.progress}
        except Trouble as trouble:
            answer["trouble"] = trouble.report().model_dump()
        if asking.last is not None:
            answer["job"] = asking.last
        if answer["state"] in ("holds", "fails"):
            kept = {k: v for k, v in answer.items() if k != "id"}
            self._store.put_check_result(
                CheckRecord(document, check.id, asking.record.revision, state, kept)
            )
            answer["was"] = answer["shown"]
        else:
            answer["was"] = before.answer.get("shown") if before is not None else None
        return answer
