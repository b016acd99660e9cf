"""The revisions of documents: told in words, gone back to, branched off and taken in again, and who
follows a change."""

from __future__ import annotations

import secrets
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from vireo.core.documents import Document, kind_of
from vireo.core.documents.difference import Difference, differences, in_words
from vireo.core.documents.merging import Conflict, Which, merged
from vireo.core.lately import Lately
from vireo.core.trouble import BadInput, NotAllowed
from vireo.store import DocumentRecord, Store
from vireo.store.store import Change
from vireo.work.builds import Builds

#: A branch numbers its new things from some multiple of this on, so that it and others may add without being
#: at odds: no branch shares one with another but by one chance in ten thousand.
APART = 100_000
#: How many revisions are told in words at a time.
MOST_TOLD = 50


@dataclass(frozen=True)
class Merge:
    """What a branch would bring: the document it makes, the changes it brings, where both changed the
    same, and what would not build, by where."""

    document: Document
    brings: list[Difference]
    conflicts: list[Conflict]
    faults: dict[str, tuple[str, str]]


class Revisions:
    def __init__(self, store: Store, builds: Builds) -> None:
        self._store, self._builds = store, builds
        #: A revision never changes, nor do the words for it.
        self._told = Lately[tuple[str, int], str](4000)

    def timeline(self, id: str, before: int | None = None) -> list[dict[str, Any]]:
        """The revisions of a document, newest first, from before a number on: what each changed, whether it
        is on the way to where the document stands (`mine`) or was left by an undo."""
        rows, line = self._store.revisions(id), self._line(id)
        chosen = [r for r in rows if before is None or r["number"] < before][:MOST_TOLD]
        return [{**r, "mine": r["number"] in line, "words": self._words(id, r)} for r in chosen]

    def _words(self, id: str, row: Mapping[str, Any]) -> str:
        return self._told.get((id, row["number"]), lambda: self._in_words(id, row))

    def _in_words(self, id: str, row: Mapping[str, Any]) -> str:
        if row["parent"] is None:
            return str(row["label"])
        before = self._store.document_at(id, row["parent"])
        after = self._store.document_at(id, row["number"])
        said = in_words(differences(before, after))
        # What brings many things has words of its own.
        own = row["label"].startswith(("back to ", "take in "))
        return f"{row['label']}: {said}" if own and said else said or str(row["label"])

    def back(self, id: str, base: int, number: int) -> DocumentRecord:
        """Have a document as it was at a revision, as a new revision."""
        record = self._store.document(id)
        then = self._store.document_at(id, number)
        if then == record.document:
            raise NotAllowed(f"the document is as it was at revision {number}")
        kept = then.model_copy(update={"last_id": max(then.last_id, record.document.last_id)})
        self._builds.fits(record, kept)
        return self._store.commit(id, base, kept, f"back to revision {number}", None)

    def branch(self, id: str, number: int | None, name: str) -> str:
        """A document of its own that begins as another is at a revision, to try something; its id."""
        record = self._store.document(id, number)
        last = record.document.last_id + APART * (1 + secrets.randbelow(10_000))
        copy = record.document.model_copy(update={"name": name, "last_id": last})
        origin = {"document": id, "revision": record.revision, "own": 1}
        return self._store.create_document(record.project, copy, origin=origin)

    def look(self, id: str, branch: str, chosen: Mapping[str, Which]) -> Merge:
        """What taking a branch in would make of a document. Raises BadInput for one that is no branch of it."""
        record, theirs = self._store.document(id), self._store.document(branch)
        origin = self._store.origin(branch)
        if origin is None or origin["document"] != id:
            raise BadInput(f"{theirs.document.name} is no branch of {record.document.name}")
        base = self._store.document_at(branch, self._shared(id, origin))
        made, conflicts = merged(base, record.document, theirs.document, chosen)
        self._builds.fits(record, made)
        built = self._builds.show(id, record.project, made) if kind_of(made).measurable else {}
        faults = kind_of(made).faults(made, built) if built else {}
        return Merge(made, differences(record.document, made), conflicts, faults)

    def _shared(self, id: str, origin: Mapping[str, Any]) -> int:
        """The revision of a branch that the document has: that it was last taken in with, as far as that was
        not taken back since."""
        line = self._line(id)
        taken = [own for revision, own in origin.get("taken", ()) if revision in line]
        return int(taken[-1] if taken else origin["own"])

    def _line(self, id: str) -> set[int]:
        """The revisions on the way to where a document stands."""
        parents = {r["number"]: r["parent"] for r in self._store.revisions(id)}
        line: set[int] = set()
        at: int | None = self._store.document(id).revision
        while at is not None and at not in line:
            line.add(at)
            at = parents.get(at)
        # What came with a project zip has no way to where it stands.
        return line | {n for n, parent in parents.items() if parent is None}

    def take_in(
        self, id: str, base: int, branch: str, chosen: Mapping[str, Which]
    ) -> DocumentRecord:
        """Take what was changed in a branch into the document it was branched off. Raises NotAllowed while it
        is not chosen what to keep of what both changed."""
        found = self.look(id, branch, chosen)
        open_ = [c for c in found.conflicts if c.key not in chosen]
        if open_:
            raise NotAllowed(
                f"both changed {open_[0].name}: choose which to keep"
                + (f", and of {len(open_) - 1} more" if len(open_) > 1 else "")
            )
        theirs = self._store.document(branch)
        if not found.brings:
            raise NotAllowed(f"{theirs.document.name} brings nothing new")
        change = Change(id, base, found.document, f"take in {theirs.document.name}", None)
        return self._store.merge(change, branch, theirs.revision)

    def followers(self, id: str) -> list[DocumentRecord]:
        """The documents that follow a document, those that hold it first, then those that hold them."""
        record = self._store.document(id)
        return list(self._following(record))

    def _following(self, record: DocumentRecord) -> Iterator[DocumentRecord]:
        others = self._store.documents_of(record.project)
        found, reached = {record.id}, [record.id]
        while reached:
            held = reached.pop(0)
            for other in others:
                if other.id not in found and held in kind_of(other.document).follows(
                    other.document
                ):
                    found.add(other.id)
                    reached.append(other.id)
                    yield other
