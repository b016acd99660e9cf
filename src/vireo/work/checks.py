"""Checks of documents: run at once where the build answers them, as jobs where not."""

from __future__ import annotations

from typing import Any

from vireo.core.checks import CHECK_KINDS
from vireo.core.checks.kind import judge
from vireo.core.documents.model import Check
from vireo.core.quantity import Quantity, evaluate_parameters
from vireo.core.quantity.units import LENGTH, MASS, NUMBER, VOLUME
from vireo.core.trouble import Report, Trouble
from vireo.store import DocumentRecord, Store
from vireo.work.builds import Builds
from vireo.work.jobs import Jobs


class Checks:
    def __init__(self, store: Store, builds: Builds, jobs: Jobs) -> None:
        self._store, self._builds, self._jobs = store, builds, jobs
        self._last: dict[tuple[str, str], str] = {}

    def run(self, document: str, wait: bool = False) -> list[dict[str, Any]]:
        """All checks of a document: state holds, fails, running or trouble, with its value.

        Heavy ones are started by themselves when what they depend on has changed; until they
        are done `was` tells what they last found. `wait` blocks until all are done.
        """
        record = self._store.document(document)
        found = evaluate_parameters(record.document.parameters)
        names = {n: e.value for n, e in found.items() if e.value is not None}
        build: dict[str, Any] | None = None
        answers = []
        for check in record.document.checks:
            answer: dict[str, Any] = {"id": check.id, "state": "trouble", "shown": None}
            try:
                kind = CHECK_KINDS.get(check.kind)
                if kind is None:
                    raise Trouble(f"there is no check called {check.kind}")
                if kind.job is not None:
                    value = self._from_job(record, check, kind.job, wait, answer)
                elif check.kind == "mass":
                    build = build or self._builds.show(document, record.project, record.document)
                    value = Quantity(build["mass"] * 1e-3, MASS)
                else:
                    value = self._distance(record, check)
                if value is not None:
                    answer |= judge(check, value, names, record.document.units)
                    self._last[document, check.id] = answer["shown"]
            except Trouble as trouble:
                answer["trouble"] = trouble.report().model_dump()
            answer["was"] = self._last.get((document, check.id))
            answers.append(answer)
        return answers

    def _from_job(
        self,
        record: DocumentRecord,
        check: Check,
        job_kind: str,
        wait: bool,
        answer: dict[str, Any],
    ) -> Quantity | None:
        job = self._jobs.start(job_kind, record.id, {})
        if wait:
            job = self._jobs.wait(job.id)
        answer["job"] = job.id
        if job.state in ("queued", "running"):
            answer["state"], answer["progress"] = "running", job.progress
            return None
        if job.state == "failed":
            raise Trouble(Report.model_validate(job.error).text)
        if job.state == "cancelled" or job.result is None:
            raise Trouble("its run was stopped; start it again")
        if job_kind == "interference":
            return Quantity(job.result["volume"], VOLUME)
        return Quantity(job.result["answer"]["safety"], NUMBER)

    def _distance(self, record: DocumentRecord, check: Check) -> Quantity:
        task, request = self._builds.request(record.project, record.document)
        picks = check.fields.get("picks", [])
        if len(picks) != 2:
            raise Trouble("this check needs two picks")
        ask = {"kind": task, "request": request, "picks": picks}
        found = self._builds.run("distance", ask, sticky=record.id)
        return Quantity(found["distance"], LENGTH)
