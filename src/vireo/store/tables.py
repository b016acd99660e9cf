"""Tables. A change here needs a migration beside it."""

from __future__ import annotations

from typing import Any

from sqlalchemy import JSON, Float, ForeignKey, Index, Integer, LargeBinary, String, Text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    pass


class ProjectRow(Base):
    __tablename__ = "projects"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    created: Mapped[float] = mapped_column(Float)
    #: User materials and other project-wide data.
    settings: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)


class DocumentRow(Base):
    __tablename__ = "documents"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    project_id: Mapped[str] = mapped_column(
        ForeignKey("projects.id", ondelete="CASCADE"), index=True
    )
    kind: Mapped[str] = mapped_column(String(16))
    name: Mapped[str] = mapped_column(String(80))
    #: Number of the revision the document stands at.
    head: Mapped[int] = mapped_column(Integer)
    created: Mapped[float] = mapped_column(Float)
    changed: Mapped[float] = mapped_column(Float)
    #: Of a branch: the ``document`` it was branched off, at which ``revision``, and which of its ``own``
    #: revisions had the same then; ``taken`` are the revisions there that took it in, with its own then.
    origin: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), nullable=True)


class RevisionRow(Base):
    """A whole document as one edit left it; undo and redo move `documents.head` along them."""

    __tablename__ = "revisions"
    document_id: Mapped[str] = mapped_column(
        ForeignKey("documents.id", ondelete="CASCADE"), primary_key=True
    )
    number: Mapped[int] = mapped_column(Integer, primary_key=True)
    parent: Mapped[int | None] = mapped_column(Integer, nullable=True)
    label: Mapped[str] = mapped_column(String(200))
    #: The command and the document are large: read only by those who ask for them.
    command: Mapped[dict[str, Any] | None] = mapped_column(JSON, nullable=True, deferred=True)
    data: Mapped[dict[str, Any]] = mapped_column(JSON, deferred=True)
    created: Mapped[float] = mapped_column(Float)
    #: Set when the engineer named this state.
    version: Mapped[str | None] = mapped_column(String(80), nullable=True)
    #: When it was approved.
    approved: Mapped[float | None] = mapped_column(Float, nullable=True)


class BlobRow(Base):
    __tablename__ = "blobs"
    project_id: Mapped[str] = mapped_column(
        ForeignKey("projects.id", ondelete="CASCADE"), primary_key=True
    )
    #: sha256 of the content.
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    data: Mapped[bytes] = mapped_column(LargeBinary)


class CheckRow(Base):
    """What a check found of its document, or of a member of it: one row for each state it found
    something at; `state_of` keys that, `reached` are the revisions of all that took part."""

    __tablename__ = "check_results"
    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("documents.id", ondelete="CASCADE"))
    check_id: Mapped[str] = mapped_column(String(24))
    variant: Mapped[str] = mapped_column(Text, default="")
    revision: Mapped[int] = mapped_column(Integer)
    state_of: Mapped[str] = mapped_column(String(40))
    answer: Mapped[dict[str, Any]] = mapped_column(JSON)
    reached: Mapped[dict[str, int]] = mapped_column(JSON, default=dict)
    created: Mapped[float] = mapped_column(Float)
    __table_args__ = (Index("ix_check_results", "document_id", "check_id"),)


class WrittenRow(Base):
    """A file that was handed out of a member of a document, by the row of its variants ("" as drawn) and
    the form of the file: at which revision, and of what (`stand`)."""

    __tablename__ = "written"
    document_id: Mapped[str] = mapped_column(
        ForeignKey("documents.id", ondelete="CASCADE"), primary_key=True
    )
    row: Mapped[str] = mapped_column(String(24), primary_key=True)
    form: Mapped[str] = mapped_column(String(16), primary_key=True)
    stand: Mapped[str] = mapped_column(String(40))
    revision: Mapped[int] = mapped_column(Integer)
    at: Mapped[float] = mapped_column(Float)


class JobRow(Base):
    __tablename__ = "jobs"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    #: Content key: the same question asked again gets the same answer.
    key: Mapped[str] = mapped_column(String(64))
    kind: Mapped[str] = mapped_column(String(24))
    document_id: Mapped[str] = mapped_column(
        ForeignKey("documents.id", ondelete="CASCADE"), index=True
    )
    state: Mapped[str] = mapped_column(String(12))
    progress: Mapped[float] = mapped_column(Float, default=0.0)
    stage: Mapped[str] = mapped_column(Text, default="")
    request: Mapped[dict[str, Any]] = mapped_column(JSON)
    result: Mapped[dict[str, Any] | None] = mapped_column(JSON, nullable=True)
    error: Mapped[dict[str, Any] | None] = mapped_column(JSON, nullable=True)
    created: Mapped[float] = mapped_column(Float)
    __table_args__ = (Index("ix_jobs_key", "key"),)
