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
from xml.etree import ElementTree

from vireo.core.documents import kind_of, members
from vireo.core.documents.base import Choice
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


def checks(path: str, variant: str | None = None) -> dict[str, Any]:
    """Every check of every document with what it found; with `variant` of the documents that have a
    variant of that name, as that, or of each of their variants for "all". Raises BadInput when none has it."""
    rows: list[dict[str, Any]] = []
    with opened(path) as (services, project):
        records = services.store.documents_of(project)
        for record in records:
            for choice in _members(record, variant):
                if choice is not None:
                    _stand_as(services, record.id, choice)
                rows += _checked(services, record.id)
        if variant and not any(_members(r, variant) for r in records):
            names = dict.fromkeys(v.name for r in records for v in r.document.variants)
            there = (
                f"there are: {', '.join(names)}" if names else "none of its documents has variants"
            )
            raise BadInput(f"there is no variant {variant}; {there}")
    return {
        "checks": rows,
        "failed": sum(not r["holds"] and r["severity"] == "must" for r in rows),
        "doubtful": sum(not r["holds"] and r["severity"] == "should" for r in rows),
    }


def _members(record: DocumentRecord, variant: str | None) -> list[Choice | None]:
    """What the checks of a document are asked of: the members of its rows, or itself as it stands."""
    if variant is None:
        return [None]
    if variant == "all":
        return [*members.rows(record.document)] if record.document.variants else [None]
    return [Choice(variant=v.id) for v in record.document.variants if v.name == variant]


def _stand_as(services: Services, id: str, choice: Choice) -> None:
    record = services.store.document(id)
    command = {"do": "choose", **choice.model_dump(mode="json")}
    after, label = services.builds.applied(record, [command])
    services.store.commit(id, record.revision, after, label, {"commands": [command]})


def _checked(services: Services, id: str) -> list[dict[str, Any]]:
    document = services.store.document(id).document
    names = {c.id: c for c in document.checks}
    found = []
    for answer in services.checks.run(id, wait=True):
        check = names[answer["id"]]
        found.append(
            {
                "document": document.name, "check": check.name,
                "variant": members.called(document, document.active) if document.variants else "",
                "holds": answer["state"] == "holds", "found": answer["shown"],
                "relation": check.relation, "limit": answer.get("limit"),
                "severity": check.severity, "note": check.note,
                "trouble": (answer.get("trouble") or {}).get("text", ""),
            }
        )  # fmt: skip
    return found


def said_of(row: dict[str, Any]) -> str:
    """What a check found, in words."""
    sign = "at most" if row["relation"] == "at_most" else "at least"
    return f"{row['found']}, {sign} {row['limit']}" if row["found"] else str(row["trouble"])


def junit(found: dict[str, Any]) -> str:
    """What checks found as JUnit XML, which build servers read: a suite for each document and variant, a
    case for each check. One that should hold and does not is told as skipped, with why."""
    suites = ElementTree.Element("testsuites", name="vireo check")
    groups: dict[tuple[str, str], list[dict[str, Any]]] = {}
    for row in found["checks"]:
        groups.setdefault((row["document"], row["variant"]), []).append(row)
    for (document, variant), rows in groups.items():
        name = f"{document} {variant}".strip()
        wrong = [r for r in rows if not r["holds"]]
        counts = {
            "tests": len(rows),
            "failures": sum(r["severity"] == "must" and bool(r["found"]) for r in wrong),
            "errors": sum(r["severity"] == "must" and not r["found"] for r in wrong),
            "skipped": sum(r["severity"] == "should" for r in wrong),
        }
        told = {k: str(v) for k, v in counts.items()}
        suite = ElementTree.SubElement(suites, "testsuite", {"name": name, **told})
        for row in rows:
            case = ElementTree.SubElement(suite, "testcase", classname=name, name=row["check"])
            if row["holds"]:
                continue
            kind = "failure" if row["found"] else "error"
            kind = kind if row["severity"] == "must" else "skipped"
            ElementTree.SubElement(case, kind, message=said_of(row)).text = row["note"] or None
    return ElementTree.tostring(suites, encoding="unicode", xml_declaration=True) + "\n"


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
