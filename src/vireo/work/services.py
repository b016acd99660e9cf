"""All that works on one data folder, opened and closed together."""

from __future__ import annotations

import threading
from dataclasses import dataclass
from pathlib import Path

from vireo.store import Store
from vireo.work.blame import Blaming
from vireo.work.builds import Builds
from vireo.work.checks import Checks
from vireo.work.comparing import Comparing
from vireo.work.diskcache import MOST_BYTES, DiskCache
from vireo.work.events import Events
from vireo.work.handing import Handing
from vireo.work.jobs import Jobs
from vireo.work.lanes import Queue
from vireo.work.revisions import Revisions
from vireo.work.scripts import Scripts
from vireo.work.standing import Standing
from vireo.work.worker import Bounds


@dataclass
class Services:
    """What the rooms work with."""

    store: Store
    disk: DiskCache
    queue: Queue
    builds: Builds
    events: Events
    jobs: Jobs
    checks: Checks
    standing: Standing
    blaming: Blaming
    revisions: Revisions
    comparing: Comparing
    handing: Handing
    scripts: Scripts

    @staticmethod
    def open(
        data: Path, workers: int = 2, *, forked: bool = False, kept: int = MOST_BYTES,
        cluster: str | None = None,
    ) -> Services:  # fmt: skip
        """`forked`: with a first worker forked of this process (see `Queue.start`).
        `kept` is about how many bytes of results that can be made again stay on disk, `cluster` the
        address of a Dask scheduler that takes jobs (else that of ``VIREO_DASK``, if any)."""
        steps = data / "steps"
        queue = Queue(data / "cache", workers, steps, Bounds(kept=kept), cluster)
        if forked:
            import vireo.work.tasks  # noqa: F401  (what the fork will work with)

            queue.start(forked=True)
        # Opened after the fork: a process must not share a database connection with another.
        store = Store(data / "vireo.db")
        queue.files = store.blob
        disk = DiskCache(data / "cache", kept)
        events = Events()
        builds = Builds(store, queue, events, steps)
        jobs = Jobs(store, builds, events)
        checks = Checks(store, builds, jobs, events)
        blaming = Blaming(store, builds, jobs, checks)
        handing = Handing(store, builds)
        revisions, comparing = Revisions(store, builds), Comparing(store, builds, checks)
        standing = Standing(store, checks, events)
        scripts = Scripts(store, builds, events, data / "scripts")
        threading.Thread(target=disk.prune, daemon=True, name="prune").start()
        return Services(
            store, disk, queue, builds, events, jobs, checks, standing, blaming, revisions, comparing,
            handing, scripts,
        )  # fmt: skip

    def close(self) -> None:
        self.standing.close()
        self.queue.close()
        self.store.close()
