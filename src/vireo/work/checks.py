"""Checks of documents: run at once where the build answers them, as jobs where not. What they found
is stored with the state of all that it came from, one after another."""

from __future__ import annotations

import threading
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from vireo.core.checks.kind import CHECK_KINDS, CheckKind, judge
from vireo.core.documents import Check, Document
from vireo.core.documents.base import Choice, member_key
from vireo.core.documents.members import called
from vireo.core.quantity import Quantity
from vireo.core.trouble import Report, Trouble
from vireo.store import CheckRecord, DocumentRecord, JobRecord, Store
from vireo.work.builds import Builds
from vireo.work.events import Events
from vireo.work.jobs import Jobs

#: What takes a run of its own.
HEAVY = 2


class Waiting(Exception):
    """The job that answers a check is under way, or has yet to be begun."""

    def __init__(self, job: JobRecord | None) -> None:
        super().__init__(job.id if job else "")
        self.job = job


@dataclass
class Asking:
    """What checks of one document ask for (`core.checks.kind.Ask`). With `heavy` off no job is begun."""

    record: DocumentRecord
    builds: Builds
    jobs: Jobs
    values: Mapping[str, Quantity]
    wait: bool
    heavy: bool = True
    #: The last job asked for.
    last: str | None = None
    _built: dict[str, Any] | None = field(default=None)
    #: What was asked already: several checks may look at the same.
    _found: dict[str, Any] = field(default_factory=dict)

    def built(self) -> dict[str, Any]:
        if self._built is None:
            r = self.record
            self._built = self.builds.show(r.id, r.project, r.document)
        return self._built

    def task(self, name: str, more: dict[str, Any]) -> Any:
        asked = f"{name} {more!r}"
        if asked not in self._found:
            kind, request = self.builds.request(self.record.project, self.record.document)
            ask = {"kind": kind, "request": request, **more}
            self._found[asked] = self.builds.run(name, ask, sticky=self.record.id)
        return self._found[asked]

    def job(self, kind: str, options: dict[str, Any] | None = None) -> dict[str, Any]:
        id, asked = self.record.id, options or {}
        if self.heavy:
            job = self.jobs.start(kind, id, asked, again=False, behind=not self.wait)
        else:
            known = self.jobs.known(kind, id, asked)
            if known is None:
                raise Waiting(None)
            job = known
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
    def __init__(self, store: Store, builds: Builds, jobs: Jobs, events: Events) -> None:
        self._store, self._builds, self._jobs, self._events = store, builds, jobs, events
        #: A document's checks are run by one at a time: who comes second finds them answered.
        self._turns: dict[str, threading.Lock] = defaultdict(threading.Lock)

    def run(self, document: str, wait: bool = False, heavy: bool = True) -> list[dict[str, Any]]:
        """All checks of a document, cheapest first, told in its order: state holds, fails, running (its job
        is), old (it has yet to be run) or trouble, with its value.

        Heavy ones are started by themselves when what they depend on has changed; until they
        are done `was` tells what they last found. `wait` blocks until all are done; with `heavy` off
        none is started.
        """
        with self._turns[document]:
            record = self._store.document(document)
            if not record.document.checks:
                return []
            reached = self._builds.reached(record)
            state = self._builds.state_of(record.project, reached)
            asking = Asking(
                record, self._builds, self._jobs, self._builds.values(record), wait, heavy
            )
            kept = self._kept(record)
            found = {}
            made: list[CheckRecord] = []
            fresh = False
            for check in sorted(record.document.checks, key=cost_of):
                before = kept.get(check.id)
                if before is not None and before.state_of == state and _final(check, before):
                    found[check.id] = told(check, before)
                    continue
                answer = found[check.id] = self._asked(check, asking, before)
                if answer["state"] in ("holds", "fails", "trouble"):
                    made.append(_record(check, record, state, reached, answer))
                    fresh = fresh or before is None or _told_apart(before.answer, answer)
            self._store.put_check_results(made)
        if fresh:
            self._events.publish("checks", document=document, project=record.project)
        return [found[c.id] for c in record.document.checks]

    def stand(self, record: DocumentRecord) -> list[dict[str, Any]]:
        """What is known of the checks of a document, nothing being run: what was found before anything it
        hangs on changed is old."""
        if not record.document.checks:
            return []
        state = self._builds.state_of(record.project, self._builds.reached(record))
        kept, under_way = self._kept(record), self._jobs.behind(record.id)
        found = []
        for check in record.document.checks:
            before = kept.get(check.id)
            if before is not None and before.state_of == state:
                found.append(told(check, before))
            else:
                running = under_way and cost_of(check) >= HEAVY
                found.append(_not_yet(check, before) | ({"state": "running"} if running else {}))
        return found

    def of(self, record: DocumentRecord, builds: Builds) -> list[dict[str, Any]]:
        """What the checks of a document at any state of it say, nothing being kept or begun: those that take a
        run of their own as they were told at that revision."""
        if not record.document.checks:
            return []
        asking = Asking(record, builds, self._jobs, builds.values(record), wait=False)
        mine = variant_of(record.document)
        found = []
        for check in record.document.checks:
            if cost_of(check) < HEAVY:
                found.append(self._asked(check, asking, None))
                continue
            rows = [
                r for r in self._store.check_results(record.id, check.id)
                if (r.revision, r.variant) == (record.revision, mine)
            ]  # fmt: skip
            found.append(told(check, rows[-1]) if rows else _not_yet(check, None))
        return found

    def history(self, document: str, check: str) -> list[CheckRecord]:
        """What a check found, oldest first: of the document as it stands, and of each of its members."""
        self.one(document, check)
        return self._store.check_results(document, check)

    def one(self, document: str, check: str) -> Check:
        """A check of a document. Raises Trouble when it has none like that."""
        found = next(
            (c for c in self._store.document(document).document.checks if c.id == check), None
        )
        if found is None:
            raise Trouble("this check is no longer in the document")
        return found

    def take_members(self, job: JobRecord) -> None:
        """Keep what checks said of the members a job proved, where nothing has changed since."""
        if not self._jobs.current(job):
            return
        record = self._store.document(job.document)
        reached = self._builds.reached(record)
        state = self._builds.state_of(record.project, reached)
        checks = {c.id: c for c in record.document.checks}
        made = []
        for row in self._jobs.told(job)["rows"]:
            variant = member_key("", Choice.model_validate(row["choice"]))
            for answer in row["checks"]:
                if answer["state"] in ("holds", "fails") and answer["id"] in checks:
                    said = {**answer, "member": row["name"]}
                    made.append(
                        _record(checks[answer["id"]], record, state, reached, said, variant)
                    )
        self._store.put_check_results(made)

    def _kept(self, record: DocumentRecord) -> dict[str, CheckRecord]:
        return self._store.last_check_results(record.id, variant_of(record.document))

    def _asked(self, check: Check, asking: Asking, before: CheckRecord | None) -> dict[str, Any]:
        answer = _not_yet(check, before) | {"state": "trouble"}
        asking.last = None
        try:
            kind = kind_of_check(check)
            try:
                value = kind.measure(check, asking)
                answer |= judge(check, value, asking.values, asking.record.document.units)
                answer["was"] = answer["shown"]
            except Waiting as waiting:
                job = waiting.job
                answer |= (
                    {"state": "running", "progress": job.progress} if job else {"state": "old"}
                )
        except Trouble as trouble:
            answer["trouble"] = trouble.report().model_dump()
        if asking.last is not None:
            answer["job"] = asking.last
        return answer


def _record(
    check: Check, record: DocumentRecord, state: str, reached: Mapping[str, int],
    answer: dict[str, Any], variant: str | None = None,
) -> CheckRecord:  # fmt: skip
    kept = {k: v for k, v in answer.items() if k not in ("id", "was")}
    kept.setdefault("member", called(record.document, record.document.active))
    variant = variant_of(record.document) if variant is None else variant
    return CheckRecord(record.id, check.id, record.revision, state, kept, variant, dict(reached))


def variant_of(document: Document) -> str:
    """Which member a document stands as, as what is found is kept by; nothing where it is as drawn."""
    return member_key("", document.active)


def cost_of(check: Check) -> int:
    kind = CHECK_KINDS.get(check.kind)
    return kind.cost if kind is not None else 0


def _told_apart(one: Mapping[str, Any], other: Mapping[str, Any]) -> bool:
    return any(one.get(k) != other.get(k) for k in ("state", "shown", "limit"))


def _final(check: Check, found: CheckRecord) -> bool:
    """Whether what was found needs no second look: a run that failed or was stopped may have been begun
    again since."""
    return cost_of(check) < HEAVY or bool(found.answer["state"] != "trouble")


def told(check: Check, found: CheckRecord) -> dict[str, Any]:
    """An answer that is kept, as it is told."""
    return {"id": check.id, **found.answer, "was": found.answer.get("shown")}


def _not_yet(check: Check, before: CheckRecord | None) -> dict[str, Any]:
    was = before.answer.get("shown") if before is not None else None
    return {"id": check.id, "state": "old", "shown": None, "was": was}


def kind_of_check(check: Check) -> CheckKind:
    """Raises Trouble for a kind nobody knows."""
    kind = CHECK_KINDS.get(check.kind)
    if kind is None:
        raise Trouble(f"there is no check called {check.kind}")
    return kind
