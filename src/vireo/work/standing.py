"""Checks run by themselves: after every change in a project those of all its documents that hang on it,
what is cheap at once, what takes a run of its own when it has been calm for a while."""

from __future__ import annotations

import logging
import threading
import time
from typing import Any

from vireo.core.trouble import Trouble
from vireo.store import DocumentRecord, Store
from vireo.work.checks import Checks
from vireo.work.events import Events

#: How long nothing may have changed (s) before cheap checks are run, and heavy ones begun.
CALM = 0.4
LONG_CALM = 4.0


class Standing:
    """Listens to the news and keeps the checks of what is not looked at up to date, too."""

    def __init__(self, store: Store, checks: Checks, events: Events) -> None:
        self._store, self._checks, self._events = store, checks, events
        self._lock = threading.Condition()
        #: When each project is due, for all that is cheap and for what is heavy.
        self._due: dict[tuple[str, bool], float] = {}
        #: News of jobs that ended.
        self._jobs: list[dict[str, Any]] = []
        self._ended = False
        self._thread = threading.Thread(target=self._follow, daemon=True, name="standing")

    def begin(self) -> None:
        self._events.hear(self._heard)
        self._thread.start()

    def close(self) -> None:
        with self._lock:
            self._ended = True
            self._lock.notify()
        if self._thread.is_alive():
            self._thread.join(5.0)

    def _heard(self, news: dict[str, Any]) -> None:
        """News of anything (`work.events`)."""
        if news["kind"] == "document":
            self._put(news["project"], {False: CALM, True: LONG_CALM}, back=True)
        elif news["kind"] == "job" and news.get("state") in (
            "done",
            "failed",
            "cancelled",
            "forgotten",
        ):
            with self._lock:
                self._jobs.append(news)
                self._lock.notify()

    def touch(self, project: str) -> None:
        """Have the checks of a project looked at soon."""
        self._put(project, {False: 0.0, True: CALM}, back=False)

    def _put(self, project: str, waits: dict[bool, float], back: bool) -> None:
        """Have a project looked at after a while; `back` puts off what is due earlier."""
        now = time.monotonic()
        with self._lock:
            for heavy, wait in waits.items():
                if back or (project, heavy) not in self._due:
                    self._due[project, heavy] = now + wait
            self._lock.notify()

    def _job_ended(self, news: dict[str, Any]) -> None:
        try:
            record = self._store.document(news["document"])
            if news["job"] == "prove" and news["state"] == "done":
                self._checks.take_members(self._store.job(news["id"]))
        except Trouble:
            return  # the document is gone, and its checks with it
        # What waited behind a run that somebody asked for is begun again.
        self._put(record.project, {False: 0.0, True: CALM}, back=False)

    def _follow(self) -> None:
        while True:
            with self._lock:
                while not self._ended and not self._jobs and not self._ready():
                    self._lock.wait(self._wait())
                if self._ended:
                    return
                jobs, self._jobs = self._jobs, []
                ready = self._ready()
                if ready:
                    del self._due[ready]
            try:
                for news in jobs:
                    self._job_ended(news)
                if ready:
                    self._look(*ready)
            except Exception:  # one project that cannot be looked at must not end it for all
                if not self._ended:
                    logging.getLogger(__name__).exception("checks could not be run by themselves")

    def _ready(self) -> tuple[str, bool] | None:
        now = time.monotonic()
        return next((what for what, at in self._due.items() if at <= now), None)

    def _wait(self) -> float | None:
        return max(0.0, min(self._due.values()) - time.monotonic()) if self._due else None

    def _look(self, project: str, heavy: bool) -> None:
        """Run the checks of a project that are out of date; of heavy ones no more than one at a time."""
        try:
            records = self._store.documents_of(project)
        except Trouble:
            return  # deleted meanwhile
        for record in records:
            if self._ended or not self._out_of_date(record):
                continue
            try:
                found = self._checks.run(record.id, heavy=heavy)
            except Trouble:
                continue  # deleted meanwhile; whoever looks at it is told what else is wrong
            if heavy and any(a["state"] == "running" for a in found):
                return  # told of its end, we come back

    def _out_of_date(self, record: DocumentRecord) -> bool:
        return any(a["state"] in ("old", "running") for a in self._checks.stand(record))
