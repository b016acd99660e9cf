"""Two states of documents compared: revisions, members, a branch and what it was branched off."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from vireo.core.documents import Document, kind_of
from vireo.core.documents.base import Choice
from vireo.core.documents.difference import Aspect, Difference, differences
from vireo.core.documents.members import applied, called
from vireo.core.trouble import BadInput, Trouble
from vireo.store import DocumentRecord, Store
from vireo.work.blame import Pinned
from vireo.work.builds import Builds
from vireo.work.checks import Checks


@dataclass(frozen=True)
class Side:
    """One of the two: a document at a revision (None: the newest) as a member (None: as it stood)."""

    document: str
    revision: int | None = None
    choice: Choice | None = None


@dataclass(frozen=True)
class _State:
    record: DocumentRecord
    builds: Builds
    built: Mapping[str, Any]

    @property
    def document(self) -> Document:
        return self.record.document

    def asked(self) -> dict[str, Any]:
        task, request = self.builds.request(self.record.project, self.document)
        return {"kind": task, "request": request}


class Comparing:
    def __init__(self, store: Store, builds: Builds, checks: Checks) -> None:
        self._store, self._builds, self._checks = store, builds, checks

    def compare(self, before: Side, after: Side) -> dict[str, Any]:
        """What differs between two states, from the words of steps to the material. Raises BadInput for
        documents of two kinds or two projects."""
        old, new = self._state(before), self._state(after)
        if old.document.kind != new.document.kind:
            a, b = (kind_of(s.document).article for s in (old, new))
            raise BadInput(f"{a} and {b} cannot be compared")
        if old.record.project != new.record.project:
            raise BadInput("only documents of one project are compared")
        return {
            "before": self._told(old), "after": self._told(new),
            "differences": [*differences(old.document, new.document), *_values(old, new)],
            "checks": self._both(old, new), "geometry": self._geometry(old, new),
        }  # fmt: skip

    def _state(self, side: Side) -> _State:
        record = self._store.document(side.document, side.revision)
        store: Any = self._store
        newest = self._store.document(side.document).revision
        if side.revision is not None and side.revision != newest:
            store = Pinned(self._store, self._then(record))
        if side.choice is not None:
            record = replace(record, document=applied(record.document, side.choice))
        builds = self._builds.on(store)
        kind = kind_of(record.document)
        built = builds.show(record.id, record.project, record.document) if kind.measurable else {}
        return _State(record, builds, built)

    def _then(self, record: DocumentRecord) -> dict[str, int]:
        """Where the documents of the project stood when a revision was made: at the last one each had by
        then."""
        rows = self._store.revisions(record.id)
        made = next(r["created"] for r in rows if r["number"] == record.revision)
        found = {}
        for id in self._store.heads(record.project):
            before = [r["number"] for r in self._store.revisions(id) if r["created"] <= made]
            if before:
                found[id] = max(before)
        return {**found, record.id: record.revision}

    def _told(self, state: _State) -> dict[str, Any]:
        document, built = state.document, dict(state.built)
        faults = kind_of(document).faults(document, built) if built else {}
        size = None
        if built and not faults:
            size = state.builds.run("size", state.asked(), sticky=state.record.id)
        named = document.variants or document.options
        return {
            "document": state.record.id, "name": document.name, "revision": state.record.revision,
            "member": called(document, document.active) if named else "",
            "mass": built.get("mass"), "volume": built.get("volume"), "size": size,
            "faults": [{"name": name, "why": why} for name, why in faults.values()],
        }  # fmt: skip

    def _both(self, old: _State, new: _State) -> list[dict[str, Any]]:
        """What checks say of each; those that take a run of their own as they were last told."""
        told = [{a["id"]: a for a in self._checks.of(s.record, s.builds)} for s in (old, new)]
        names = {c.id: c.name for s in (old, new) for c in s.document.checks}
        return [
            {"id": id, "name": name, "before": told[0].get(id), "after": told[1].get(id)}
            for id, name in names.items()
        ]

    def _geometry(self, old: _State, new: _State) -> dict[str, Any] | None:
        if not old.built or not new.built:
            return None
        sides = {"before": old.asked(), "after": new.asked()}
        try:
            found: dict[str, Any] = self._builds.run("compare", sides, sticky=new.record.id)
        except Trouble as trouble:
            none = {"kept": 0.0, "added": 0.0, "removed": 0.0}
            return {"rows": [], "drawn": [], "volumes": none, "trouble": trouble.report().text}
        return {**found, "trouble": None}


def _values(old: _State, new: _State) -> list[Difference]:
    """Parameters that come to something else though they are written the same."""
    typed = [{p.name: p.formula for p in s.document.parameters} for s in (old, new)]
    found = []
    for name, formula in typed[1].items():
        was, now = (s.built.get("parameters", {}).get(name, {}).get("shown") for s in (old, new))
        if typed[0].get(name) == formula and was != now:
            aspect = Aspect("", was or "", now or "")
            found.append(Difference("values", "parameter", name, name, "changed", (aspect,)))
    return found
