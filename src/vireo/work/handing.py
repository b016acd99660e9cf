"""Members of a document handed out: as files of each, or as documents of their own that follow it; and which
of what was handed out is what it would be now."""

from __future__ import annotations

import io
import re
import zipfile
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from vireo.core.digest import digest
from vireo.core.documents import kind_of, new_document
from vireo.core.documents.base import Choice, Document, member_key
from vireo.core.documents.content import SEEN, deciding, written_of
from vireo.core.documents.kind import Command
from vireo.core.documents.members import applied, called, checked, rows
from vireo.core.trouble import BadInput, Trouble
from vireo.store import DocumentRecord, Store, Written
from vireo.work.builds import Builds
from vireo.work.files import file_of

#: So many are handed out in one go.
MOST = 200
#: Files that are written of each member.
FORMS = ("step", "3mf")


def as_member(record: DocumentRecord, choice: Choice) -> DocumentRecord:
    """A document as one of its members, called as that."""
    document = applied(record.document, choice)
    if choice != Choice():
        name = f"{document.name} {called(document, choice)}"[:80]
        document = document.model_copy(update={"name": name})
    return replace(record, document=document)


@dataclass(frozen=True)
class Follower:
    """A document of its own that follows a row; `old` where its properties are not those of the row now."""

    id: str
    name: str
    old: bool


@dataclass
class Handed:
    """What became of a row ("" as drawn): the files last written of it, with whether they are what they
    would be now, and documents of their own that follow it."""

    files: list[tuple[Written, bool]] = field(default_factory=list)
    documents: list[Follower] = field(default_factory=list)


class Handing:
    def __init__(self, store: Store, builds: Builds) -> None:
        self._store, self._builds = store, builds

    def files(self, id: str, form: str, chosen: Sequence[str]) -> bytes:
        """A ZIP with a file of each row chosen (all when none is), which is kept in mind; those that do not
        build are named in it with why. Raises BadInput for too many, or a form that is not written."""
        record = self._store.document(id)
        kind = kind_of(record.document)
        if form not in kind.exports or form not in FORMS:
            raise BadInput(f"variants of {kind.article} are not written as {form}")
        out, failed, stands = io.BytesIO(), list[str](), dict[str, str]()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
            for row in self._rows(record, chosen):
                choice = Choice(variant=row or None)
                name = called(record.document, choice)
                try:
                    member = as_member(record, choice)
                    built = self._builds.show(id, record.project, member.document)
                    faults = kind.faults(member.document, built)
                    if faults:
                        raise BadInput(": ".join(next(iter(faults.values()))))
                    data = file_of(self._builds, member, form, 0.05)
                except Trouble as trouble:
                    failed.append(f"{name}: {trouble.report().text}")
                    continue
                stands[row] = self._stand(member)
                packed.writestr(f"{_plain(record.document.name)} {_plain(name)}.{form}", data)
            if failed:
                packed.writestr("not written.txt", "\n".join(failed))
        self._store.put_written(id, form, record.revision, stands)
        return out.getvalue()

    def documents(self, id: str, chosen: Sequence[str]) -> dict[str, str]:
        """Rows as documents of their own that follow this one; a row that has one keeps it, with the properties
        of the row now. Ids by row."""
        record = self._store.document(id)
        there = self._linked(record)
        found: dict[str, str] = {}
        for row in filter(None, self._rows(record, chosen)):  # as drawn it is this document itself
            member = as_member(record, Choice(variant=row)).document
            if row in there:
                known = there[row][0]
                found[row] = known.id
                self._do(known.id, _said_of(member, known.document))
                continue
            empty = new_document(member.kind, member.name).model_copy(
                update={"units": member.units}
            )
            found[row] = self._store.create_document(record.project, empty)
            try:
                stands = kind_of(member).standing_for(id, Choice(variant=row), member)
                self._do(found[row], [*stands, *_said_of(member, empty)])
            except Trouble:
                self._store.delete_document(found[row])
                raise
        return found

    def _do(self, id: str, commands: list[Command]) -> None:
        record = self._store.document(id)
        document, label = self._builds.applied(record, commands)
        if document != record.document:
            self._store.commit(id, record.revision, document, label, {"commands": commands})

    def standing(self, id: str) -> dict[str, Handed]:
        """What was handed out, by row."""
        record = self._store.document(id)
        found = {c.variant or "": Handed() for c in rows(record.document)}
        now: dict[str, str] = {}
        for file in self._store.written(id):
            if file.row not in found:
                continue
            if file.row not in now:
                now[file.row] = self._stand(as_member(record, Choice(variant=file.row or None)))
            found[file.row].files.append((file, now[file.row] == file.stand))
        for row, followers in self._linked(record).items():
            member = applied(record.document, Choice(variant=row))
            found[row].documents = [
                Follower(f.id, f.document.name, bool(_said_of(member, f.document)))
                for f in followers
            ]
        return found

    def _rows(self, record: DocumentRecord, chosen: Sequence[str]) -> list[str]:
        wanted = list(chosen) or [c.variant or "" for c in rows(record.document)]
        if len(wanted) > MOST:
            raise BadInput(
                f"up to {MOST} variants are handed out at once; mark those that are wanted"
            )
        return [
            checked(record.document, Choice(variant=row or None)).variant or "" for row in wanted
        ]

    def _stand(self, member: DocumentRecord) -> str:
        """What decides a file of a member; nothing ("") where it cannot be asked for."""
        document = kind_of(member.document).present(member.document)
        try:
            task, request = self._builds.request(member.project, document)
        except Trouble:
            return ""
        rest = {k: v for k, v in request.items() if k != "document"}
        return digest([task, written_of(document), deciding(rest, written_of, SEEN)])

    def _linked(self, record: DocumentRecord) -> dict[str, list[DocumentRecord]]:
        """Documents that follow a row and nothing else, by row."""
        keys = {member_key(record.id, c): c.variant for c in rows(record.document) if c.variant}
        found: dict[str, list[DocumentRecord]] = defaultdict(list)
        for other in self._store.documents_of(record.project):
            kind = kind_of(other.document)
            chosen = kind.chosen(other.document)
            if other.document.kind != record.document.kind or len(chosen) != 1:
                continue
            row = keys.get(member_key(*chosen[0][1:]))
            if row is not None and kind.refers(other.document) == {record.id}:
                found[row].append(other)
        return found


def _said_of(member: Document, other: Document) -> list[Command]:
    """What gives another document the properties of a member."""
    there = {p.name: p for p in other.properties}
    return [
        {"do": "set_property", "name": p.name, "kind": p.kind, "value": p.value}
        for p in member.properties if there.get(p.name) != p
    ]  # fmt: skip


def _plain(name: str) -> str:
    """A name as files may have it."""
    return re.sub(r'[\\/:*?"<>|\x00-\x1f]+', " ", name).strip() or "variant"
