"""Projects, documents, revisions, blobs, jobs."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def _belongs_to(table: str, column: str, primary: bool = False) -> sa.Column[str]:
    return sa.Column(
        column, sa.String(40), sa.ForeignKey(f"{table}.id", ondelete="CASCADE"), nullable=False,
        primary_key=primary,
    )  # fmt: skip


def upgrade() -> None:
    op.create_table(
        "projects",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("created", sa.Float, nullable=False),
        sa.Column("settings", sa.JSON, nullable=False),
    )
    op.create_table(
        "documents",
        sa.Column("id", sa.String(40), primary_key=True),
        _belongs_to("projects", "project_id"),
        sa.Column("kind", sa.String(16), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("head", sa.Integer, nullable=False),
        sa.Column("created", sa.Float, nullable=False),
        sa.Column("changed", sa.Float, nullable=False),
    )
    op.create_index("ix_documents_project_id", "documents", ["project_id"])
    op.create_table(
        "revisions",
        _belongs_to("documents", "document_id", primary=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("parent", sa.Integer),
        sa.Column("label", sa.String(200), nullable=False),
        sa.Column("command", sa.JSON),
        sa.Column("data", sa.JSON, nullable=False),
        sa.Column("created", sa.Float, nullable=False),
        sa.Column("version", sa.String(80)),
    )
    op.create_table(
        "blobs",
        _belongs_to("projects", "project_id", primary=True),
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
    op.create_table(
        "jobs",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("kind", sa.String(24), nullable=False),
        _belongs_to("documents", "document_id"),
        sa.Column("state", sa.String(12), nullable=False),
        sa.Column("progress", sa.Float, nullable=False),
        sa.Column("stage", sa.Text, nullable=False),
        sa.Column("request", sa.JSON, nullable=False),
        sa.Column("result", sa.JSON),
        sa.Column("error", sa.JSON),
        sa.Column("created", sa.Float, nullable=False),
    )
    op.create_index("ix_jobs_document_id", "jobs", ["document_id"])
    op.create_index("ix_jobs_key", "jobs", ["key"])


def downgrade() -> None:
    for table in ("jobs", "blobs", "revisions", "documents", "projects"):
        op.drop_table(table)
