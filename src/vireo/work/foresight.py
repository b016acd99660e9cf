"""What an edit would do, before it is kept: what breaks, what is mended, what changes."""

from __future__ import annotations

from typing import Any

from vireo.core.documents import Document, kind_of
from vireo.core.quantity import Evaluated, evaluate_parameters
from vireo.core.quantity.shown import Units, shown_in
from vireo.store import DocumentRecord
from vireo.work.builds import Builds, weighed_in


def foreseen(builds: Builds, record: DocumentRecord, changed: Document) -> dict[str, Any]:
    """Faults that come (`breaks`) and go (`mends`) with the change, each by what it is in; the
    parameters whose values change; and the mass in g before and after, None for studies."""
    before, mass_before, old = _state(builds, record, record.document)
    after, mass_after, new = _state(builds, record, changed)
    units = changed.units
    moved = [
        {"name": n, "was": _shown(old.get(n), units), "now": _shown(e, units)}
        for n, e in new.items()
        if n not in old or old[n].value != e.value
    ]
    return {
        "breaks": [f for key, f in after.items() if key not in before],
        "mends": [f for key, f in before.items() if key not in after],
        "values": moved, "mass_before": mass_before, "mass_after": mass_after,
    }  # fmt: skip


def _shown(e: Evaluated | None, units: Units) -> str | None:
    return shown_in(e.value, units) if e is not None and e.value is not None else None


def _state(
    builds: Builds, record: DocumentRecord, document: Document
) -> tuple[dict[str, dict[str, str]], float | None, dict[str, Evaluated]]:
    """Faults (name of what has it, text) by where they are, the mass, the values of parameters."""
    faults: dict[str, dict[str, str]] = {}

    def fault(where: str, name: str, text: str) -> None:
        faults[where] = {"name": name, "text": text}

    built = builds.show(record.id, record.project, document)
    values = evaluate_parameters(document.parameters, weighed_in(built))
    for n, e in values.items():
        if e.trouble:
            fault(f"parameter:{n}", n, e.trouble.text.removeprefix(f"{n}: "))
    for where, (name, text) in kind_of(document).faults(document, built).items():
        fault(where, name, text)
    return faults, built.get("mass"), values
