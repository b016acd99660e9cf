"""All that works on one data folder, opened and closed together."""

from __future__ import annotations

import threading
from dataclasses import dataclass
from pathlib import Path

from vireo.store import Store
from vireo.work.builds import Builds
from vireo.work.checks import Checks
from vireo.work.diskcache import DiskCache
from vireo.work.events import Events
from vireo.work.jobs import Jobs
from vireo.work.scripts import Scripts
from vireo.work.supervisor import Supervisor


@dataclass
class Services:
    """What the rooms work with."""

    store: Store
    disk: DiskCache
    supervisor: Supervisor
    builds: Builds
    events: Events
    jobs: Jobs
    checks: Checks
    scripts: Scripts

    @staticmethod
    def open(data: Path, workers: int = 2, *, forked: bool = False) -> Services:
        """`forked`: with a first worker forked of this process (see `Supervisor.start`)."""
        steps = data / "steps"
        supervisor = Supervisor(data / "cache", workers, steps=steps)
        if forked:
            import vireo.work.tasks  # noqa: F401  (what the fork will work with)

            supervisor.start(forked=True)
        # Opened after the fork: a process must not share a database connection with another.
        store = Store(data / "vireo.db")
        supervisor.files = store.blob
        disk = DiskCache(data / "cache")
        events = Events()
        builds = Builds(store, supervisor, events, steps)
        jobs = Jobs(store, supervisor, builds, events)
        checks = Checks(store, builds, jobs)
        scripts = Scripts(store, builds, events, data / "scripts")
        threading.Thread(target=disk.prune, daemon=True, name="prune").start()
        return Services(store, disk, supervisor, builds, events, jobs, checks, scripts)

    def close(self) -> None:
        self.supervisor.close()
        self.store.close()
