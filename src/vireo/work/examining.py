"""One state of a document looked at in a worker: whether it builds or where it fails and why, its mass and
size, what its checks say. Jobs that look at many states share this."""

from __future__ import annotations

import time
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from vireo.core.checks.kind import CHECK_KINDS, judge
from vireo.core.documents import Document, dump, kind_of
from vireo.core.documents.content import alone
from vireo.core.documents.members import values_of
from vireo.core.quantity import Quantity
from vireo.core.trouble import Trouble
from vireo.work.tasks.gauging import size_of
from vireo.work.worker import TASKS, Bench, no_files

Json = dict[str, Any]
#: What is told of a state that took the process down that built it.
KERNEL_ENDED = "the geometry kernel ended over it"


@dataclass
class _Asking:
    """What the checks of a member ask for (`core.checks.kind.Ask`): what its build tells, at once."""

    bench: Bench
    task_name: str
    request: Json
    found: Json
    values: Mapping[str, Quantity]

    def built(self) -> Json:
        return self.found

    def task(self, name: str, more: Json) -> Any:
        return TASKS[name](self.bench, {"kind": self.task_name, "request": self.request, **more})

    def job(self, kind: str, options: Json | None = None) -> Json:
        raise _Heavy("asked when the member is looked at: it takes a run of its own")


class _Heavy(Trouble):
    """What a check asks for takes a run of its own."""


def nothing_known() -> Json:
    """What is told of a state before it was looked at."""
    return {
        "state": "failed", "where": "", "step": "", "why": "", "mass": None, "volume": None, "size": None,
        "checks": [], "seconds": 0.0,
    }  # fmt: skip


def examined(bench: Bench, document: Document, task: str, rest: Json) -> Json:
    """What becomes of a document that is built by a task, with what its request says besides. What it keeps
    is named under ``kept``, to be told by who shares the work out."""
    row = nothing_known()
    names: list[str] = []
    # Others share the way to the supervisor: nothing may be told or asked for by it here.
    quiet = replace(
        bench, fetch=no_files,
        report=lambda news: names.append(news["kept"]) if "kept" in news else None,
    )  # fmt: skip
    ask = {**rest, "document": dump(alone(kind_of(document).present(document)))}
    started = time.perf_counter()
    try:
        built = TASKS[task](quiet, ask)
    except Trouble as trouble:
        return {**row, "why": trouble.report().text, "kept": names}
    row |= {"mass": built.get("mass"), "volume": built.get("volume"), "size": size_of(quiet, built)}
    faults = kind_of(document).faults(document, built)
    first = next(iter(faults.items()), None)
    if first is not None:
        where, (name, why) = first
        row |= {"where": where, "step": name, "why": why}
    else:
        row["state"] = "ok"
        asking = _Asking(quiet, task, ask, built, values_of(document))
        row["checks"] = _checked(asking, document)
    row["seconds"] = time.perf_counter() - started
    row["kept"] = names
    return row


def _checked(asking: _Asking, member: Document) -> list[Json]:
    """What the checks of a member say: those its build answers."""
    found = []
    for check in member.checks:
        answer: Json = {"id": check.id, "state": "trouble", "shown": None, "limit": None}
        try:
            kind = CHECK_KINDS.called(check.kind)
            answer |= judge(check, kind.measure(check, asking), asking.values, member.units)
        except _Heavy:
            answer["state"] = "open"
        except Trouble as trouble:
            answer["trouble"] = trouble.report().text
        found.append(answer)
    return found
