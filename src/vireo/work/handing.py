"""Members of a document handed out: as files of each, or as documents of their own that follow it; and which
of what was handed out is what it would be now."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from vireo.core.digest import digest
from vireo.core.documents import kind_of, new_document
from vireo.core.documents.base import Choice, member_key
from vireo.core.documents.content import deciding, written_of
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


@dataclass
class Handed:
    """What became of a row ("" as drawn): the files last written of it, with whether they are what they
    would be now, and documents of their own that follow it (ids and names)."""

    files: list[tuple[Written, bool]] = field(default_factory=list)
    documents: dict[str, str] = field(default_factory=dict)


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
        """Rows as documents of their own that follow this one; a row that has one keeps it. Ids by row."""
        record = self._store.document(id)
        there = self._linked(record)
        found: dict[str, str] = {}
        for row in filter(None, self._rows(record, chosen)):  # as drawn it is this document itself
            known = there.get(row)
            found[row] = next(iter(known)) if known else self._made(record, row)
        return found

    def _made(self, record: DocumentRecord, row: str) -> str:
        choice = Choice(variant=row or None)
        member = as_member(record, choice).document
        commands: list[Command] = [
            *kind_of(member).standing_for(record.id, choice, member),
            *({"do": "set_property", "name": p.name, "kind": p.kind, "value": p.value}
              for p in member.properties),
        ]  # fmt: skip
        empty = new_document(member.kind, member.name).model_copy(update={"units": member.units})
        made = self._store.create_document(record.project, empty)
        try:
            document, label = self._builds.applied(self._store.document(made), commands)
        except Trouble:
            self._store.delete_document(made)
            raise
        self._store.commit(made, 1, document, label, {"commands": commands})
        return made

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
        for row, documents in self._linked(record).items():
            if row in found:
                found[row].documents = documents
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
        return digest([task, written_of(document), deciding(rest, written_of)])

    def _linked(self, record: DocumentRecord) -> Mapping[str, dict[str, str]]:
        """Documents that follow a row and are nothing else, by row."""
        keys = {member_key(record.id, c): c.variant for c in rows(record.document) if c.variant}
        found: dict[str, dict[str, str]] = {}
        for other in self._store.documents_of(record.project):
            chosen = kind_of(other.document).chosen(other.document)
            refers = kind_of(other.document).refers(other.document)
            if other.document.kind != record.document.kind or (refers, len(chosen)) != (
                {record.id},
                1,
            ):
                continue
            _, document, choice = chosen[0]
            row = keys.get(member_key(document, choice))
            if row is not None:
                found.setdefault(row, {})[other.id] = other.document.name
        return found


def _plain(name: str) -> str:
    """A name as files may have it."""
    return re.sub(r'[\\/:*?"<>|\x00-\x1f]+', " ", name).strip() or "variant"
