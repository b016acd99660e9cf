"""A worker process: runs tasks sent down a pipe, one at a time, until the pipe closes.

Forked from a clean parent that has only imported the kernel, so that it is there in
milliseconds and can be killed at any moment.
"""

from __future__ import annotations

import hashlib
import os
import resource
import signal
import sys
from collections.abc import Callable
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from vireo.core.part.cache import Cache
from vireo.core.quantity.shown import PLAIN, Units, localised
from vireo.core.trouble import Report, Trouble
from vireo.work.diskcache import MOST_BYTES, DiskCache
from vireo.work.lifetime import die_with_parent, die_with_pipe
from vireo.work.userkinds import Shelf

Task = Callable[["Bench", dict[str, Any]], Any]
TASKS: dict[str, Task] = {}


def task(name: str) -> Callable[[Task], Task]:
    def add(function: Task) -> Task:
        TASKS[name] = function
        return function

    return add


@dataclass(frozen=True)
class Bounds:
    """What a worker may use: bytes of memory, and about how many bytes are kept on disk."""

    memory: int = int(os.environ.get("VIREO_WORKER_BYTES", str(10 * 1024**3)))
    kept: int = MOST_BYTES


def no_files(project: str, id: str) -> bytes:
    raise Trouble("no stored files can be reached here")


def files_in(data: Any) -> set[tuple[str, str]]:
    """The stored files a request speaks of, by project and id."""
    if isinstance(data, list):
        return set().union(*(files_in(v) for v in data))
    if not isinstance(data, dict):
        return set()
    own: set[tuple[str, str]] = set()
    files = data.get("files")
    if isinstance(files, dict) and "ids" in files:
        own = {(files["project"], id) for id in files["ids"]}
    return own.union(*(files_in(v) for v in data.values()))


@dataclass
class Bench:
    """What a task works with: kept results, a way to report how far it is, stored files, the
    user's kinds."""

    cache: Cache
    disk: DiskCache
    report: Callable[[dict[str, Any]], None]
    #: A stored file by its project and id, wherever it is kept.
    fetch: Callable[[str, str], bytes] = no_files
    shelf: Shelf = field(default_factory=lambda: Shelf(None))

    def keep(self, name: str, data: bytes) -> None:
        """Keep bytes the screen asks for by name once the task is done, wherever it runs."""
        self.disk.put(name, data)
        self.report({"kept": name})

    def file(self, project: str, id: str) -> bytes:
        """A stored file: requests name them by id, so that their bytes travel once."""
        kept = self.disk.get(f"file-{id}")
        if kept is not None and hashlib.sha256(kept).hexdigest() == id:
            return kept
        data = self.fetch(project, id)
        self.disk.put(f"file-{id}", data)
        return data

    def bring(self, request: Any) -> None:
        """Have the stored files a request speaks of on the own disk: processes that share the work have
        no way to where they are kept."""
        for project, id in files_in(request):
            self.file(project, id)


def units_in(request: dict[str, Any]) -> Units:
    """The units of the document a request is about: its answer is told in them."""
    for key in ("document", "assembly", "study", "request", "part"):
        inner = request.get(key)
        if isinstance(inner, dict):
            if isinstance(inner.get("units"), dict):
                return Units.model_validate(inner["units"])
            return units_in(inner)
    return PLAIN


def main(
    pipe: Connection, alive: Connection, folder: str, steps: str | None = None, bounds: Bounds | None = None,
    held: Connection | None = None,
) -> None:  # fmt: skip
    """Entry of the process. `folder` keeps results, `steps` holds the user's kinds of step. It ends with who holds
    the other end of `alive`; `held` is that end where a fork has brought it along."""
    if held is not None:
        held.close()
    bounds = bounds or Bounds()
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    die_with_parent()
    die_with_pipe(alive)
    resource.setrlimit(resource.RLIMIT_AS, (bounds.memory, bounds.memory))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    import vireo.work.tasks  # noqa: F401  (fills TASKS)

    disk = DiskCache(Path(folder), bounds.kept)
    shelf = Shelf(Path(steps) if steps else None)

    def fetch(project: str, id: str) -> bytes:
        pipe.send(("file", (project, id)))
        data: bytes | None = pipe.recv()
        if data is None:
            raise Trouble("a stored file this needs is no longer in its project")
        return data

    bench = Bench(Cache(disk), disk, lambda news: pipe.send(("progress", news)), fetch, shelf)
    while True:
        try:
            name, request = pipe.recv()
        except (EOFError, OSError):
            return
        try:
            shelf.renew()
            answer: tuple[str, Any] = (
                "done",
                localised(TASKS[name](bench, request), units_in(request)),
            )
        except Trouble as trouble:
            answer = ("trouble", localised(trouble.report().model_dump(), units_in(request)))
        except MemoryError:
            answer = ("trouble", Report(
                code="memory", text="this needs more memory than a worker may use",
            ).model_dump())  # fmt: skip
        except Exception as error:  # anything a task raises is told, not fatal
            print(f"worker: {name}: {error!r}", file=sys.stderr)
            answer = ("trouble", Report(
                code="internal", text=f"{name} stopped unexpectedly: {error!r}"[:300]
            ).model_dump())  # fmt: skip
        try:
            pipe.send(answer)
        except (BrokenPipeError, OSError):
            return
