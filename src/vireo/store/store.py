"""Reading and writing projects. Every public method is one transaction."""

from __future__ import annotations

import hashlib
import secrets
import time
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, NamedTuple, cast

from alembic import command as alembic
from alembic.config import Config
from sqlalchemy import (
    CursorResult,
    Select,
    and_,
    create_engine,
    delete,
    event,
    func,
    select,
    update,
)
from sqlalchemy.orm import Session

from vireo.core.documents import Document, dump, load_document
from vireo.core.lately import Lately
from vireo.core.trouble import Trouble
from vireo.store.tables import (
    BlobRow,
    CheckRow,
    DocumentRow,
    JobRow,
    ProjectRow,
    RevisionRow,
    WrittenRow,
)

#: How many results of a check are kept, for each member.
MOST_FOUND = 400


class NotFound(Trouble):
    code = "not_found"


class Stale(Trouble):
    """The edit was made against a revision that is no longer the newest."""

    code = "stale"

    def __init__(self, text: str, head: int = 0, changes: Sequence[str] = ()) -> None:
        super().__init__(text)
        self.head = head
        self.changes = list(changes)


@dataclass(frozen=True)
class DocumentRecord:
    id: str
    project: str
    kind: str
    revision: int
    document: Document
    undo: str | None = None
    redo: str | None = None


@dataclass(frozen=True)
class Change:
    """A new revision of a document on top of `base`."""

    id: str
    base: int
    document: Document
    label: str
    command: dict[str, Any] | None


@dataclass(frozen=True)
class Written:
    """A file that was handed out of a row of variants ("" as drawn): of what, at which revision, when."""

    row: str
    form: str
    stand: str
    revision: int
    at: float


@dataclass(frozen=True)
class JobRecord:
    id: str
    key: str
    kind: str
    document: str
    state: str
    progress: float
    stage: str
    request: dict[str, Any] = field(default_factory=dict)
    result: dict[str, Any] | None = None
    error: dict[str, Any] | None = None
    created: float = 0.0


@dataclass(frozen=True)
class CheckRecord:
    """What a check of a document found. `state_of` keys the state of all the answer came from."""

    document: str
    check: str
    revision: int
    state_of: str
    answer: dict[str, Any]
    variant: str = ""
    #: The revisions of all documents that took part, by their ids.
    reached: dict[str, int] = field(default_factory=dict)
    created: float = 0.0


@dataclass(frozen=True)
class Past:
    """What a new document comes with: the number it stands at, revisions from before (number, content,
    name, when approved), and its own name and when it was approved."""

    head: int = 1
    before: Sequence[tuple[int, Document, str | None, float | None]] = ()
    version: str | None = None
    approved: float | None = None


def new_id(prefix: str) -> str:
    return f"{prefix}{secrets.token_hex(6)}"


class Store:
    """One SQLite file in write-ahead mode; a commit is on disk when a method returns."""

    def __init__(self, path: Path) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        self._engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 30})
        event.listen(self._engine, "connect", _prepare)
        #: Documents as their revisions hold them, which never change.
        self._documents = Lately[tuple[str, int], Document](128)
        self._migrate()

    def _migrate(self) -> None:
        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        with self._engine.begin() as connection:
            config.attributes["connection"] = connection
            alembic.upgrade(config, "head")

    def close(self) -> None:
        self._engine.dispose()

    @contextmanager
    def _session(self) -> Iterator[Session]:
        with Session(self._engine) as session, session.begin():
            session.info["documents"] = self._documents
            yield session

    # projects

    def projects(self) -> list[dict[str, Any]]:
        """Projects with their documents, oldest first."""
        with self._session() as s:
            found = []
            for p in s.scalars(select(ProjectRow).order_by(ProjectRow.created)):
                at_head = and_(
                    RevisionRow.document_id == DocumentRow.id,
                    RevisionRow.number == DocumentRow.head,
                )
                rows = s.execute(
                    select(DocumentRow, func.json_extract(RevisionRow.data, "$.template"))
                    .join(RevisionRow, at_head)
                    .where(DocumentRow.project_id == p.id)
                    .order_by(DocumentRow.created)
                )
                documents = [
                    {"id": d.id, "kind": d.kind, "name": d.name, "revision": d.head,
                     "changed": d.changed, "template": bool(template)}
                    for d, template in rows
                ]  # fmt: skip
                found.append(
                    {
                        "id": p.id,
                        "name": p.name,
                        "created": p.created,
                        "defaults": dict(p.settings or {}).get("defaults", {}),
                        "documents": documents,
                    }
                )
            return found

    def create_project(self, name: str) -> str:
        id = new_id("p")
        with self._session() as s:
            s.add(ProjectRow(id=id, name=name, created=time.time(), settings={}))
        return id

    def rename_project(self, id: str, name: str) -> None:
        with self._session() as s:
            _project(s, id).name = name

    def delete_project(self, id: str) -> None:
        with self._session() as s:
            _project(s, id)
            s.execute(delete(ProjectRow).where(ProjectRow.id == id))

    def settings(self, project: str) -> dict[str, Any]:
        with self._session() as s:
            return dict(_project(s, project).settings)

    def set_settings(self, project: str, settings: dict[str, Any]) -> None:
        with self._session() as s:
            _project(s, project).settings = settings

    def import_project(
        self,
        name: str,
        settings: dict[str, Any],
        documents: Sequence[tuple[str, Document]],
        files: Sequence[tuple[str, bytes]],
        kept: Mapping[str, Past] | None = None,
    ) -> str:
        """A whole project at once: all of it is there afterwards, or nothing. Of documents that come with
        a past, `kept` has that."""
        id = new_id("p")
        with self._session() as s:
            s.add(ProjectRow(id=id, name=name[:80], created=time.time(), settings=settings))
            s.flush()
            for file, data in files:
                digest = hashlib.sha256(data).hexdigest()
                s.add(BlobRow(project_id=id, id=digest, name=file[:200], data=data))
            for document, content in documents:
                _add_document(s, id, document, content, (kept or {}).get(document))
        return id

    # documents

    def create_document(
        self,
        project: str,
        document: Document,
        id: str | None = None,
        origin: dict[str, Any] | None = None,
    ) -> str:
        """A new document; one with an `origin` is a branch of another."""
        id = id or new_id("d")
        with self._session() as s:
            _project(s, project)
            _add_document(s, project, id, document)
            if origin is not None:
                _document(s, id).origin = origin
        return id

    def document(self, id: str, revision: int | None = None) -> DocumentRecord:
        with self._session() as s:
            return _record(s, _document(s, id), revision)

    def heads(self, project: str) -> dict[str, int]:
        """The revision each document of a project stands at."""
        with self._session() as s:
            asked = select(DocumentRow.id, DocumentRow.head).where(
                DocumentRow.project_id == project
            )
            return {row.id: row.head for row in s.execute(asked)}

    def document_at(self, id: str, revision: int) -> Document:
        """What a document was at a revision. Raises NotFound."""

        def load() -> Document:
            with self._session() as s:
                return load_document(_revision(s, id, revision).data)

        return self._documents.get((id, revision), load)

    def documents_of(self, project: str) -> list[DocumentRecord]:
        with self._session() as s:
            _project(s, project)
            rows = s.scalars(
                select(DocumentRow)
                .where(DocumentRow.project_id == project)
                .order_by(DocumentRow.created)
            ).all()
            return [_record(s, row) for row in rows]

    def delete_document(self, id: str) -> None:
        with self._session() as s:
            _document(s, id)
            s.execute(delete(DocumentRow).where(DocumentRow.id == id))

    def commit(
        self,
        id: str,
        base: int,
        document: Document,
        label: str,
        command: dict[str, Any] | None,
    ) -> DocumentRecord:
        """Write a new revision on top of `base`. Raises Stale when `base` is not the head."""
        with self._session() as s:
            return _write(s, Change(id, base, document, label, command))

    def merge(self, change: Change, branch: str, own: int) -> DocumentRecord:
        """Write the revision that takes a branch in, which has the same as its `own` revision then."""
        with self._session() as s:
            record = _write(s, change)
            row = _document(s, branch)
            assert row.origin is not None
            taken = [*row.origin.get("taken", ()), [record.revision, own]]
            row.origin = {**row.origin, "taken": taken}
            return record

    def commit_all(
        self,
        project: str,
        made: Sequence[tuple[str, Document]],
        changes: Sequence[Change],
    ) -> None:
        """New documents and new revisions: all of it is there afterwards, or nothing. Raises
        Stale when a base is not the head."""
        with self._session() as s:
            _project(s, project)
            for id, document in made:
                _add_document(s, project, id, document)
            for change in changes:
                _write(s, change)

    def commands_since(self, id: str, since: int) -> tuple[DocumentRecord, list[dict[str, Any]]]:
        """The state at a revision and the commands that led from it to the newest one.

        Raises Trouble when the newest does not come from it: it was undone since.
        """
        with self._session() as s:
            row = _document(s, id)
            number: int | None = row.head
            found: list[dict[str, Any]] = []
            while number is not None and number != since:
                revision = _revision(s, id, number)
                found = [*(revision.command or {}).get("commands", ()), *found]
                number = revision.parent
            if number is None:
                raise Trouble(f"revision {since} was undone since; begin again from here")
            return _record(s, row, since), found

    def undo(self, id: str, base: int) -> DocumentRecord:
        """Move to the state before the newest edit. Raises Trouble when there is none."""
        with self._session() as s:
            row = _locked(s, id)
            _fresh(s, row, base)
            parent = _revision(s, id, row.head).parent
            if parent is None:
                raise Trouble("there is nothing to undo")
            return _move(s, row, parent)

    def redo(self, id: str, base: int) -> DocumentRecord:
        with self._session() as s:
            row = _locked(s, id)
            _fresh(s, row, base)
            child = _child(s, id, row.head)
            if child is None:
                raise Trouble("there is nothing to redo")
            return _move(s, row, child.number)

    def revisions(self, id: str) -> list[dict[str, Any]]:
        """All revisions, newest first, without their data."""
        with self._session() as s:
            rows = s.scalars(
                select(RevisionRow)
                .where(RevisionRow.document_id == id)
                .order_by(RevisionRow.number.desc())
            )
            return [
                {"number": r.number, "parent": r.parent, "label": r.label, "created": r.created,
                 "version": r.version, "approved": r.approved}
                for r in rows
            ]  # fmt: skip

    def mark_revision(self, id: str, number: int, **marks: Any) -> None:
        """Give a revision a name (``version``), or say when it was ``approved``; None takes that off."""
        with self._session() as s:
            row = _revision(s, id, number)
            for name, value in marks.items():
                setattr(row, name, value)

    def origin(self, id: str) -> dict[str, Any] | None:
        """Where a branch was branched off: ``document``, ``revision`` there and ``own`` revision; ``taken``
        are the revisions there that took it in, with its own then."""
        with self._session() as s:
            return _document(s, id).origin

    def branches(self, id: str) -> list[tuple[str, str]]:
        """Ids and names of the branches of a document."""
        with self._session() as s:
            asked = select(DocumentRow).where(DocumentRow.origin.is_not(None))
            rows = [r for r in s.scalars(asked) if r.origin and r.origin["document"] == id]
            return [(r.id, r.name) for r in rows]

    # blobs

    def put_blob(self, project: str, name: str, data: bytes) -> str:
        """Keep a file's bytes; the id is their sha256."""
        id = hashlib.sha256(data).hexdigest()
        with self._session() as s:
            _project(s, project)
            if s.get(BlobRow, (project, id)) is None:
                s.add(BlobRow(project_id=project, id=id, name=name[:200], data=data))
        return id

    def blob(self, project: str, id: str) -> bytes:
        with self._session() as s:
            row = s.get(BlobRow, (project, id))
            if row is None:
                raise NotFound("the stored file is not in this project")
            return row.data

    def blobs(self, project: str) -> list[tuple[str, str, bytes]]:
        with self._session() as s:
            rows = s.scalars(
                select(BlobRow).where(BlobRow.project_id == project).order_by(BlobRow.id)
            )
            return [(r.id, r.name, r.data) for r in rows]

    # jobs

    def put_job(self, kind: str, key: str, document: str, request: dict[str, Any]) -> JobRecord:
        id = new_id("j")
        with self._session() as s:
            _document(s, document)
            row = JobRow(id=id, key=key, kind=kind, document_id=document, state="queued",
                         progress=0.0, stage="", request=request, created=time.time())  # fmt: skip
            s.add(row)
            s.flush()
            return _job(row)

    def job(self, id: str) -> JobRecord:
        with self._session() as s:
            row = s.get(JobRow, id)
            if row is None:
                raise NotFound("there is no such job")
            return _job(row)

    def jobs(self, document: str | None = None, states: Sequence[str] = ()) -> list[JobRecord]:
        """Newest first; but for those that are forgotten."""
        with self._session() as s:
            query = (
                select(JobRow)
                .where(JobRow.state != "forgotten")
                .order_by(JobRow.created.desc())
                .limit(200)
            )
            if document:
                query = query.where(JobRow.document_id == document)
            if states:
                query = query.where(JobRow.state.in_(states))
            return [_job(r) for r in s.scalars(query)]

    def job_by_key(
        self, key: str, states: Sequence[str] = ("done", "running", "queued")
    ) -> JobRecord | None:
        """The newest job with that content key in one of some states."""
        with self._session() as s:
            row = s.scalars(
                select(JobRow)
                .where(JobRow.key == key, JobRow.state.in_(states))
                .order_by(JobRow.created.desc())
                .limit(1)
            ).first()
            return _job(row) if row else None

    def clear_forgotten(self) -> None:
        """Jobs that count as never asked for are kept for those who still ask what became of them: let go
        when nobody can."""
        with self._session() as s:
            s.execute(delete(JobRow).where(JobRow.state == "forgotten"))

    def renew_job(self, id: str) -> JobRecord:
        """A job as if it had been asked only now: the newest of its document."""
        with self._session() as s:
            s.execute(update(JobRow).where(JobRow.id == id).values(created=time.time()))
        return self.job(id)

    def job_before(self, job: JobRecord) -> JobRecord | None:
        """The newest done job that was asked the same way of the same document before this one, and
        asked something else."""
        with self._session() as s:
            rows = s.scalars(
                select(JobRow)
                .where(
                    JobRow.document_id == job.document,
                    JobRow.kind == job.kind,
                    JobRow.state == "done",
                    JobRow.created < job.created,
                    JobRow.key != job.key,
                )
                .order_by(JobRow.created.desc())
                .limit(20)
            )
            return next((_job(r) for r in rows if r.request == job.request), None)

    # files handed out

    def put_written(
        self, document: str, form: str, revision: int, stands: Mapping[str, str]
    ) -> None:
        """Keep that files of rows of a document were handed out, each of what it was."""
        with self._session() as s:
            for row, stand in stands.items():
                s.merge(WrittenRow(
                    document_id=document, row=row, form=form, stand=stand, revision=revision,
                    at=time.time(),
                ))  # fmt: skip

    def written(self, document: str) -> list[Written]:
        """What was handed out last of each row and form, the oldest first."""
        with self._session() as s:
            asked = select(WrittenRow).where(WrittenRow.document_id == document)
            return [
                Written(r.row, r.form, r.stand, r.revision, r.at)
                for r in s.scalars(asked.order_by(WrittenRow.at))
            ]

    # checks

    def put_check_results(self, results: Sequence[CheckRecord]) -> None:
        """Keep what checks of a document found, each after what it found before; in the place of that where
        nothing had changed. A document that is gone by now keeps nothing."""
        if not results:
            return
        with self._session() as s:
            if s.get(DocumentRow, results[0].document) is None:
                return
            for found in results:
                _keep_found(s, found)

    def last_check_results(self, document: str, variant: str = "") -> dict[str, CheckRecord]:
        """What each check of a document, or of a member of it, found last, at whatever revision."""
        with self._session() as s:
            newest = (
                select(func.max(CheckRow.id))
                .where(CheckRow.document_id == document, CheckRow.variant == variant)
                .group_by(CheckRow.check_id)
            )
            rows = s.scalars(select(CheckRow).where(CheckRow.id.in_(newest)))
            return {row.check_id: _found(row) for row in rows}

    def check_results(self, document: str, check: str) -> list[CheckRecord]:
        """All that a check found, oldest first."""
        with self._session() as s:
            return [_found(r) for r in s.scalars(_found_by(document, check).order_by(CheckRow.id))]

    def update_job(self, id: str, **changes: Any) -> bool:
        """Change a job's row. A job that has ended stays as it ended: late news of a worker change
        nothing. Returns whether the row was changed."""
        with self._session() as s:
            alive = JobRow.state.in_(("queued", "running"))
            done = s.execute(update(JobRow).where(JobRow.id == id, alive).values(**changes))
            return bool(cast("CursorResult[Any]", done).rowcount)


def _found_by(document: str, check: str) -> Select[CheckRow]:
    return select(CheckRow).where(CheckRow.document_id == document, CheckRow.check_id == check)


def _keep_found(s: Session, found: CheckRecord) -> None:
    mine = _found_by(found.document, found.check).where(CheckRow.variant == found.variant)
    newest = mine.order_by(CheckRow.id.desc())
    row = s.scalars(newest.limit(1)).first()
    if row is None or row.state_of != found.state_of:
        row = CheckRow(document_id=found.document, check_id=found.check, variant=found.variant)
        s.add(row)
    row.revision, row.state_of, row.answer = found.revision, found.state_of, found.answer
    row.reached, row.created = found.reached, time.time()
    s.flush()
    for old in s.scalars(newest.offset(MOST_FOUND)):
        s.delete(old)


def _found(row: CheckRow) -> CheckRecord:
    return CheckRecord(
        row.document_id, row.check_id, row.revision, row.state_of, dict(row.answer), row.variant,
        dict(row.reached), row.created,
    )  # fmt: skip


def _prepare(connection: Any, _record: Any) -> None:
    cursor = connection.cursor()
    for pragma in (
        "journal_mode=WAL",
        "synchronous=FULL",
        "foreign_keys=ON",
        "busy_timeout=30000",
    ):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


def _project(s: Session, id: str) -> ProjectRow:
    row = s.get(ProjectRow, id)
    if row is None:
        raise NotFound("there is no such project")
    return row


def _add_document(
    s: Session, project: str, id: str, document: Document, past: Past | None = None
) -> None:
    past, now = past or Past(), time.time()
    s.add(
        DocumentRow(id=id, project_id=project, kind=document.kind, name=document.name, head=past.head,
                    created=now, changed=now)
    )  # fmt: skip
    s.flush()
    rows = [*past.before, (past.head, document, past.version, past.approved)]
    for number, content, version, approved in rows:
        s.add(
            RevisionRow(document_id=id, number=number, parent=None, label="made", command=None,
                        data=dump(content), created=now, version=version, approved=approved)
        )  # fmt: skip


def _document(s: Session, id: str) -> DocumentRow:
    row = s.get(DocumentRow, id)
    if row is None:
        raise NotFound("there is no such document")
    return row


def _locked(s: Session, id: str) -> DocumentRow:
    """The row, with the write lock taken first so that two edits cannot both see the head."""
    s.execute(update(DocumentRow).where(DocumentRow.id == id).values(head=DocumentRow.head))
    return _document(s, id)


def _revision(s: Session, id: str, number: int) -> RevisionRow:
    row = s.get(RevisionRow, (id, number))
    if row is None:
        raise NotFound(f"there is no revision {number} of this document")
    return row


def _write(s: Session, change: Change) -> DocumentRecord:
    row = _locked(s, change.id)
    _fresh(s, row, change.base)
    newest = s.scalar(
        select(func.max(RevisionRow.number)).where(RevisionRow.document_id == change.id)
    )
    number = (newest or 0) + 1
    s.add(
        RevisionRow(document_id=change.id, number=number, parent=row.head,
                    label=change.label[:200], command=change.command,
                    data=dump(change.document), created=time.time())
    )  # fmt: skip
    row.head, row.name, row.changed = number, change.document.name, time.time()
    s.flush()
    return _written(s, row)


class _Short(NamedTuple):
    """What is told of a revision. The rest stands behind its large columns, and reading past those
    takes longer than all else a drag asks for."""

    number: int
    parent: int | None
    label: str


_SHORT = (RevisionRow.number, RevisionRow.parent, RevisionRow.label)


def _short(s: Session, id: str, number: int) -> _Short:
    found = s.execute(
        select(*_SHORT).where(RevisionRow.document_id == id, RevisionRow.number == number)
    ).first()
    if found is None:
        raise NotFound(f"there is no revision {number} of this document")
    return _Short(*found)


def _child(s: Session, id: str, number: int) -> _Short | None:
    found = s.execute(
        select(*_SHORT)
        .where(RevisionRow.document_id == id, RevisionRow.parent == number)
        .order_by(RevisionRow.number.desc())
        .limit(1)
    ).first()
    return _Short(*found) if found is not None else None


def _fresh(s: Session, row: DocumentRow, base: int) -> None:
    if row.head == base:
        return
    since = s.scalars(
        select(RevisionRow.label)
        .where(RevisionRow.document_id == row.id, RevisionRow.number > base)
        .order_by(RevisionRow.number)
    ).all()
    what = ", ".join(since[-3:]) or "an undo"
    raise Stale(
        f"this document changed in the meantime ({what}); your edit was not applied",
        row.head,
        since,
    )


def _move(s: Session, row: DocumentRow, number: int) -> DocumentRecord:
    row.head, row.changed = number, time.time()
    row.name = _revision(s, row.id, number).data["name"]
    s.flush()
    return _written(s, row)


def _record(s: Session, row: DocumentRow, revision: int | None = None) -> DocumentRecord:
    """A revision that is on disk. What a session is about to write is told by `_written`: it may
    still be taken back."""
    at = _short(s, row.id, revision if revision is not None else row.head)
    documents: Lately[tuple[str, int], Document] = s.info["documents"]
    document = documents.get(
        (row.id, at.number), lambda: load_document(_revision(s, row.id, at.number).data)
    )
    return _told(s, row, at, document)


def _written(s: Session, row: DocumentRow) -> DocumentRecord:
    at = _short(s, row.id, row.head)
    return _told(s, row, at, load_document(_revision(s, row.id, row.head).data))


def _told(s: Session, row: DocumentRow, at: _Short, document: Document) -> DocumentRecord:
    after = _child(s, row.id, at.number)
    return DocumentRecord(
        id=row.id,
        project=row.project_id,
        kind=row.kind,
        revision=at.number,
        document=document,
        undo=at.label if at.parent is not None else None,
        redo=after.label if after else None,
    )


def _job(row: JobRow) -> JobRecord:
    return JobRecord(
        id=row.id, key=row.key, kind=row.kind, document=row.document_id, state=row.state,
        progress=row.progress, stage=row.stage, request=row.request, result=row.result,
        error=row.error, created=row.created,
    )  # fmt: skip
