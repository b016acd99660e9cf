"""Projects without a screen, for build servers: what is in one, its checks, files made from it.

Exit codes: 0 all is well, 1 something is not (a check fails, a step is not built), 2 it cannot be
done (unreadable project, unknown document or format).
"""

from __future__ import annotations

import sys
import tempfile
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from vireo.core.documents import kind_of
from vireo.core.trouble import BadInput, Trouble
from vireo.store import DocumentRecord
from vireo.work.archive import export_project, import_project
from vireo.work.files import file_of
from vireo.work.scripting import Ran, Say, run_script
from vireo.work.services import Services


def _services(folder: Path) -> Services:
    # Forking is safe as long as this process has no other threads.
    return Services.open(folder, forked=threading.active_count() == 1)


@contextmanager
def opened(path: str) -> Iterator[tuple[Services, str]]:
    """A project zip in services of its own, gone afterwards. Raises Trouble or OSError."""
    with tempfile.TemporaryDirectory(prefix="vireo-") as folder:
        services = _services(Path(folder))
        try:
            yield services, import_project(services.store, Path(path).read_bytes())
        finally:
            services.close()


def guarded(name: str, run: Callable[[], int]) -> int:
    """The exit code of a command; what cannot be done is told on stderr."""
    try:
        return run()
    except (Trouble, OSError) as error:
        print(f"vireo {name}: {error}", file=sys.stderr)
        return 2


def checks(path: str) -> dict[str, Any]:
    """Every check of every document with what it found."""
    rows = []
    with opened(path) as (services, project):
        for record in services.store.documents_of(project):
            names = {c.id: c for c in record.document.checks}
            for answer in services.checks.run(record.id, wait=True):
                check = names[answer["id"]]
                trouble = (answer.get("trouble") or {}).get("text", "")
                rows.append(
                    {
                        "document": record.document.name, "check": check.name,
                        "holds": answer["state"] == "holds", "found": answer["shown"],
                        "relation": check.relation, "limit": answer.get("limit"),
                        "trouble": trouble,
                    }
                )  # fmt: skip
    return {"checks": rows, "failed": sum(not r["holds"] for r in rows)}


def info(path: str) -> dict[str, Any]:
    """What a project holds: documents, their parameters, masses, and steps that are not built."""
    with opened(path) as (services, project):
        found = [_described(services, r) for r in services.store.documents_of(project)]
    broken = sum(len(d.get("not_built", ())) for d in found)
    return {"documents": found, "not_built": broken}


def _described(services: Services, record: DocumentRecord) -> dict[str, Any]:
    document = record.document
    told: dict[str, Any] = {"name": document.name, "kind": document.kind}
    kind = kind_of(document)
    if not kind.measurable:
        return told
    built = services.builds.build(record.id)
    told["mass"] = built["mass"]
    told["parameters"] = {n: p["shown"] for n, p in built["parameters"].items()}
    return told | kind.described(document, built)


def export(path: str, name: str, form: str, deviation: float) -> bytes:
    """A document of a project as a file. Raises BadInput for an unknown one."""
    with opened(path) as (services, project):
        records = services.store.documents_of(project)
        record = next((r for r in records if r.document.name == name), None)
        if record is None:
            there = ", ".join(r.document.name for r in records)
            raise BadInput(f"there is no document {name}; there are: {there}")
        return file_of(services.builds, record, form, deviation)


def run(
    script: str, path: str | None, out: str | None, seconds: float, say: Say
) -> tuple[Ran, list[str]]:
    """Run a script on a project zip (or an empty project); names of the documents it made or
    changed. `say` gets what it prints. The project is written to `out` when the script ran to its end."""
    file = Path(script).resolve()
    text = file.read_text(encoding="utf-8")
    with opened(path) if path else _empty(file.stem) as (services, project):
        ran = run_script(
            text, services.builds, services.store, project, folder=file.parent, seconds=seconds,
            say=say, export=file_of, label=file.name,
        )  # fmt: skip
        names = [services.store.document(id).document.name for id in ran.changed]
        if out and ran.trouble is None:
            Path(out).write_bytes(export_project(services.store, project)[1])
    return ran, names


@contextmanager
def _empty(name: str) -> Iterator[tuple[Services, str]]:
    with tempfile.TemporaryDirectory(prefix="vireo-") as folder:
        services = _services(Path(folder))
        try:
            yield services, services.store.create_project(name)
        finally:
            services.close()
