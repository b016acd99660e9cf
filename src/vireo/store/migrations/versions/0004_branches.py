"""Revisions that are approved, and documents that were branched off others."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("revisions", sa.Column("approved", sa.Float(), nullable=True))
    op.add_column("documents", sa.Column("origin", sa.JSON(), nullable=True))


def downgrade() -> None:
    op.drop_column("documents", "origin")
    op.drop_column("revisions", "approved")
